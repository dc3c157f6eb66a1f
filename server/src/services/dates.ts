import {
  changesNothing,
  datesOf,
  decided,
  redated,
  writtenDates,
  type Course,
  type Decision,
  type Finding,
  type KnownDate,
  type RedatePlan,
  type Redates,
  type Redating,
  type WrittenDate,
} from '@treenail/core';
import type { RedateAnswer } from '../contract/index.ts';
import type { Services } from './context.ts';
import { decisionsOf, leftOutOf } from './decided.ts';
import { documentIfAny, readDocument } from './documents.ts';
import { closedDays, zone } from './settings.ts';

/* The dates of a course that is moved, as they are and as they are decided to be. */

/** What is known of the dates of a move's course, without those that tidying leaves out. */
export interface Known {
  course: Course;
  dates: KnownDate[];
  written: WrittenDate[];
  /** Whether texts and calendars were looked through. */
  searched: boolean;
  notes: RedateAnswer['notes'];
}

export async function knownDates(moveId: number): Promise<Known> {
  const [{ course }, found, { findings }, decisions, leftOut] = await Promise.all([
    readDocument(moveId, 'look'),
    documentIfAny(moveId, 'dates'),
    readDocument(moveId, 'findings'),
    decisionsOf(moveId),
    leftOutOf(moveId),
  ]);
  const gone = takenByTidy(findings, decisions);
  for (const id of leftOut) gone.items.add(id);
  const stays = (item: string | null) => item === null || !gone.items.has(item);
  const dates = [...datesOf(course), ...(found?.calendars ?? [])];
  return {
    course,
    dates: dates.filter(({ key, item }) => stays(item) && !gone.dates.has(key)),
    written: writtenDates(course, found?.written ?? []).filter(({ finding }) => stays(finding.item)),
    searched: found !== null,
    notes: found?.notes ?? [],
  };
}

/** Items that mends leave out, and keys of dates that they take off. */
function takenByTidy(
  findings: readonly Finding[],
  decisions: readonly Decision[],
): { items: Set<string>; dates: Set<string> } {
  const gone = { items: new Set<string>(), dates: new Set<string>() };
  const chosen = decided(findings, decisions);
  for (const { key, item, node, suggestions } of findings) {
    const decision = chosen.get(key);
    if (decision?.mend === 'leave-out' && item !== null) gone.items.add(item);
    if (decision?.mend !== 'drop-dates') continue;
    const names = decision.params['names'] ?? suggestions.find((s) => s.mend === 'drop-dates')?.params['names'] ?? '';
    for (const name of names.split(','))
      gone.dates.add(`${item === null ? `node:${node ?? ''}` : `item:${item}`} ${name}`);
  }
  return gone;
}

export async function asPlanned(services: Services, known: Known, plan: RedatePlan): Promise<Redating> {
  const [closed, clock] = await Promise.all([closedDays(), zone(services)]);
  const today = new Date().toISOString().slice(0, 10);
  return redated(known.dates, plan, { zone: clock, closed, today, written: known.written });
}

export async function redatePlanOf(moveId: number): Promise<RedatePlan | null> {
  return documentIfAny(moveId, 'redate');
}

/** What the working copy needs of it; `null` where dates go as they are. */
export async function redatesOf(services: Services, moveId: number): Promise<Redates | null> {
  const plan = await redatePlanOf(moveId);
  if (!plan || changesNothing(plan)) return null;
  const known = await knownDates(moveId);
  const { rows } = await asPlanned(services, known, plan);
  return { rows, written: known.written };
}
