import * as z from 'zod';
import {
  SETTING_LABELS,
  SETTINGS_OF_USE,
  Settings,
  sameSetting,
  titlesIn,
  type Course,
  type Item,
  type OutlineNode,
} from '../model/index.ts';
import { readable, type CourseLink } from '../inspect/index.ts';
import { called, freeName } from './calling.ts';
import { doublesOf, type Double } from './parts/index.ts';
import { selectionOf, type Selection } from './select.ts';

/** Things of a course that meet the same where they go: one stands there, one comes. */

/**
 * `both`: both are there, ours under another name where one is asked for; `theirs`: ours is not sent; `ours`: it takes the place
 * of theirs; `ours, set as theirs`: it does, with dates, attempts and the like as they are set there.
 */
export const MeetsAs = z.enum(['both', 'theirs', 'ours', 'ours, set as theirs']);
export type MeetsAs = z.infer<typeof MeetsAs>;

/** `first` stands there, `second` comes. */
export interface Meeting extends Double {
  /** What it is called there; `title` is what comes. */
  theirs: string;
  is: MeetsAs;
  can: MeetsAs[];
  /** Labels of settings that are other there than of what comes. */
  differs: string[];
  /** Why it is not as was asked; '' where it is. */
  why: string;
}

export interface MeetOptions {
  /** What the platform does with what bears the identifier of something that is there. */
  identifiers: 'overwritten' | 'doubled';
  /** What is done where nobody chose: all stays, or what differs takes the place of theirs. */
  unless: 'both' | 'newest';
  /** Choices, by the identifier of the item that comes. */
  chosen: Readonly<Record<string, MeetsAs>>;
  /** Identifiers of items there that learners worked in: they are not taken out. */
  worked: ReadonlySet<string>;
  /** Identifiers of items that are not to arrive: they meet nothing. */
  leftBehind: ReadonlySet<string>;
}

/** What meets what, and what becomes of it. Each item of both is in one meeting at most. */
export function meetings(standing: Course, coming: Course, options: MeetOptions): Meeting[] {
  const { identifiers, unless, chosen, worked, leftBehind } = options;
  const theirs = new Map(standing.items.map((i) => [i.id, i]));
  const ours = new Map(coming.items.map((i) => [i.id, i]));
  const arrives = { ...coming, items: coming.items.filter((i) => !leftBehind.has(i.id)) };
  const found = doublesOf(standing, arrives, true).flatMap((double): Meeting[] => {
    const [own, other] = [theirs.get(double.first), ours.get(double.second)];
    if (!own || !other) return [];
    const over = identifiers === 'overwritten' && double.by === 'identifier';
    const differs = settingsThat(own, other).map((name) => SETTING_LABELS[name]);
    const takes = over || !worked.has(own.id);
    const can: MeetsAs[] = [
      'both',
      'theirs',
      ...(takes ? (['ours'] as const) : []),
      ...(takes && differs.length > 0 ? (['ours, set as theirs'] as const) : []),
    ];
    const first = takes ? 'ours' : 'theirs';
    const byItself = unless === 'newest' ? (double.same ? 'theirs' : first) : over ? 'ours' : 'both';
    const asked = chosen[double.second];
    // Where nothing is set otherwise there, ours is set as theirs is already.
    const wanted = asked === 'ours, set as theirs' && differs.length === 0 ? 'ours' : asked;
    const is = wanted !== undefined && can.includes(wanted) ? wanted : byItself;
    const why = wanted !== undefined && wanted !== is ? 'learners have worked in theirs' : '';
    return [{ ...double, theirs: own.title, is, can, differs, why }];
  });
  return pulledIn(coming, found, identifiers);
}

/** What others need that go goes all the same. */
function pulledIn(coming: Course, found: Meeting[], identifiers: string): Meeting[] {
  const needed = new Map(notSent(coming, found).pulledIn.map(({ item, by }) => [item, by]));
  const titles = new Map(coming.items.map((i) => [i.id, i.title]));
  return found.map((one) => {
    const by = needed.get(one.second);
    if (by === undefined) return one;
    const is = one.by === 'identifier' && identifiers === 'overwritten' ? 'ours' : 'both';
    return { ...one, is, why: `“${titles.get(by) ?? by}” needs it` };
  });
}

