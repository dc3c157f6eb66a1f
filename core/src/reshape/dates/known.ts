import * as z from 'zod';
import { Finding } from '../../inspect/index.ts';
import {
  Moment,
  SubjectKind,
  itemsById,
  subjects,
  walkOutline,
  type Condition,
  type Course,
  type Settings,
  type Subject,
} from '../../model/index.ts';

/** What a date says of what bears it. */
export const DATE_NAMES = ['posted', 'opens', 'due', 'closes', 'session', 'from', 'until', 'on', 'written'] as const;
export const DateName = z.enum(DATE_NAMES);
export type DateName = z.infer<typeof DateName>;

/** What they are called where a person chooses among them. */
export const DATE_NAME_LABELS: Readonly<Record<DateName, string>> = {
  posted: 'posted',
  opens: 'opens',
  due: 'due',
  closes: 'closes',
  session: 'session',
  from: 'shown from',
  until: 'shown until',
  on: 'calendar',
  written: 'in a text',
};

/** A date of a course, with where it stands. */
export const KnownDate = z.object({
  /** The same for the same date found again. */
  key: z.string(),
  name: DateName,
  kind: SubjectKind,
  title: z.string(),
  /** The item that bears it; `null` of folders, further places, files and the course. */
  item: z.string().nullable(),
  node: z.string().nullable(),
  /** Identifiers of the folders that it stands in, the outermost first. */
  folders: z.array(z.string()),
  at: Moment,
  /** Items that have to be done, visited or scored in first, by their identifiers. */
  needs: z.array(z.string()),
});
export type KnownDate = z.infer<typeof KnownDate>;

/** A date that stands in a text, with the item in which it does. */
export const WrittenDate = z.object({ finding: Finding, kind: SubjectKind, folders: z.array(z.string()) });
export type WrittenDate = z.infer<typeof WrittenDate>;

const PLAIN = ['posted', 'opens', 'due', 'closes'] as const;

/** Every date that is set in a course, of items, folders, further places and the course itself. */
export function datesOf(course: Course): KnownDate[] {
  const folders = foldersOf(course);
  const found: KnownDate[] = [];
  let known: ReadonlySet<string> | null = null;
  const items = () => (known ??= new Set(course.items.map((item) => item.id)));
  for (const subject of subjects(course)) {
    const { settings } = subject;
    if (!bearsDates(settings)) continue;
    const common = {
      kind: subject.kind,
      title: subject.title,
      item: subject.item?.id ?? null,
      node: subject.item ? null : (subject.placed?.node.id ?? null),
      folders: folders.get(subject.placed?.node.id ?? '') ?? [],
      needs: neededBy(subject, items),
    };
    const add = (path: string, name: DateName, at: Moment) =>
      found.push({ ...common, key: `${subject.key} ${path}`, name, at });
    for (const name of PLAIN) {
      const at = settings[name];
      if (at !== undefined) add(name, name, at);
    }
    settings.sessions?.forEach((at, i) => add(`sessions.${i}`, 'session', at));
    eachDateIn(settings.visibleWhen ?? [], (path, { side, at }) => add(`visibleWhen.${path}`, side, at));
  }
  return found;
}

/** Dates in texts, with where their items stand. */
export function writtenDates(course: Course, findings: readonly Finding[]): WrittenDate[] {
  const items = itemsById(course);
  const folders = foldersOf(course);
  const places = new Map<string, string[]>();
  for (const { node } of walkOutline(course.outline)) {
    if (node.item !== undefined && !places.has(node.item)) places.set(node.item, folders.get(node.id) ?? []);
  }
  return findings.map((finding) => ({
    finding,
    kind: items.get(finding.item ?? '')?.kind ?? 'page',
    folders: places.get(finding.item ?? '') ?? [],
  }));
}

function bearsDates(settings: Settings): boolean {
  return (
    PLAIN.some((name) => settings[name] !== undefined) ||
    (settings.sessions?.length ?? 0) > 0 ||
    settings.visibleWhen !== undefined
  );
}

