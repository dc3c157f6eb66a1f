import { randomUUID } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import {
  Refusal,
  problem,
  workingCopy,
  type Course,
  type CourseLink,
  type Decision,
  type Package,
} from '@treenail/core';
import { nodeEngine, scratchFile } from '@treenail/core/node';
import * as z from 'zod';
import { Copy, DecisionRow, MoveDocument, planOf, type WholeMove } from '../db/models/index.ts';
import type { PlanContent } from '../contract/index.ts';
import type { Services } from './context.ts';
import { readDocument } from './documents.ts';
import { withPackage } from './packages.ts';
import { supplied } from './supplies.ts';

/** What people decided on findings of a move, the earliest first. */
export async function decisionsOf(moveId: number): Promise<Decision[]> {
  const rows = await DecisionRow.findAll({ where: { moveId }, order: [['id', 'ASC']] });
  return rows.map((row) => ({
    id: String(row.id),
    match: { kind: row.matchKind, groupKey: row.matchGroupKey, key: row.matchKey },
    mend: row.mend,
    params: z.record(z.string(), z.string()).parse(row.params),
    reason: row.reason,
  }));
}

/** Identifiers of items that a person leaves out. */
export async function leftOutOf(moveId: number): Promise<string[]> {
  return (await has(moveId, 'selection')) ? (await readDocument(moveId, 'selection')).leftOut : [];
}

/** Whether anything was decided that made a working copy. */
export function hasWorkingCopy(moveId: number): Promise<boolean> {
  return has(moveId, 'working');
}

async function has(moveId: number, kind: 'selection' | 'working'): Promise<boolean> {
  return (await MoveDocument.count({ where: { moveId, kind } })) > 0;
}

/** The course as it will be sent: the working copy where there is one, else as it was fetched. */
export async function courseToSend(moveId: number): Promise<Course> {
  const { course } = (await has(moveId, 'working'))
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
  const [{ course }, { links }, { findings }, decisions, leftOut] = await Promise.all([
    readDocument(move.id, 'look'),
    readDocument(move.id, 'links'),
    readDocument(move.id, 'findings'),
    decisionsOf(move.id),
    leftOutOf(move.id),
  ]);
  return withPackage(services, copy.sha256, async (pkg) => {
    if (decisions.length + leftOut.length === 0) return work({ pkg, course, links, mended: [], failed: [] });
    const supplies = await supplied(services, move.id, decisions);
    const scratch = join(services.config.scratch, `mended-${randomUUID()}.zip`);
    await mkdir(services.config.scratch, { recursive: true });
    try {
      const options = { engine: nodeEngine, leftOut, scratch: scratchFile(scratch), supplies };
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
  const [decisions, leftOut, { totals }] = await Promise.all([
    decisionsOf(move.id),
    leftOutOf(move.id),
    readDocument(move.id, 'forecast'),
  ]);
  return { carriedAs: carriedAs ?? null, formChosen, decisions, leftOut, totals };
}

/** A forecast may be accepted only of what will be built. */
export function mustBeCurrent(move: WholeMove): void {
  if (planOf(move).workedVersion === planOf(move).tidyVersion) return;
  throw new Refusal(problem('working-copy-behind', 'What was decided last is not in the working copy yet.'));
}
