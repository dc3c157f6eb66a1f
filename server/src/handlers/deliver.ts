import { Refusal, count, isUnsettled, problem, subjects, type Subject, type WayIn } from '@treenail/core';
import { Op } from 'sequelize';
import * as z from 'zod';
import {
  JobStep,
  deliveryOf,
  type Built,
  type CourseRow,
  type Delivery,
  type Instance,
  type WholeMove,
} from '../db/models/index.ts';
import type { DestinationSide } from '../platforms/index.ts';
import type { Services } from '../services/context.ts';
import { readDocument, writeDocument } from '../services/documents.ts';
import { keepSent } from '../services/further.ts';
import { mustBeAsLookedAt, thereOf } from '../services/into.ts';
import { metIn } from '../services/meetings.ts';
import { pack } from '../services/packing.ts';
import { refreshRegister } from '../services/register.ts';
import { courseDecided, courseToSend } from '../services/working.ts';
import type { Into } from '../contract/index.ts';
import type { InputOf } from '../jobs/definitions.ts';
import type { Handler, JobContext } from '../jobs/worker.ts';
import { noteStep } from '../services/move-rows.ts';
import { cannot, ofMove } from './of-move.ts';
import { Built as BuiltFile, keptBefore, packing, sendUp, unpackThere } from './sending.ts';

const Shell = z.object({ id: z.string(), url: z.string() });

/** Makes a new shell, or room in a course that is there; uploads the package, and waits until the platform has unpacked it. */
export const deliverCourse = (services: Services): Handler<'deliver'> => ({
  run: (context, input) => deliverInto(services, context, input),
  calledOff: (context) => stopImport(services, context),
});

/** An import that is not over is stopped, where the platform can. The shell stays: a person may have put something in. */
async function stopImport(services: Services, context: JobContext): Promise<void> {
  const { to, destination } = await ofMove(services, context.job);
  const [begun] = await JobStep.findAll({
    where: { jobId: context.job.id, name: { [Op.like]: 'import-%' } },
    order: [['finishedAt', 'DESC']],
  });
  if (!begun) return;
  const destinationSide = to.destination;
  if (!destinationSide?.stopImport) {
    throw new Refusal(problem('import-not-stopped', `${destination.name} can not stop an import that has begun.`));
  }
  await destinationSide.stopImport(z.string().parse(begun.result));
}

async function deliverInto(
  services: Services,
  context: JobContext,
  { round, shell: asked, into, way }: InputOf<'deliver'>,
): Promise<void> {
  const { move, course: row, to, destination } = await ofMove(services, context.job);
  const destinationSide = to.destination;
  if (!destinationSide) throw cannot('take courses', destination);
  const { delivery, built } = deliveryOf(move) ?? { delivery: null, built: null };
  if (!delivery || !built)
    throw new Refusal(problem('not-yet', 'No package is built yet.', {}, 'Build the package first.'));
  const key = `treenail ${context.job.requestKey}`;
  const shell = into ?? (await context.step('shell', Shell, () => destinationSide.createShell(asked, key)));
  await delivery.update({ shell: into ?? { ...shell, title: asked.title } });
  const room = { move, delivery, destination, shellId: shell.id, way: way ?? 'beside', round };
  if (way !== null) await keepWhatStands(services, context, room);
  // Before anything is taken out there, what takes its place is ready, and at the platform.
  const sent =
    way === null ? built : await packSettled(services, context, { ...room, row, side: destinationSide, built });
  const { name } = destination;
  const uploadId = await sendUp(services, context, destinationSide, { sha256: sent.sha256, round, name });
  if (way !== null) await takeOut(services, context, room);
  const importId = await unpackThere(services, context, destinationSide, {
    uploadId,
    into: shell.id,
    round,
    name,
    onBegun: (id) => keepLog(move.id, destinationSide, id),
  });
  const lines = await keepLog(move.id, destinationSide, importId);
  await keepSent(move);
  await noteBrought(move, delivery, destinationSide, shell.id);
  await delivery.update({ deliveredAt: delivery.deliveredAt ?? new Date() });
  await move.update({ openKey: null });
  const where = way !== null ? `${way} what was there` : into ? 'into what went before' : 'into a new shell';
  await noteStep(move.id, 'deliver', 'done', `${where}, ${count(lines, 'line')} of log`, delivery.askedBy);
  await refreshRegister(1000);
  await context.report({ words: `delivered to ${destination.name}`, ahead: null });
}

