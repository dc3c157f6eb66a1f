import { randomUUID } from 'node:crypto';
import {
  Refusal,
  changedSince,
  count,
  itemKey,
  itemOfKey,
  leaveOutOf,
  problem,
  sentSoFar,
  someOf,
  totalsOf,
  type Course,
  type Forecast,
  type Settled,
} from '@treenail/core';
import type { FurtherAnswer, FurtherItem, NewPart, Person } from '../contract/index.ts';
import {
  Copy,
  Instance,
  Job,
  MovePlan,
  MoveStepRow,
  deliveryOf,
  isBrought,
  isDone,
  planOf,
  type Further,
  type WholeMove,
} from '../db/models/index.ts';
import type { DestinationSide } from '../platforms/index.ts';
import type { Services } from './context.ts';
import { documentIfAny, readDocument, writeDocument, type DocumentOf } from './documents.ts';
import { connectorOf } from './instances.ts';
import { callOffJob, isUnfinished } from './jobs.ts';
import { courseOf, missing, moveById, noteStep, together } from './move-rows.ts';
import { canSendMore, mustNotBeCalledOff } from './move-steps.ts';
import { audit, mustBe } from './people.ts';
import { goOn } from './plan.ts';
import { asCopySummary } from './strongroom.ts';
import { beforeIt, courseDecided, courseToSend, settledOf } from './working.ts';

/** Parts of a course that go where others went before. */

/** Steps that a further part goes through; what was decided at those between stays decided. */
const ANEW = ['look', 'fit', 'build', 'deliver', 'check', 'hand-over'] as const;
/** How many of what did not go are named. */
const SOME = 5;

/** What went of a move so far, and what a further part could be taken from. */
export async function furtherOf(services: Services, moveId: number): Promise<FurtherAnswer> {
  const move = await moveById(moveId);
  const row = await courseOf(move);
  const [sent, look, copies, instance] = await Promise.all([
    canSendMore(move) ? sentOf(move) : documentIfAny(moveId, 'sent'),
    documentIfAny(moveId, 'look'),
    Copy.findAll({ where: { courseId: row.id, removedAt: null }, order: [['keptAt', 'DESC']] }),
    Instance.findByPk(row.instanceId, { rejectOnEmpty: true }),
  ]);
  const went = new Set(sent?.source.items.map((i) => i.id));
  const left = (look?.course.items ?? []).filter((i) => !went.has(i.id));
  const first = copies.filter((c) => c.id === move.copyId);
  return {
    went: went.size,
    left: left.length,
    some: left.slice(0, SOME).map((i) => i.title),
    copies: [...first, ...copies.filter((c) => c.id !== move.copyId)].map((c) => asCopySummary(c, null)),
    fetches: connectorOf(services.config.secret, instance).source !== null,
    can: canSendMore(move),
  };
}

/** Begins a further part of a move, of the copy that it has, of another, or of one that is fetched now. */
export async function sendMore(person: Person, moveId: number, { copyId }: NewPart): Promise<void> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  mustNotBeCalledOff(move);
  const { further, version, carriedAs, tidyVersion, workedVersion } = planOf(move);
  // Pressed twice, it is begun once.
  if (further !== null && !isBrought(move)) return;
  if (!canSendMore(move)) {
    throw new Refusal(
      problem('not-yet', 'A further part can be sent when what was sent before is delivered and checked.'),
    );
  }
  await writeDocument(moveId, 'sent', await sentOf(move));
  const copy = copyId === null ? null : await Copy.findByPk(copyId);
  if (copyId !== null && (copy?.courseId !== move.courseId || copy.removedAt !== null))
    throw missing('kept copy of this course');
  const anew = [...(copyId === null ? (['fetch'] as const) : []), ...ANEW];
  const rows = move.steps.filter((row) => (anew as readonly string[]).includes(row.step));
  const before: Further = {
    key: randomUUID().slice(0, 8),
    copyId: move.copyId,
    steps: rows.map(({ step, state, result, decidedBy }) => ({ step, state, result, decidedBy })),
  };
  await together(async (transaction) => {
    // It goes as the others went, unless a person chooses otherwise.
    const next = { carriedAs, formChosen: true, tidyVersion, workedVersion };
    await MovePlan.create({ moveId, version: version + 1, ...next, further: before }, { transaction });
    await MoveStepRow.destroy({ where: { moveId, step: anew }, transaction });
    if (copy) await move.update({ copyId: copy.id }, { transaction });
  });
  await goOn(moveId);
  await audit(person, 'further part begun', `move ${moveId}`, { copyId });
}