function foldersOf({ outline }: Course): Map<string, string[]> {
  const found = new Map<string, string[]>();
  const stack: { node: Course['outline'][number]; above: string[] }[] = outline.map((node) => ({ node, above: [] }));
  for (let next = stack.pop(); next; next = stack.pop()) {
    const { node, above } = next;
    found.set(node.id, above);
    if (node.children.length === 0) continue;
    const below = [...above, node.id];
    for (const child of node.children) stack.push({ node: child, above: below });
  }
  return found;
}

type OnDate = Extract<Condition, { is: 'date' }>;

function eachDateIn(conditions: readonly Condition[], take: (path: string, on: OnDate) => void, above = ''): void {
  conditions.forEach((one, i) => {
    const path = `${above}${i}`;
    if (one.is === 'date') take(path, one);
    else if ('conditions' in one) eachDateIn(one.conditions, take, `${path}.`);
  });
}

/** Items that must be had first. None of “none of” must. */
function neededBy({ settings }: Subject, items: () => ReadonlySet<string>): string[] {
  const { prerequisites } = settings;
  const words = prerequisites?.match(/[^\s,=&|()]+/g) ?? [];
  const found: string[] = words.filter((id) => items().has(id));
  const gather = (all: readonly Condition[]): void => {
    for (const one of all) {
      if (one.is === 'done' || one.is === 'visited' || (one.is === 'score' && one.side === 'at least'))
        found.push(one.item);
      else if (one.is === 'all of') gather(one.conditions);
    }
  };
  gather(settings.visibleWhen ?? []);
  return [...new Set(found)];
}

/** The settings of what bears a date, with that date another; without it where `to` is `null`. */
export function settingsWith(settings: Settings, path: string, to: Moment | null): Settings {
  const [name = '', ...rest] = path.split('.');
  if (name === 'sessions') {
    const at = Number(rest[0]);
    const { sessions: before = [], ...others } = settings;
    // A place is kept for each, so that those after it keep theirs: what is taken away is taken out at the end.
    const sessions = before.map((one, i) => (i === at ? (to ?? TAKEN) : one));
    return { ...others, sessions };
  }
  if (name === 'visibleWhen') {
    const { visibleWhen = [] } = settings;
    return { ...settings, visibleWhen: conditionsWith(visibleWhen, rest.map(Number), to) };
  }
  const { [name as (typeof PLAIN)[number]]: before, ...others } = settings;
  if (before === undefined) return settings;
  return to === null ? others : { ...others, [name]: to };
}

const TAKEN: Moment = { is: 'unread', words: '' };
const isTaken = (at: Moment) => at.is === 'unread' && at.words === '';

function conditionsWith(conditions: readonly Condition[], path: readonly number[], to: Moment | null): Condition[] {
  const [at, ...rest] = path;
  return conditions.map((one, i): Condition => {
    if (i !== at) return one;
    if ('conditions' in one) return { ...one, conditions: conditionsWith(one.conditions, rest, to) };
    return one.is === 'date' ? { ...one, at: to ?? TAKEN } : one;
  });
}

/** Settings without what was taken away by `settingsWith`. */
export function withoutTaken(settings: Settings): Settings {
  const { sessions, visibleWhen, ...rest } = settings;
  const sessionsLeft = sessions?.filter((at) => !isTaken(at));
  const conditionsLeft = visibleWhen && conditionsLeftOf(visibleWhen);
  return {
    ...rest,
    ...(sessionsLeft === undefined || (sessionsLeft.length === 0 && sessions?.length !== 0)
      ? {}
      : { sessions: sessionsLeft }),
    ...(conditionsLeft === undefined || (conditionsLeft.length === 0 && visibleWhen?.length !== 0)
      ? {}
      : { visibleWhen: conditionsLeft }),
  };
}

function conditionsLeftOf(conditions: readonly Condition[]): Condition[] {
  return conditions.flatMap((one): Condition[] => {
    if (one.is === 'date' && isTaken(one.at)) return [];
    if (!('conditions' in one)) return [one];
    const left = conditionsLeftOf(one.conditions);
    return left.length === 0 && one.conditions.length > 0 ? [] : [{ ...one, conditions: left }];
  });
}
