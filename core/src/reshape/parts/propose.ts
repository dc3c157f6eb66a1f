import type { Course, OutlineNode, Term } from '../../model/index.ts';
import { dayOf } from '../dates/days.ts';
import { onClock, type Zone } from '../dates/clock.ts';
import { datesOf } from '../dates/known.ts';
import type { PartOf, SplitPlan } from './plan.ts';

/** A cut that Treenail proposes, and by what it was found. */
export interface Proposal {
  by: 'names' | 'dates' | 'halves';
  plan: SplitPlan;
}

const NUMBERS: Readonly<Record<string, number>> = { one: 1, two: 2, three: 3, four: 4, i: 1, ii: 2, iii: 3, iv: 4 };
const ORDINALS: Readonly<Record<string, number>> = { first: 1, second: 2, third: 3, fourth: 4 };
const NUMBERED = /\b(?:term|semester|half|trimester|block)\s*(\d{1,2}|one|two|three|four|i{1,3}|iv)\b/i;
const COUNTED = /\b(first|second|third|fourth|\d(?:st|nd|rd|th))\s+(?:half|term|semester|trimester|block)\b/i;
const SEASON = /\b(autumn|winter|spring|summer)\b/i;

/** The part of a year that a title names; `null` where it names none. */
function namedIn(title: string): string | null {
  const season = SEASON.exec(title)?.[1]?.toLowerCase();
  if (season !== undefined) return season;
  const number = NUMBERED.exec(title)?.[1]?.toLowerCase();
  if (number !== undefined) return String(NUMBERS[number] ?? Number(number));
  const ordinal = COUNTED.exec(title)?.[1]?.toLowerCase();
  return ordinal === undefined ? null : String(ORDINALS[ordinal] ?? Number.parseInt(ordinal));
}

/** Where a course could be cut: by what folders are called, by its dates, or in the middle. The best comes first. */
export function proposeSplits(course: Course, { terms, zone }: { terms: readonly Term[]; zone: Zone }): Proposal[] {
  const places = cutAmong(course.outline);
  const found = [byNames(course, places, terms), byDates(course, places, terms, zone), byHalves(course, places)];
  return found.filter((proposal) => proposal !== null);
}

/** The places among which is cut: those of the only folder, where all stand in one. */
function cutAmong(outline: readonly OutlineNode[]): readonly OutlineNode[] {
  const [only, ...more] = outline;
  return only && more.length === 0 && only.item === undefined && only.children.length > 1
    ? cutAmong(only.children)
    : outline;
}

function byNames(course: Course, places: readonly OutlineNode[], terms: readonly Term[]): Proposal | null {
  const names = places.map((node) => (node.children.length > 0 ? namedIn(node.title) : null));
  const groups = [...new Set(names.filter((name) => name !== null))];
  if (groups.length < 2) return null;
  const termOf = (group: string) =>
    terms.find((t) => t.name.toLowerCase().includes(group) && Number.isNaN(Number(group)));
  const parts = groups.map((group, i) => {
    const folder = places[names.indexOf(group)];
    return { title: `${course.title}, ${folder?.title ?? `part ${i + 1}`}`, term: termOf(group) ?? null };
  });
  return {
    by: 'names',
    plan: {
      parts,
      of: inTurn(
        places,
        names.map((name) => (name === null ? null : groups.indexOf(name))),
      ),
    },
  };
}

function byDates(course: Course, places: readonly OutlineNode[], terms: readonly Term[], zone: Zone): Proposal | null {
  const dates = datesOf(course).flatMap((date) => {
    const at = onClock(date.at, zone);
    return at === null ? [] : [{ ...date, day: dayOf(at.day) }];
  });
  const termOf = (day: string) => terms.findIndex((t) => t.from <= day && day <= t.to);
  const votes = places.map((place) => {
    const items = new Set<string>();
    const nodes = new Set<string>();
    const gather = (node: OutlineNode): void => {
      nodes.add(node.id);
      if (node.item !== undefined) items.add(node.item);
      node.children.forEach(gather);
    };
    gather(place);
    const count = new Map<number, number>();
    for (const { item, node, day } of dates) {
      if ((item !== null && items.has(item)) || (node !== null && nodes.has(node))) {
        const term = termOf(day);
        if (term >= 0) count.set(term, (count.get(term) ?? 0) + 1);
      }
    }
    return [...count].sort((a, b) => b[1] - a[1])[0]?.[0] ?? null;
  });
  const used = [...new Set(votes.filter((vote) => vote !== null))].sort((a, b) => a - b);
  if (used.length < 2) return null;
  const parts = used.flatMap((n) => {
    const term = terms[n];
    return term ? [{ title: `${course.title}, ${term.name}`, term }] : [];
  });
  const of = inTurn(
    places,
    votes.map((vote) => (vote === null ? null : used.indexOf(vote))),
  );
  // What stands in no place goes with its own dates.
  const placed = new Set(Object.keys(of));
  for (const { item, day } of dates) {
    const term = used.indexOf(termOf(day));
    if (item !== null && term >= 0 && !placed.has(`item:${item}`)) of[`item:${item}`] = term;
  }
  return { by: 'dates', plan: { parts, of } };
}

function byHalves(course: Course, places: readonly OutlineNode[]): Proposal | null {
  const folders = places.filter((node) => node.children.length > 0);
  if (folders.length < 2) return null;
  const second = folders[Math.ceil(folders.length / 2)];
  let part: PartOf = 0;
  const turn = places.map((node) => (node === second ? (part = 1) : part));
  const parts = [1, 2].map((n) => ({ title: `${course.title}, part ${n}`, term: null }));
  return { by: 'halves', plan: { parts, of: inTurn(places, turn) } };
}

/** Each place with the part of the one before, where nothing is said of it; what comes before the first goes into all. */
function inTurn(places: readonly OutlineNode[], votes: readonly (PartOf | null)[]): SplitPlan['of'] {
  let last: PartOf = 'all';
  return Object.fromEntries(places.map((node, i) => [node.id, (last = votes[i] ?? last)]));
}
