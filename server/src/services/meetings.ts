import {
  count,
  itemOfKey,
  leftBehindBy,
  meetings,
  notSent,
  settle,
  someOf,
  type Course,
  type Landing,
  type LandingLine,
  type Meeting,
  type Selection,
  type Settled,
} from '@treenail/core';
import type { Into } from '../contract/index.ts';
import type { WholeMove } from '../db/models/index.ts';
import { documentIfAny } from './documents.ts';
import { courseOf } from './move-rows.ts';

/** What of a course meets its like in the one that it goes into. */

/** What a rule may name of what comes. */
export const NAMED = ['title', 'code', 'section', 'term'] as const;

export interface Met {
  met: Meeting[];
  settled: Settled;
  /** Identifiers of items there that are taken out for ours. */
  taken: string[];
  /** Keys of what is foretold not to arrive. */
  leftBehind: ReadonlySet<string>;
  /** References of what comes that lead nowhere, since what they lead to is not sent. */
  lost: Selection['dangling'];
}

/** What meets its like, and what was decided of it. */
export async function metIn(move: WholeMove, into: Into, coming: Course): Promise<Met> {
  const { course: standing, identifiers, chosen, rule, names, way } = into;
  const [forecast, known] = await Promise.all([documentIfAny(move.id, 'forecast'), documentIfAny(move.id, 'links')]);
  const leftBehind = leftBehindBy(forecast?.lines ?? []);
  if (way === 'in place of') {
    const settled: Settled = { leftOut: [], titles: {}, calls: {}, settings: {} };
    return { met: [], taken: [], lost: [], settled, leftBehind };
  }
  const named = await courseOf(move);
  const workedIn = new Set(into.standing.workedIn);
  const met = meetings(standing, coming, {
    identifiers,
    unless: way === 'into' ? 'newest' : 'both',
    chosen,
    worked: new Set(Object.entries(names).flatMap(([id, name]) => (workedIn.has(name) ? [id] : []))),
    leftBehind: new Set([...leftBehind].flatMap((key) => itemOfKey(key) ?? [])),
  });
  const called = (title: string) =>
    NAMED.reduce((name, field) => name.replaceAll(`{${field}}`, field === 'title' ? title : named[field]), rule);
  const lost = notSent(coming, met, known?.links ?? []).dangling;
  return { met, lost, leftBehind, ...settle(standing, coming, met, { identifiers, rule: called }) };
}

/** What becomes of what meets its like, a sentence each; those that do not apply are ''. */
export function meetingsSay(coming: Course, { met, settled, lost }: Met, lines: readonly LandingLine[]): string[] {
  const titles = (of: Landing) => lines.flatMap((l) => (l.becomes === of && l.there ? [l.there.title] : []));
  const called = new Map(coming.items.map((i) => [i.id, i.title]));
  const say = (of: readonly string[], words: (items: string, them: string) => string) =>
    of.length === 0 ? '' : words(count(of.length, 'item'), of.length === 1 ? 'it' : 'them');
  const [unsent, replaced] = [titles('not sent'), titles('replaced')];
  const asTheirs = met.filter((m) => m.is === 'ours, set as theirs').map((m) => m.title);
  const renamed = Object.values(settled.titles);
  const calls = Object.keys(settled.calls).map((id) => called.get(id) ?? id);
  const leads = lost.map((d) => called.get(d.item) ?? d.item);
  return [
    say(
      replaced,
      (items, them) =>
        `${items} there will be taken out, and ours will be there for ${them}: ${someOf(replaced)}. A copy of what is there is kept and read first; links there that led to ${them} lead nowhere then.`,
    ),
    say(unsent, (items) => `${items} of what comes will not be sent, since theirs stays: ${someOf(unsent)}.`),
    say(
      leads,
      () =>
        `${count(lost.length, 'reference')} of what comes will lead nowhere then, in ${someOf([...new Set(leads)])}.`,
    ),
    say(asTheirs, (items) => `${items} of ours will be set as theirs: ${someOf(asTheirs)}.`),
    say(renamed, (items) => `${items} of ours will be called otherwise: ${someOf(renamed)}.`),
    say(
      calls,
      (items) =>
        `${items} of ours will get another identifier, so that nothing there is overwritten: ${someOf(calls)}.`,
    ),
  ];
}