/** Looks again whether a course is as it was decided on, and keeps a copy of what stands in it. */
async function keepWhatStands(
  services: Services,
  context: JobContext,
  { move, delivery, destination, shellId, round }: Room,
): Promise<void> {
  const into = await readDocument(move.id, 'into');
  await context.step('looked', z.literal(true), async () => {
    await mustBeAsLookedAt(services, move, into);
    return true as const;
  });
  if (into.standing.held.length === 0) return;
  const items = into.course.items.length;
  const { askedBy } = delivery;
  const copyId = await keptBefore(services, context, destination, { remoteId: shellId, items, round, askedBy });
  await delivery.update({ beforeCopyId: copyId });
}

/** Takes out of a course what goes, once it was looked at again: what came before may have taken long. */
async function takeOut(services: Services, context: JobContext, { move, shellId, way }: Room): Promise<void> {
  const { there } = await thereOf(services, move);
  const into = await readDocument(move.id, 'into');
  if (into.standing.held.length === 0) return;
  // Not in one step with what follows: a worker that dies in that one leaves the course another than it was looked at.
  await context.step('looked-again', z.literal(true), async () => {
    await mustBeAsLookedAt(services, move, into);
    return true as const;
  });
  const { taken } = way === 'in place of' ? { taken: [] } : await readDocument(move.id, 'settled');
  await context.step(way === 'in place of' ? 'cleared' : 'taken-out', z.literal(true), async () => {
    if (way === 'in place of') await there.clear(shellId, `treenail ${context.job.requestKey}`);
    else if (taken.length > 0) await there.remove(shellId, namesOf(into, taken));
    return true as const;
  });
}

/** @throws Refusal where something that is to be taken out can't be named at the platform: it would stay, and ours be there twice */
function namesOf({ names, title }: Into, taken: readonly string[]): string[] {
  return taken.map((id) => {
    const name = names[id];
    if (name !== undefined) return name;
    throw new Refusal(
      problem('destination-changed', `“${title}” holds something that could not be told from the rest.`),
    );
  });
}

/**
 * Settles what becomes of what meets its like there, and packs anew where that makes another package: what was built is of a course
 * that knows nothing of it.
 */
async function packSettled(
  services: Services,
  context: JobContext,
  {
    move,
    row,
    delivery,
    destination,
    side,
    built,
    round,
  }: Room & { row: CourseRow; side: DestinationSide; built: Built },
): Promise<Built> {
  const sent = await context.step(`settled-${round}`, BuiltFile, async () => {
    const decided = await courseDecided(move.id);
    const { met, settled, taken } = await metIn(move, await readDocument(move.id, 'into'), decided);
    const options = { ...packing(context), settled };
    const packed = isUnsettled(settled)
      ? { built, course: decided }
      : await pack(services, { move, row, destination, side }, options);
    await writeDocument(move.id, 'settled', {
      version: delivery.planVersion,
      course: packed.course,
      settled,
      taken,
      replaced: met.flatMap((m) => (m.is.startsWith('ours') ? [m.theirs] : [])),
      unsent: met.flatMap((m) => (m.is === 'theirs' ? [m.title] : [])),
    });
    return packed.built;
  });
  if (sent.sha256 !== built.sha256) await delivery.update({ built: sent });
  return sent;
}

interface Room {
  move: WholeMove;
  delivery: Delivery;
  destination: Instance;
  shellId: string;
  way: WayIn;
  round: number;
}

/** Writes down what came by a delivery, so that it can be taken back without touching anything else. */
async function noteBrought(
  move: WholeMove,
  delivery: Delivery,
  destinationSide: DestinationSide,
  shellId: string,
): Promise<void> {
  if (!destinationSide.there) return;
  const { held, work } = await destinationSide.there.standing(shellId);
  const into = delivery.way === null || delivery.way === 'in place of' ? null : await readDocument(move.id, 'into');
  const stood = new Set(into?.standing.held);
  const overwrote = into !== null && (await readDocument(move.id, 'settled')).replaced.length > 0;
  await delivery.update({ brought: { held: held.filter((id) => !stood.has(id)), work, overwrote } });
}

/** The platform's own log, in plain words and tied to the items it means. */
async function keepLog(moveId: number, destinationSide: DestinationSide, importId: string): Promise<number> {
  const course = await courseToSend(moveId);
  const byId = new Map<string, Subject>();
  for (const subject of subjects(course)) {
    if (subject.item) byId.set(subject.item.id, subject);
    if (subject.placed) byId.set(subject.placed.node.id, subject);
  }
  const log = (await destinationSide.importLog(importId)).map(({ line, words, item: told }) => {
    // What a line that nobody knows is about may stand in it.
    const item = told ?? (words === null ? (line.split(/\s+/).find((word) => byId.has(word)) ?? null) : null);
    return {
      line,
      words,
      item: item === null ? null : (byId.get(item)?.title ?? item),
      key: byId.get(item ?? '')?.key ?? null,
    };
  });
  await writeDocument(moveId, 'log', { log });
  return log.length;
}
