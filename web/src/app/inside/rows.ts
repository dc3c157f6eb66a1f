import {
  DATE_SETTINGS,
  timeOf,
  holdsQuestions,
  KIND_LABELS,
  count,
  filesOf,
  readableSize,
  subjects,
  walkOutline,
  type Course,
  type Item,
  type OutlineNode,
  type Subject,
  readableDay,
} from '@treenail/core';
import type { RelationsAnswer } from '@treenail/server/contract';

/** A row of the outline pane. */
export interface Row {
  key: string;
  title: string;
  depth: number;
  item: Item | null;
  /** A folder, or a further place of an item, of which something is set. */
  place: Pick<Subject, 'kind' | 'title' | 'settings'> | null;
  /** What stands at the right. */
  detail: string;
  /** Folders can be folded. */
  folder: boolean;
  closed: boolean;
}

/** The orders in which a course can be gone through. */
export const ORDERS = {
  place: 'as its author built it',
  kind: 'by kind',
  size: 'the biggest first',
  state: 'by who sees it',
  date: 'by date',
  links: 'by what points at it',
} as const;
export type Order = keyof typeof ORDERS;

const row = (key: string, title: string, more: Partial<Row> = {}): Row => ({
  key,
  title,
  depth: 0,
  item: null,
  place: null,
  detail: '',
  folder: false,
  closed: false,
  ...more,
});

export interface RowsOptions {
  order: Order;
  /** Kind of item to be shown alone. */
  only: string | null;
  closed: ReadonlySet<string>;
  relations: RelationsAnswer | null;
}

/** Bytes of the files that each item is made of or uses. */
export function sizesOf(course: Course): ReadonlyMap<string, number> {
  const bySize = new Map(course.files.map((f) => [f.path, f.size]));
  return new Map(course.items.map((i) => [i.id, filesOf(i).reduce((sum, path) => sum + (bySize.get(path) ?? 0), 0)]));
}

export function rowsOf(course: Course, options: RowsOptions): Row[] {
  const { order, only } = options;
  if (order === 'place' && only === null) return tree(course, options.closed);
  const items = course.items.filter((i) => only === null || i.kind === only);
  const titles = titlesOf(course);
  const plain = (item: Item, detail = kindWords(item)) =>
    row(`item:${item.id}`, titles.get(item.id) ?? item.title, { item, detail, depth: 1 });
  switch (order) {
    case 'place': {
      const shown = new Set(items.map((i) => i.id));
      return subjects(course).flatMap((s) =>
        s.item && shown.has(s.item.id) ? [{ ...plain(s.item), title: s.title, depth: 0 }] : [],
      );
    }
    case 'kind':
      return grouped(items, (i) => KIND_LABELS[i.kind], plain);
    case 'size': {
      const sizes = sizesOf(course);
      const size = (i: Item) => sizes.get(i.id) ?? 0;
      return [...items]
        .sort((a, b) => size(b) - size(a))
        .map((i) => ({ ...plain(i, readableSize(size(i))), depth: 0 }));
    }
    case 'state':
      return grouped(items, stateWords, plain);
    case 'date': {
      const shown = datedIn(course).filter(({ item }) => only === null || item?.kind === only);
      const dated = shown.flatMap(({ dates, ...of }) => dates.map((date) => ({ ...of, ...date })));
      dated.sort((a, b) => a.time - b.time);
      const months = new Map<string, Row[]>();
      for (const { key, item, place, title, name, time } of dated) {
        const month = new Date(time).toISOString().slice(0, 7);
        const list = months.get(month) ?? [];
        list.push(row(`${key}:${name}`, title, { item, place, detail: `${name} ${readableDay(time)}`, depth: 1 }));
        months.set(month, list);
      }
      const without = items.filter((i) => datesOf(i).length === 0);
      return [
        ...[...months].flatMap(([month, rows]) => [row(`month:${month}`, monthWords(month)), ...rows]),
        ...(without.length > 0 ? [row('none', `${count(without.length, 'item')} without a date`)] : []),
        ...without.map((i) => plain(i)),
      ];
    }
    case 'links': {
      const at = (item: Item) => options.relations?.pointedAtBy[item.id]?.length ?? 0;
      const from = (item: Item) => options.relations?.pointsAt[item.id]?.length ?? 0;
      return [...items]
        .sort((a, b) => at(b) - at(a))
        .map((i) => ({
          ...plain(i, `${at(i) === 0 ? 'nothing points' : `${at(i)} point`} at it, it points at ${from(i)}`),
          depth: 0,
        }));
    }
  }
}

