import { randomUUID } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Refusal, problem, workingCopy, type Course, type CourseLink, type Package } from '@treenail/core';
import { nodeEngine, scratchFile } from '@treenail/core/node';
import { Copy, MoveDocument, planOf, type WholeMove } from '../db/models/index.ts';
import type { PlanContent } from '../contract/index.ts';
import type { Services } from './context.ts';
import { redatePlanOf, redatesOf } from './dates.ts';
import { decisionsOf, leftOutOf } from './decided.ts';
import { readDocument } from './documents.ts';
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
  const [{ course }, { links }, { findings }, decisions, leftOut, redates] = await Promise.all([
    readDocument(move.id, 'look'),
    readDocument(move.id, 'links'),
    readDocument(move.id, 'findings'),
    decisionsOf(move.id),
    leftOutOf(move.id),
    redatesOf(services, move.id),
  ]);
  return withPackage(services, copy.sha256, async (pkg) => {
    if (decisions.length + leftOut.length === 0 && redates === null)
      return work({ pkg, course, links, mended: [], failed: [] });
    const supplies = await supplied(services, move.id, decisions);
    const scratch = join(services.config.scratch, `mended-${randomUUID()}.zip`);
    await mkdir(services.config.scratch, { recursive: true });
    try {
      const more = redates === null ? {} : { redates };
      const options = { engine: nodeEngine, leftOut, scratch: scratchFile(scratch), supplies, ...more };
      const worked = await workingCopy(pkg, { course, links }, findings, decisions, options);
      // What lies beside the kept package has a handle of its own.
      return await work(worked).finally(() => worked.pkg.close());
    } finally {
      await rm(scratch, { force: true });
    }
  });
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

/** A forecast may be accepted only of what will be built. */
export function mustBeCurrent(move: WholeMove): void {
  if (planOf(move).workedVersion === planOf(move).tidyVersion) return;
  throw new Refusal(problem('working-copy-behind', 'What was decided last is not in the working copy yet.'));
}
