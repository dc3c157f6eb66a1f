import { randomUUID } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import {
  Refusal,
  besideWhatWent,
  isAsItWas,
  problem,
  workingCopy,
  type Course,
  type CourseLink,
  type Package,
  type Settled,
} from '@treenail/core';
import { nodeEngine, scratchFile } from '@treenail/core/node';
import { Copy, Instance, MoveDocument, MovePlan, isCurrent, planOf, type WholeMove } from '../db/models/index.ts';
import type { PlanContent } from '../contract/index.ts';
import type { TakenForm } from '../platforms/index.ts';
import type { Services } from './context.ts';
import { redatePlanOf, redatesOf } from './dates.ts';
import { alongOf, decisionsOf, hiddenUntilOf, leftOutOf } from './decided.ts';
import { documentIfAny, readDocument, type DocumentOf } from './documents.ts';
import { connectorOf } from './instances.ts';
import { carriedAs } from './move-steps.ts';
import { withPackage } from './packages.ts';
import { supplied } from './supplies.ts';

/** Whether anything was decided that made a working copy. */
export async function hasWorkingCopy(moveId: number): Promise<boolean> {
  return (await MoveDocument.count({ where: { moveId, kind: 'working' } })) > 0;
}

/** The course as it is sent: as it was decided, and otherwise where something was decided of what meets its like there. */
export async function courseToSend(moveId: number): Promise<Course> {
  return (await settledOf(moveId))?.course ?? courseDecided(moveId);
}

/** What was decided of what meets its like where the plan that counts is delivered. */
export async function settledOf(moveId: number): Promise<DocumentOf<'settled'> | null> {
  const settled = await documentIfAny(moveId, 'settled');
  if (!settled) return null;
  const version = await MovePlan.max<number, MovePlan>('version', { where: { moveId } });
  return settled.version === version ? settled : null;
}

/** The course as it was decided, wherever it goes: the working copy where there is one, else as it was fetched. */
export async function courseDecided(moveId: number): Promise<Course> {
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
  settled: Settled | null = null,
): Promise<T> {
  const copy = await Copy.findByPk(move.copyId ?? 0, { rejectOnEmpty: true });
  const [{ course }, { links }, { findings }, decisions, unticked, hiddenUntil, along, redates, before] =
    await Promise.all([
      readDocument(move.id, 'look'),
      readDocument(move.id, 'links'),
      readDocument(move.id, 'findings'),
      decisionsOf(move.id),
      leftOutOf(move.id),
      hiddenUntilOf(move.id),
      alongOf(move.id),
      redatesOf(services, move.id),
      beforeIt(services, move),
    ]);
  const leftOut = leavesOut(unticked, before);
  const asPart = (worked: Worked): Worked =>
    before?.more === 'named' ? { ...worked, course: besideWhatWent(worked.course, before.sent, course) } : worked;
  return withPackage(services, copy.sha256, async (pkg) => {
    const withoutEmpty = Boolean(move.errand?.items);
    const isAsIs = isAsItWas(along) && hiddenUntil === null;
    const isFetched = decisions.length + leftOut.length === 0 && redates === null && isAsIs;
    if (isFetched && settled === null) return work(asPart({ pkg, course, links, mended: [], failed: [] }));
    const supplies = await supplied(services, move.id, decisions);
    const scratch = join(services.config.scratch, `mended-${randomUUID()}.zip`);
    await mkdir(services.config.scratch, { recursive: true });
    try {
      const more = {
        ...(redates === null ? {} : { redates }),
        ...(hiddenUntil === null ? {} : { hiddenUntil }),
        ...(settled ? { settled } : {}),
        along,
        withoutEmpty,
      };
      const options = { engine: nodeEngine, leftOut, scratch: scratchFile(scratch), supplies, ...more };
      const worked = await workingCopy(pkg, { course, links }, findings, decisions, options);
      // What lies beside the kept package has a handle of its own.
      return await work(asPart(worked)).finally(() => worked.pkg.close());
    } finally {
      await rm(scratch, { force: true });
    }
  });
}

/** What went before a part that follows others, and what becomes of that in the form that the part is carried in. */
export interface Before {
  sent: Course;
  more: TakenForm['more'];
}

/** `null` of a first part. */
export async function beforeIt(services: Services, move: WholeMove): Promise<Before | null> {
  const sent = planOf(move).further === null ? null : await documentIfAny(move.id, 'sent');
  if (!sent) return null;
  const destination = await Instance.findByPk(move.destinationId, { rejectOnEmpty: true });
  const side = connectorOf(services.config.secret, destination).destination;
  return { sent: sent.course, more: side ? carriedAs(move, side).more : 'added' };
}

/** Identifiers of what a further part finds where it goes, so that it need not come with it. */
export function foundThere(before: Before | null): Set<string> {
  return new Set(before?.more === 'named' ? before.sent.items.map((i) => i.id) : []);
}

/** What does not go. Where all that stands there goes when more comes, what went before has to come again. */
function leavesOut(leftOut: readonly string[], before: Before | null): string[] {
  const again = new Set(before?.more === 'instead' ? before.sent.items.map((i) => i.id) : []);
  return leftOut.filter((id) => !again.has(id));
}

/** What is decided of a move as it stands, to be kept with its plan. */
export async function planContent(move: WholeMove): Promise<PlanContent> {
  const { carriedAs, formChosen } = planOf(move);
  const [decisions, leftOut, along, redate, { totals }] = await Promise.all([
    decisionsOf(move.id),
    leftOutOf(move.id),
    alongOf(move.id),
    redatePlanOf(move.id),
    readDocument(move.id, 'forecast'),
  ]);
  return { carriedAs: carriedAs ?? null, formChosen, decisions, leftOut, along, redate, totals };
}

/** A forecast may be accepted only of what will be built. */
export function mustBeCurrent(move: WholeMove): void {
  if (isCurrent(move)) return;
  throw new Refusal(problem('working-copy-behind', 'What was decided last is not in the working copy yet.'));
}
