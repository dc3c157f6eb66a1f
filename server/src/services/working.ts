import { randomUUID } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import {
  Refusal,
  besideWhatWent,
  problem,
  workingCopy,
  type Course,
  type CourseLink,
  type Package,
} from '@treenail/core';
import { nodeEngine, scratchFile } from '@treenail/core/node';
import { Copy, Instance, MoveDocument, planOf, type WholeMove } from '../db/models/index.ts';
import type { PlanContent } from '../contract/index.ts';
import type { Services } from './context.ts';
import { redatePlanOf, redatesOf } from './dates.ts';
import { decisionsOf, hiddenUntilOf, leftOutOf } from './decided.ts';
import { documentIfAny, readDocument } from './documents.ts';
import { connectorOf } from './instances.ts';
import { moveById } from './move-rows.ts';
import { withPackage } from './packages.ts';
import { supplied } from './supplies.ts';

/** Whether anything was decided that made a working copy. */
export async function hasWorkingCopy(moveId: number): Promise<boolean> {
  return (await MoveDocument.count({ where: { moveId, kind: 'working' } })) > 0;
}

/** The course as it will be sent: the working copy where there is one, else as it was fetched. */
export async function courseToSend(moveId: number): Promise<Course> {
  const { course } = (await hasWorkingCopy(moveId))
    ? await readDocument(moveId, 'working')
    : await readDocument(moveId, 'look');
  return course;
}

export interface Worked {
  pkg: Package;
  course: Course;
  links: readonly CourseLink[];
  mended: readonly string[];
  failed: readonly { key: string; decision: string; why: string }[];
}

/**
 * Opens what was kept for a move, with everything in it that was decided. The kept package stays as it is: what is new
 * lies beside it for as long as `work` takes.
 */
export async function withWorkingCopy<T>(
  services: Services,
  move: WholeMove,
  work: (worked: Worked) => Promise<T>,
): Promise<T> {
  const copy = await Copy.findByPk(move.copyId ?? 0, { rejectOnEmpty: true });
  const [{ course }, { links }, { findings }, decisions, leftOut, hiddenUntil, redates, part] = await Promise.all([
    readDocument(move.id, 'look'),
    readDocument(move.id, 'links'),
    readDocument(move.id, 'findings'),
    decisionsOf(move.id),
    leavesOut(services, move),
    hiddenUntilOf(move.id),
    redatesOf(services, move.id),
    partOf(services, move),
  ]);
  const asPart = (worked: Worked): Worked =>
    part?.more === 'named' ? { ...worked, course: besideWhatWent(worked.course, part.sent, course) } : worked;
  return withPackage(services, copy.sha256, async (pkg) => {
    if (decisions.length + leftOut.length === 0 && redates === null && hiddenUntil === null)
      return work({ pkg, course, links, mended: [], failed: [] });
    const supplies = await supplied(services, move.id, decisions);
    const scratch = join(services.config.scratch, `mended-${randomUUID()}.zip`);
    await mkdir(services.config.scratch, { recursive: true });
    try {
      const more = { ...(redates === null ? {} : { redates }), ...(hiddenUntil === null ? {} : { hiddenUntil }) };
      const options = { engine: nodeEngine, leftOut, scratch: scratchFile(scratch), supplies, ...more };
      const worked = await workingCopy(pkg, { course, links }, findings, decisions, options);
      // What lies beside the kept package has a handle of its own.
      return await work(asPart(worked)).finally(() => worked.pkg.close());
    } finally {
      await rm(scratch, { force: true });
    }
  });
}

/** Of a part that follows others: what went before it, and what becomes of that in the form it is carried in. */
async function partOf(services: Services, move: WholeMove) {
  const sent = planOf(move).further === null ? null : await documentIfAny(move.id, 'sent');
  if (!sent) return null;
  const destination = await Instance.findByPk(move.destinationId, { rejectOnEmpty: true });
  const side = connectorOf(services.config.secret, destination).destination;
  const form = side?.takes.find((t) => t.target === planOf(move).carriedAs) ?? side?.takes[0];
  return { sent: sent.course, more: form?.more ?? 'added' };
}

/** Identifiers of what a further part finds where it goes, so that it need not come with it. */
export async function foundThere(services: Services, move: WholeMove): Promise<Set<string>> {
  const part = await partOf(services, move);
  return new Set(part?.more === 'named' ? part.sent.items.map((i) => i.id) : []);
}

/** Whether all that went goes once more with a further part: what stands there goes when more comes. */
export async function comingAgain(services: Services, move: WholeMove): Promise<boolean> {
  return (await partOf(services, move))?.more === 'instead';
}

/** Identifiers of what does not go. Where all that stands there goes when more comes, what went before has to come again. */
async function leavesOut(services: Services, move: WholeMove): Promise<string[]> {
  const [leftOut, part] = await Promise.all([leftOutOf(move.id), partOf(services, move)]);
  if (part?.more !== 'instead') return leftOut;
  const went = new Set(part.sent.items.map((i) => i.id));
  return leftOut.filter((id) => !went.has(id));
}

/** What is decided of a move as it stands, to be kept with its plan. */
export async function planContent(move: WholeMove): Promise<PlanContent> {
  const { carriedAs, formChosen } = planOf(move);
  const [decisions, leftOut, redate, { totals }] = await Promise.all([
    decisionsOf(move.id),
    leftOutOf(move.id),
    redatePlanOf(move.id),
    readDocument(move.id, 'forecast'),
  ]);
  return { carriedAs: carriedAs ?? null, formChosen, decisions, leftOut, redate, totals };
}

/** Whether all that was decided is in the working copy. */
export async function isCurrent(moveId: number): Promise<boolean> {
  const { workedVersion, tidyVersion } = planOf(await moveById(moveId));
  return workedVersion === tidyVersion;
}

/** A forecast may be accepted only of what will be built. */
export function mustBeCurrent(move: WholeMove): void {
  if (planOf(move).workedVersion === planOf(move).tidyVersion) return;
  throw new Refusal(problem('working-copy-behind', 'What was decided last is not in the working copy yet.'));
}