/** Ends a further part that is not delivered: the move stands again where it stood. */
export async function callOffPart(move: WholeMove): Promise<void> {
  const { further, version } = planOf(move);
  if (further === null || isBrought(move)) return;
  if (move.deliveries.some((d) => d.planVersion === version)) {
    throw new Refusal(
      problem(
        'delivery-begun',
        'The delivery of this part has begun, and some of it may be there already.',
        {},
        'Deliver it: what came already is not doubled by that.',
      ),
    );
  }
  for (const job of await Job.findAll({ where: { moveId: move.id } })) if (isUnfinished(job)) await callOffJob(job);
  // What was looked into last is what can be shown: the copy that it is of stays with the move.
  const looked = isDone(move, 'look');
  await together(async (transaction) => {
    await MovePlan.destroy({ where: { moveId: move.id, version }, transaction });
    for (const { step, state, result, decidedBy } of further.steps)
      await noteStep(move.id, step, state, result, decidedBy, transaction);
    if (!looked) await move.update({ copyId: further.copyId }, { transaction });
  });
}

/**
 * Holds what was looked into against what went, and the destination against what was found there at the check; and
 * proposes what goes: what is new, and what changed, unless it changed there too.
 */
export async function noteFurther(
  move: WholeMove,
  course: Course,
  destinationSide: DestinationSide,
  signal: AbortSignal,
): Promise<void> {
  const sent = await readDocument(move.id, 'sent');
  const { items, gone } = changedSince(sent.source, course);
  const there = await sinceChecked(move, destinationSide, signal);
  const state = {
    items: items.map(({ id, since, was }): FurtherItem => ({
      id,
      since: since === 'same' ? 'went' : since,
      was,
      there: was === null ? null : there.of(was),
    })),
    gone,
    unread: there.unread,
  };
  await writeDocument(move.id, 'further', state);
  const stays = state.items.filter(
    (i) => i.since === 'went' || (i.since === 'changed' && i.there !== 'same' && i.there !== 'absent'),
  );
  await writeDocument(move.id, 'selection', { leftOut: stays.map((i) => i.id), hiddenUntil: null });
}

/** What became at the destination, since it was checked there, of an item that went. */
async function sinceChecked(
  move: WholeMove,
  destinationSide: DestinationSide,
  signal: AbortSignal,
): Promise<{ of: (item: string) => NonNullable<FurtherItem['there']>; unread: string }> {
  const shell = deliveryOf(move)?.delivery.shell;
  const [arrived, comparison] = await Promise.all([
    readDocument(move.id, 'arrived'),
    readDocument(move.id, 'comparison'),
  ]);
  let now: Course;
  try {
    if (!shell) throw new Error('nothing says where it went');
    now = (await destinationSide.readBack(shell.id, signal)).course;
  } catch (error) {
    signal.throwIfAborted();
    return { of: () => 'unknown', unread: error instanceof Error ? error.message : String(error) };
  }
  const { items, gone } = changedSince(arrived, now);
  const removed = new Set(gone.map((i) => i.id));
  const changed = new Set(items.flatMap((i) => (i.since === 'changed' && i.was !== null ? [i.was] : [])));
  const arrivedAs = new Map(
    comparison.lines.flatMap((line) => {
      const item = line.source === null ? null : itemOfKey(line.source);
      const is = line.arrived === null ? null : itemOfKey(line.arrived);
      return item === null || is === null ? [] : [[item, is]];
    }),
  );
  return {
    of: (item) => {
      const is = arrivedAs.get(item);
      if (is === undefined) return 'absent';
      return removed.has(is) ? 'removed' : changed.has(is) ? 'changed' : 'same';
    },
    unread: '',
  };
}

/** Writes down what a delivery brought, with what went before it. Done twice it is as done once. */
export async function keepSent(move: WholeMove): Promise<void> {
  await writeDocument(move.id, 'sent', await withThisPart(move));
}

async function withThisPart(move: WholeMove): Promise<DocumentOf<'sent'>> {
  const [{ course: whole }, { links }, now, forecast, before] = await Promise.all([
    readDocument(move.id, 'look'),
    readDocument(move.id, 'links'),
    courseToSend(move.id),
    readDocument(move.id, 'forecast'),
    planOf(move).further === null ? null : documentIfAny(move.id, 'sent'),
  ]);
  const settled = await settledOf(move.id);
  const was = new Map(Object.entries(settled?.settled.calls ?? {}).map(([id, is]) => [is, id]));
  const goes = new Set(now.items.map((i) => was.get(i.id) ?? i.id));
  const out = new Set(whole.items.flatMap((i) => (goes.has(i.id) ? [] : [i.id])));
  const foretold = asSettledForecast(forecast, settled?.settled);
  const from = Object.fromEntries([...goes].map((id) => [id, move.copyId ?? 0]));
  const { course: source } = leaveOutOf(whole, { items: out, nodes: new Set() }, links);
  return before
    ? {
        course: sentSoFar(before.course, now, whole),
        source: sentSoFar(before.source, source, whole),
        forecast: both(before.forecast, foretold),
        from: { ...before.from, ...from },
      }
    : { course: now, source, forecast: foretold, from };
}