function tree(course: Course, closed: ReadonlySet<string>): Row[] {
  const items = new Map(course.items.map((i) => [i.id, i]));
  const rows: Row[] = [];
  let hiddenBelow = Infinity;
  const seen = new Set<string>();
  for (const { node, depth } of walkOutline(course.outline)) {
    if (depth > hiddenBelow) {
      if (node.item !== undefined) seen.add(node.item);
      continue;
    }
    hiddenBelow = Infinity;
    const key = `node:${node.id}`;
    const item = node.item === undefined ? null : (items.get(node.item) ?? null);
    const isAgain = item !== null && seen.has(item.id);
    if (item) seen.add(item.id);
    const folder = node.children.length > 0;
    const isClosed = folder && closed.has(key);
    if (isClosed) hiddenBelow = depth;
    const words = item ? kindWords(item) : node.heading === true ? '' : count(leavesIn(node), 'item');
    const detail = isAgain ? `${words}, once more` : words;
    const place = node.settings
      ? { kind: item ? ('occurrence' as const) : ('folder' as const), title: node.title, settings: node.settings }
      : null;
    rows.push(row(key, node.title, { depth, item, place, detail, folder, closed: isClosed }));
  }
  const loose = course.items.filter((i) => !seen.has(i.id));
  if (loose.length === 0) return rows;
  const isClosed = closed.has('loose');
  rows.push(
    row('loose', 'In no place of the outline', { folder: true, closed: isClosed, detail: count(loose.length, 'item') }),
  );
  if (!isClosed)
    rows.push(...loose.map((i) => row(`item:${i.id}`, i.title, { depth: 1, item: i, detail: kindWords(i) })));
  return rows;
}

function leavesIn(node: OutlineNode): number {
  let found = 0;
  const stack = [...node.children];
  for (let next = stack.pop(); next; next = stack.pop()) {
    if (next.item !== undefined) found++;
    stack.push(...next.children);
  }
  return found;
}

export function kindWords(item: Item): string {
  return holdsQuestions(item)
    ? `${KIND_LABELS[item.kind]}, ${count(item.questions.length, 'question')}`
    : KIND_LABELS[item.kind];
}

function titlesOf(course: Course): Map<string, string> {
  const titles = new Map<string, string>();
  for (const { node } of walkOutline(course.outline)) {
    if (node.item !== undefined && !titles.has(node.item)) titles.set(node.item, node.title);
  }
  return titles;
}

function grouped(items: readonly Item[], by: (item: Item) => string, plain: (item: Item) => Row): Row[] {
  const groups = new Map<string, Item[]>();
  for (const item of items) {
    const group = by(item);
    const list = groups.get(group);
    if (list) list.push(item);
    else groups.set(group, [item]);
  }
  return [...groups].flatMap(([name, list]) => [
    row(`group:${name}`, name, { detail: count(list.length, 'item') }),
    ...list.map((i) => plain(i)),
  ]);
}

export function stateWords({ settings }: Item): string {
  if (settings.hidden === true) return 'hidden';
  if (typeof settings.audience === 'string') return `shown to ${settings.audience}`;
  if (settings.visibleWhen !== undefined) return 'shown on a condition';
  if (settings.onlyFor !== undefined) return 'shown to a group';
  if (settings.opens !== undefined) return 'shown from a day on';
  return 'shown to everybody';
}

export type DateName = (typeof DATE_SETTINGS)[number];

/** The dates that an item or a place bears, in ms since 1970, the earliest first. */
export function datesOf({ settings }: Pick<Item, 'settings'>): { name: DateName; time: number }[] {
  return DATE_SETTINGS.flatMap((name) => {
    const moment = settings[name];
    const time = moment === undefined ? null : timeOf(moment);
    return time === null ? [] : [{ name, time }];
  }).sort((a, b) => a.time - b.time);
}

/** What bears dates: an item where it stands first, or a folder or further place with dates of its own. */
export interface Dated extends Pick<Row, 'key' | 'title' | 'item' | 'place'> {
  dates: { name: DateName; time: number }[];
}

export function datedIn(course: Course): Dated[] {
  const items = new Map(course.items.map((i) => [i.id, i]));
  return subjects(course, { withCourse: false }).flatMap((subject): Dated[] => {
    const { key, title, placed } = subject;
    const dates = datesOf(subject);
    if (dates.length === 0) return [];
    if (subject.item) return [{ key, title, item: subject.item, place: null, dates }];
    return [{ key, title, item: items.get(placed?.node.item ?? '') ?? null, place: subject, dates }];
  });
}

function monthWords(month: string): string {
  return new Date(`${month}-15T12:00:00Z`).toLocaleDateString('en-GB', {
    month: 'long',
    year: 'numeric',
    timeZone: 'UTC',
  });
}
