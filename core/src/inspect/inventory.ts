import { FORMATS, type Outlined } from '../formats/index.ts';
import type { CourseLink } from './links.ts';
import {
  isOneFile,
  holdsQuestions,
  writtenMoment,
  ITEM_KINDS,
  filesOf,
  subjects,
  walkOutline,
  DATE_SETTINGS,
  type Course,
  type ItemKind,
  type QuestionType,
} from '../model/index.ts';

export interface KindCount {
  kind: ItemKind;
  items: number;
  /** Bytes of the files that items of this kind are made of or use; a file that two kinds use counts for the first. */
  bytes: number;
}

/** Counts and sizes of a course. */
export interface Inventory {
  items: number;
  folders: number;
  depth: number;
  /** Leaves of the outline. */
  entries: number;
  kinds: KindCount[];
  questions: { type: QuestionType; count: number }[];
  /** Content files, pages among them. */
  files: number;
  bytes: number;
  byMedia: { mediaType: string; files: number; bytes: number }[];
  /** Content files that no item is made of or uses. */
  unused: string[];
  unusedBytes: number;
  /** The biggest content files, the biggest first, with the item that is or uses each. */
  biggest: { path: string; size: number; mediaType: string; item: string | null }[];
  /** First and last of the dates that items, folders and further places bear, and how many bear any. */
  dates: { from: string; to: string; items: number } | null;
  /** Sites that texts and links lead to. */
  hosts: { host: string; links: number }[];
  tools: { host: string; items: number }[];
  languages: { language: string; pages: number }[];
  licence: string | null;
  /** What of the package no reader took, by its name, the most frequent first; `null` where that is not counted. */
  unread: UnreadCount[] | null;
}

export interface UnreadCount {
  name: string;
  times: number;
  places: { file: string; line: number; item: string | null }[];
}

/** How many places are named of what is not read. */
const UNREAD_PLACES = 20;

/** How many of the biggest files an inventory names. */
const BIGGEST = 200;

/** Counts that the outline gives, before anything that is in it is read. */
export interface OutlineCounts extends Pick<Inventory, 'items' | 'folders' | 'depth' | 'entries' | 'files' | 'bytes'> {
  kinds: Partial<Record<ItemKind, number>>;
}

export function countOutline({ outline, items, files }: Pick<Outlined, 'outline' | 'items' | 'files'>): OutlineCounts {
  let folders = 0;
  let entries = 0;
  let depth = 0;
  for (const { node, depth: at } of walkOutline(outline)) {
    if (node.item === undefined) {
      folders++;
      depth = Math.max(depth, at + 1);
    } else entries++;
  }
  const content = files.filter((f) => f.role === 'content');
  const counts = countBy(items, (i) => i.kind);
  return {
    items: items.length,
    folders,
    entries,
    depth,
    files: content.length,
    bytes: content.reduce((sum, f) => sum + f.size, 0),
    kinds: Object.fromEntries(ITEM_KINDS.flatMap((kind) => (counts.has(kind) ? [[kind, counts.get(kind)]] : []))),
  };
}

/** How many questions there are of each type. */
export function countQuestions({ items }: Pick<Course, 'items'>): Inventory['questions'] {
  const questions = items.flatMap((i) => (holdsQuestions(i) ? i.questions : []));
  return [...countBy(questions, (q) => q.type)].map(([type, count]) => ({ type, count }));
}

/**
 * `links`, where a survey found them, tell which files pages use that are no part of any item (style sheets), and to
 * which sites they lead; `languages` is what its pages say of themselves.
 */