/** Of a move that was delivered before such a thing was kept: its one part is what it has still. */
async function sentOf(move: WholeMove): Promise<DocumentOf<'sent'>> {
  return (await documentIfAny(move.id, 'sent')) ?? withThisPart(move);
}

/** What a further part will do to what stands at the destination, a sentence each. */
export async function partNotes(services: Services, moveId: number): Promise<string[]> {
  const before = await beforeIt(services, await moveById(moveId));
  const state = before && (await documentIfAny(moveId, 'further'));
  if (!state) return [];
  const settled = await documentIfAny(moveId, 'settled');
  const [{ course: whole }, part] = await Promise.all([readDocument(moveId, 'look'), courseDecided(moveId)]);
  const titles = new Map(whole.items.map((i) => [i.id, i.title]));
  const goes = new Set(part.items.map((i) => i.id));
  const changed = state.items.filter((i) => i.there === 'changed');
  const over = changed.filter((i) => goes.has(i.id)).map((i) => titles.get(i.id) ?? i.id);
  const kept = changed.filter((i) => i.since === 'changed' && !goes.has(i.id)).map((i) => titles.get(i.id) ?? i.id);
  const gone = state.gone.map((i) => i.title);
  // What was left there, or stands beside its like under another identifier, is spoken of by its own again.
  const theirs = new Set([...(settled?.settled.leftOut ?? []), ...Object.keys(settled?.settled.calls ?? {})]);
  const stand = new Set((await documentIfAny(moveId, 'into'))?.course.items.map((i) => i.id));
  const apart = part.items.filter((i) => theirs.has(i.id) && stand.has(i.id)).map((i) => i.title);
  const said = [
    before.more === 'instead'
      ? 'What goes takes the place of all that stands there: what went before goes once more with it.'
      : '',
    before.more === 'added'
      ? 'This format can’t speak of what stands there: what the part needs of that comes a second time, and so does a folder that others went into.'
      : '',
    apart.length > 0
      ? `${count(apart.length, 'item')} bear identifiers of what others put there, and take its place: ${someOf(apart)}.`
      : '',
    over.length > 0 ? `${count(over.length, 'item')} changed there since will be overwritten: ${someOf(over)}.` : '',
    kept.length > 0 ? `${count(kept.length, 'item')} changed at both sides since, not sent: ${someOf(kept)}.` : '',
    gone.length > 0 && before.more === 'instead'
      ? `${count(gone.length, 'item')} not in the course any more, and gone from there too then: ${someOf(gone)}.`
      : '',
    state.unread !== ''
      ? `What is there could not be looked at (${state.unread}): whether something that changed there will be overwritten is not known.`
      : '',
  ];
  return said.filter((sentence) => sentence !== '');
}

/** What was foretold of what is sent, by the names that it is sent under: of what is not sent nothing is. */
function asSettledForecast(forecast: Forecast, settled: Settled | undefined): Forecast {
  if (!settled) return forecast;
  const { calls, titles } = settled;
  const out = new Set(settled.leftOut);
  const lines = forecast.lines.flatMap((line) => {
    const id = line.source === null ? null : itemOfKey(line.source);
    if (id === null) return [line];
    if (out.has(id)) return [];
    return [{ ...line, source: itemKey(calls[id] ?? id), title: titles[id] ?? line.title }];
  });
  return { ...forecast, lines, totals: totalsOf(lines) };
}

/** What was foretold of several parts; of what went twice, the last. */
function both(before: Forecast, now: Forecast): Forecast {
  const known = new Set(now.lines.map((line) => line.source));
  const lines = [...before.lines.filter((line) => !known.has(line.source)), ...now.lines];
  return { ...now, lines, totals: totalsOf(lines) };
}

/** What was sent of a move, and what was foretold of it: all parts together, or the one that there is. */
export async function allSent(moveId: number): Promise<Pick<DocumentOf<'sent'>, 'course' | 'forecast'>> {
  const sent = await documentIfAny(moveId, 'sent');
  if (sent) return sent;
  const [course, forecast, settled] = await Promise.all([
    courseToSend(moveId),
    readDocument(moveId, 'forecast'),
    settledOf(moveId),
  ]);
  return { course, forecast: asSettledForecast(forecast, settled?.settled) };
}
