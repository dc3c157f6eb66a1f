import { randomUUID } from 'node:crypto';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { ZipWriter } from '@treenail/core';
import { Copy, CourseRow, Delivery, type Instance, type Shell, planOf, type WholeMove } from '../db/models/index.ts';
import type { Services } from '../services/context.ts';
import { createMove, noteStep } from '../services/move-rows.ts';

/** A transfer report that has nothing to say. */
export const REPORT = {
  course: { code: 'BTB 210', section: '01', term: 'Autumn 2026', title: 'Repair' },
  source: 'Old',
  destination: 'New',
  place: 'http://127.0.0.1:1/x',
  sentAt: '2026-11-24T10:00:00Z',
  checkedAt: '2026-11-24T10:00:00Z',
  packageFile: 'x.imscc',
  packageSha256: '0'.repeat(64),
  totals: { whole: 1, reworked: 0, 'left behind': 0, extra: 0, unsure: 0 },
  otherwise: 0,
  lines: [],
};

/** A zip of these files, in memory. */
export async function zipOf(files: Record<string, string | Uint8Array>): Promise<Buffer> {
  const parts: Uint8Array[] = [];
  const writer = new ZipWriter({ write: async (bytes) => void parts.push(bytes.slice()) });
  for (const [path, body] of Object.entries(files)) {
    await writer.add(path, typeof body === 'string' ? new TextEncoder().encode(body) : body);
  }
  await writer.finish();
  return Buffer.concat(parts);
}

/**
 * A course of which these files are kept as a folder of pages, and a way to start moves of it that need no fetch.
 * `folder` is where the package is written before the store takes it.
 */
export async function keptCourse(
  services: Services,
  folder: string,
  files: Record<string, string | Uint8Array>,
  { from, to, remoteId, createdBy }: { from: Instance; to: Instance; remoteId: string; createdBy: number },
): Promise<{ newMove: () => Promise<WholeMove> }> {
  const named = { code: 'BTB 210', section: '01', term: 'Autumn 2026', title: 'Repair' };
  const course = await CourseRow.create({
    ...named,
    instanceId: from.id,
    remoteId,
    owner: '',
    size: 1,
    changedAt: new Date(),
  });
  const path = join(folder, 'kept.zip');
  await writeFile(path, await zipOf(files));
  const copy = await Copy.create({
    ...named,
    ...(await services.store.putFile(path)),
    courseId: course.id,
    fileName: 'kept.zip',
    instanceName: from.name,
    format: 'Folder of pages',
    items: Object.keys(files).length,
    keptAt: new Date(),
    sourceKey: 'k',
  });
  const newMove = () =>
    createMove({
      courseId: course.id,
      destinationId: to.id,
      createdBy,
      createdAt: new Date(),
      openKey: null,
      copyId: copy.id,
    });
  return { newMove };
}

/** As if a move had been delivered. */
export async function deliveredAlready(move: WholeMove, shell: Shell | null = null): Promise<void> {
  await Delivery.create({
    moveId: move.id,
    planVersion: planOf(move).version,
    requestKey: `deliver:${randomUUID()}`,
    asked: {},
    askedBy: null,
    askedAt: new Date(),
    shell,
    deliveredAt: new Date(),
  });
  for (const step of ['fit', 'build', 'deliver'] as const) await noteStep(move.id, step, 'done', '');
}
