import type { Outcome } from '../fit/index.ts';
import { KIND_LABELS, count, subjects, type Course, type Subject, type SubjectKind } from '../model/index.ts';
import type { Meeting } from '../reshape/index.ts';

/** What a delivery does to a course that is there: three outlines, what is there now, what comes, what is there afterwards. */

/** `beside`: what is there stays; `into`: it is matched item by item; `in place of`: all of it goes first. */
export const WAYS_IN = ['beside', 'into', 'in place of'] as const;
export type WayIn = (typeof WAYS_IN)[number];

/**
 * `stays`: it is there, and stays as it is; `new`: it comes, and nothing like it is there; `overwritten`: what comes bears its
 * identifier, and takes its place; `replaced`: it is taken out, and what comes is there for it; `not sent`: it stays, and what is the
 * same of what was to come is not sent; `double`: what comes is called the same, and both are there then; `gone`: it is taken
 * out; `left behind`: it is in the package, or was to be, and the destination does not take it.
 */
export const LANDINGS = [
  'stays',
  'new',
  'overwritten',
  'replaced',
  'not sent',
  'double',
  'gone',
  'left behind',
] as const;
export type Landing = (typeof LANDINGS)[number];

export interface LandingSide {
  /** Key of the subject in its course. */
  key: string;
  title: string;
  depth: number;
}

export interface LandingLine {
  becomes: Landing;
  kind: SubjectKind;
  /** As it is there now. */
  there: LandingSide | null;
  /** As it comes. */
  comes: LandingSide | null;
  /** As it is there afterwards. */
  after: LandingSide | null;
}

export interface LandingForecast {
  lines: LandingLine[];
  totals: Record<Landing, number>;
}

export interface LandingOptions {
  way: WayIn;
  identifiers: 'overwritten' | 'doubled';
  leftBehind?: ReadonlySet<string>;
  /** What was decided of what meets its like there; where nothing is given, the platform has its way. */
  met?: readonly Meeting[];
  /** Other titles of what comes, by the identifiers of items. */
  titles?: Readonly<Record<string, string>>;
}

/** Keys of what a forecast leaves behind. */
export function leftBehindBy(lines: readonly { source: string | null; outcome: Outcome }[]): Set<string> {
  return new Set(lines.flatMap((l) => (l.outcome === 'left behind' && l.source !== null ? [l.source] : [])));
}

/**
 * Foretells what of both courses is there after a delivery. Every subject of both is named exactly once; what is overwritten is
 * one line of both.
 * @param identifiers what the platform does with what bears the identifier of something that is there
 * @param leftBehind keys of what is foretold not to arrive
 */
export function landing(
  standing: Course,
  coming: Course,
  { way, identifiers, leftBehind = new Set(), met, titles = {} }: LandingOptions,
): LandingForecast {
  const there = subjects(standing, { withCourse: false });
  const all = subjects(coming, { withCourse: false });
  const comes = all.filter((one) => !leftBehind.has(one.key));
  const lines: LandingLine[] =
    way === 'in place of'
      ? [...there.map((one) => line('gone', one, null)), ...comes.map((one) => line('new', null, one))]
      : beside(there, comes, { identifiers, met, titles });
  lines.push(...all.filter((one) => leftBehind.has(one.key)).map((one) => line('left behind', null, one)));
  const totals = Object.fromEntries(LANDINGS.map((l) => [l, 0])) as Record<Landing, number>;
  for (const { becomes } of lines) totals[becomes]++;
  return { lines, totals };
}

function beside(
  there: readonly Subject[],
  comes: readonly Subject[],
  {
    identifiers,
    met,
    titles,
  }: {
    identifiers: LandingOptions['identifiers'];
    met: readonly Meeting[] | undefined;
    titles: Readonly<Record<string, string>>;
  },
): LandingLine[] {
  const known = new Map(comes.flatMap((one) => (one.item ? [[one.item.id, one]] : [])));
  const decided = new Map(met?.map((one) => [one.first, one]));
  const taken = new Set<Subject>();
  const lines = there.map((one): LandingLine => {
    const meeting = one.item ? decided.get(one.item.id) : undefined;
    const byItself = identifiers === 'overwritten' && !met ? one.item?.id : undefined;
    const other = known.get(meeting?.second ?? byItself ?? '');
    if (!other || meeting?.is === 'both') return line('stays', one, null);
    taken.add(other);
    if (meeting?.is === 'theirs') return { ...line('not sent', one, other), after: sideOf(one) };
    const over = !meeting || (identifiers === 'overwritten' && meeting.by === 'identifier');
    return line(over ? 'overwritten' : 'replaced', one, other);
  });
  // What is overwritten, or taken out, is no double of what comes.
  const stays = lines.flatMap(({ becomes }, i) => (becomes === 'stays' || becomes === 'not sent' ? [there[i]] : []));
  const names = new Set(stays.flatMap(namesOf));
  const rest = comes.filter((one) => !taken.has(one));
  return [
    ...lines,
    ...rest.map((one): LandingLine => {
      const title = titles[one.item?.id ?? ''];
      const isDouble = namesOf(one).some((name) => names.has(name));
      const told = line(isDouble ? 'double' : 'new', null, one);
      return title === undefined || told.after === null ? told : { ...told, after: { ...told.after, title } };
    }),
  ];
}

/** By what a person, or its substance, would know a thing for the same. */
function namesOf(subject: Subject | undefined): string[] {
  if (!subject) return [];
  const { kind, title, item } = subject;
  const called = `${kind} ${title.trim().toLowerCase()}`;
  return item?.fingerprint === undefined ? [called] : [called, `substance ${item.fingerprint}`];
}

function line(becomes: Landing, there: Subject | null, comes: Subject | null): LandingLine {
  const after = becomes === 'gone' || becomes === 'left behind' ? null : (comes ?? there);
  const kind = (comes ?? there)?.kind ?? 'page';
  return { becomes, kind, there: sideOf(there), comes: sideOf(comes), after: sideOf(after) };
}

function sideOf(subject: Subject | null): LandingSide | null {
  return subject && { key: subject.key, title: subject.title, depth: subject.placed?.depth ?? 0 };
}

/** What a course holds, for a sentence: `4 items (2 pages, 1 assignment, 1 discussion)`. */
export function heldWords(course: Course): string {
  const kinds = new Map<SubjectKind, number>();
  for (const { kind } of course.items) kinds.set(kind, (kinds.get(kind) ?? 0) + 1);
  if (kinds.size === 0) return 'nothing';
  const each = [...kinds].sort(([, a], [, b]) => b - a).map(([kind, n]) => count(n, KIND_LABELS[kind]));
  return `${count(course.items.length, 'item')} (${each.join(', ')})`;
}