/** What not sending ours means for the rest of what comes. */
export function notSent(
  coming: Course,
  met: readonly Meeting[],
  links: readonly CourseLink[] = [],
  there: ReadonlySet<string> = new Set(),
): Selection {
  return selectionOf(coming, new Set(met.flatMap((m) => (m.is === 'theirs' ? [m.second] : []))), links, there);
}

/** What a course is sent otherwise than it was built for, since of what it meets something was decided. */
export const Settled = z.object({
  /** Identifiers of items that are not sent. */
  leftOut: z.array(z.string()),
  /** New titles, new identifiers and what is set otherwise, by the identifiers of items. */
  titles: z.record(z.string(), z.string()),
  calls: z.record(z.string(), z.string()),
  settings: z.record(z.string(), Settings),
});
export type Settled = z.infer<typeof Settled>;

/**
 * What was decided of meetings as what is to be done: what is sent otherwise, and what is taken out there before (identifiers of items).
 * @param rule makes the name of what is sent beside its like
 */
export function settle(
  standing: Course,
  coming: Course,
  met: readonly Meeting[],
  { identifiers, rule }: { identifiers: MeetOptions['identifiers']; rule: (title: string) => string },
): { settled: Settled; taken: string[] } {
  const theirs = new Map(standing.items.map((i) => [i.id, i]));
  const ours = new Map(coming.items.map((i) => [i.id, i]));
  const titleOf = titlesIn(coming);
  const names = new Set([...theirs.keys(), ...ours.keys()]);
  const settled: Settled = { leftOut: [], titles: {}, calls: {}, settings: {} };
  const taken: string[] = [];
  for (const { first, second, by, is } of met) {
    const [own, other] = [theirs.get(first), ours.get(second)];
    if (!own || !other) continue;
    const over = by === 'identifier' && identifiers === 'overwritten';
    if (is === 'theirs') settled.leftOut.push(second);
    else if (is === 'both') {
      const title = rule(titleOf(other)).trim();
      if (title !== '' && title !== titleOf(other)) settled.titles[second] = title;
    } else {
      if (!over) taken.push(first);
      if (is === 'ours, set as theirs') {
        settled.settings[second] = Object.fromEntries(
          settingsThat(own, other).map((name) => [name, own.settings[name]]),
        );
      }
    }
  }
  if (identifiers === 'overwritten') {
    // What bears the name of something there, and is not to take its place, would do so all the same.
    const takes = new Set(met.flatMap((m) => (m.by === 'identifier' && m.is.startsWith('ours') ? [m.second] : [])));
    const gone = new Set([...settled.leftOut, ...takes]);
    for (const id of ours.keys()) {
      if (!theirs.has(id) || gone.has(id)) continue;
      const free = freeName(id, names);
      names.add(free);
      settled.calls[id] = free;
    }
  }
  return { settled, taken };
}

export function isUnsettled({ leftOut, titles, calls, settings }: Settled): boolean {
  return [leftOut, ...[titles, calls, settings].map((of) => Object.keys(of))].every((of) => of.length === 0);
}

/** The course as it is sent, what is left out apart: that goes with its files, and so with the rest that is left out. */
export function asSettled(course: Course, { titles, calls, settings }: Settled): Course {
  const items = course.items.map((item): Item => ({
    ...item,
    title: titles[item.id] ?? item.title,
    settings: { ...item.settings, ...settings[item.id] },
  }));
  const titleOf = titlesIn(course);
  const was = new Map(course.items.map((i) => [i.id, titleOf(i)]));
  const nodes = (list: readonly OutlineNode[]): OutlineNode[] =>
    list.map((node) => {
      const title = titles[node.item ?? ''];
      // A further place with a title of its own keeps it.
      const isOwn = title === undefined || node.title !== was.get(node.item ?? '');
      return { ...node, title: isOwn ? node.title : title, children: nodes(node.children) };
    });
  const origin = { ...course.origin, untouched: false };
  return called({ ...course, origin, items, outline: nodes(course.outline) }, new Map(Object.entries(calls)));
}

/** Settings of use that theirs has, and ours has not or has otherwise. */
function settingsThat(theirs: Item, ours: Item) {
  return SETTINGS_OF_USE.filter((name) => {
    // What a test is worth is the sum of its questions.
    if (name === 'points' && (ours.kind === 'quiz' || theirs.kind === 'quiz')) return false;
    const [own, other] = [theirs.settings[name], ours.settings[name]];
    if (own === undefined) return false;
    return other === undefined || !sameSetting(name, own, other, (html) => readable({ format: 'html', text: html }));
  });
}