export function inventory(
  course: Course,
  links: readonly CourseLink[] = [],
  languages: ReadonlyMap<string, number> = new Map(),
): Inventory {
  const content = course.files.filter((f) => f.role === 'content');
  const sizes = new Map(content.map((f) => [f.path, f.size]));
  const owner = new Map<string, ItemKind>();
  // A file belongs first to the item that it is, then to those that use it.
  for (const item of course.items) if (isOneFile(item)) owner.set(item.file, item.kind);
  for (const item of course.items) {
    for (const path of filesOf(item)) if (!owner.has(path)) owner.set(path, item.kind);
  }
  // A file is first of all the item that it is, then of what uses it.
  const users = new Map<string, string>();
  for (const item of course.items) if (isOneFile(item)) users.set(item.file, item.id);
  for (const item of course.items) for (const path of filesOf(item)) if (!users.has(path)) users.set(path, item.id);
  const linked = new Set(links.map((l) => l.path));
  const bytes = new Map<ItemKind, number>();
  for (const [path, kind] of owner) bytes.set(kind, (bytes.get(kind) ?? 0) + (sizes.get(path) ?? 0));
  const { kinds, ...counts } = countOutline(course);
  const media = new Map<string, { mediaType: string; files: number; bytes: number }>();
  for (const file of content) {
    const at = media.get(file.mediaType) ?? { mediaType: file.mediaType, files: 0, bytes: 0 };
    at.files++;
    at.bytes += file.size;
    media.set(file.mediaType, at);
  }
  const unused = content.filter((f) => !owner.has(f.path) && !linked.has(f.path));
  return {
    ...counts,
    kinds: ITEM_KINDS.flatMap((kind) => {
      const items = kinds[kind];
      return items === undefined ? [] : [{ kind, items, bytes: bytes.get(kind) ?? 0 }];
    }),
    questions: countQuestions(course),
    byMedia: [...media.values()].sort((a, b) => b.bytes - a.bytes),
    unused: unused.map((f) => f.path),
    unusedBytes: unused.reduce((sum, f) => sum + f.size, 0),
    biggest: [...content]
      .sort((a, b) => b.size - a.size)
      .slice(0, BIGGEST)
      .map(({ path, size, mediaType }) => ({ path, size, mediaType, item: users.get(path) ?? null })),
    dates: datesOf(course),
    hosts: hostsOf(course, links),
    tools: [
      ...countBy(
        course.items.filter((i) => i.kind === 'tool'),
        (i) => hostOf(i.kind === 'tool' ? i.url : ''),
      ),
    ]
      .map(([host, items]) => ({ host, items }))
      .sort((a, b) => b.items - a.items),
    languages: [...languages].map(([language, pages]) => ({ language, pages })).sort((a, b) => b.pages - a.pages),
    licence: course.metadata.rights ?? null,
    unread: unreadIn(course),
  };
}

function datesOf(course: Course): Inventory['dates'] {
  let bearing = 0;
  let from = '';
  let to = '';
  for (const { settings } of subjects(course, { withCourse: false })) {
    const dates = DATE_SETTINGS.flatMap((name) => settings[name] ?? []).filter((date) => date.is !== 'unread');
    if (dates.length > 0) bearing++;
    for (const date of dates) {
      const written = writtenMoment(date);
      if (from === '' || written < from) from = written;
      if (written > to) to = written;
    }
  }
  return bearing === 0 ? null : { from, to, items: bearing };
}

function unreadIn(course: Course): Inventory['unread'] {
  if (!FORMATS.some((format) => format.id === course.origin.format && format.countsUnread)) return null;
  const byName = new Map<string, UnreadCount>();
  for (const { settings, item } of subjects(course)) {
    for (const { name, times, file, line } of settings.unread ?? []) {
      const at = byName.get(name) ?? { name, times: 0, places: [] };
      byName.set(name, at);
      at.times += times;
      if (at.places.length < UNREAD_PLACES) at.places.push({ file, line, item: item?.id ?? null });
    }
  }
  return [...byName.values()].sort((a, b) => b.times - a.times);
}

function hostOf(address: string): string {
  return /^(?:https?:)?\/\/([^/?#]+)/i.exec(address)?.[1]?.toLowerCase() ?? address;
}

function hostsOf({ items }: Course, links: readonly CourseLink[]): Inventory['hosts'] {
  const outside = links.filter((l) => l.path === null && /^(https?:)?\/\//i.test(l.value)).map((l) => l.value);
  const web = items.flatMap((i) => (i.kind === 'link' ? [i.url] : []));
  return [...countBy([...outside, ...web], hostOf)]
    .map(([host, count]) => ({ host, links: count }))
    .sort((a, b) => b.links - a.links);
}

function countBy<T, K>(list: readonly T[], key: (item: T) => K): Map<K, number> {
  const counts = new Map<K, number>();
  for (const item of list) counts.set(key(item), (counts.get(key(item)) ?? 0) + 1);
  return counts;
}
