import { createHash } from 'node:crypto';
import { Refusal, count, courseName, problem, readChunks, type ByteSource } from '@treenail/core';
import { Op } from 'sequelize';
import * as z from 'zod';
import { PLAIN } from '../contract/index.ts';
import { Copy, CourseRow, type Instance, Job } from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import type { JobContext } from '../jobs/worker.ts';
import type { DestinationSide } from '../platforms/index.ts';
import type { Services } from '../services/context.ts';
import type { PackOptions } from '../services/packing.ts';

/** What jobs have in common that bring packages to a destination. */

export const Built = z.object({ fileName: z.string(), format: z.string(), size: z.number(), sha256: z.string() });

/** How a job packs: under a name of its own, telling how far it is. */
export function packing(context: JobContext): PackOptions {
  return {
    name: `build-${context.job.id}`,
    onProgress: ({ done, total }) =>
      void context.report({ words: 'building the package', done, total, unit: 'files' }).catch(() => undefined),
  };
}

async function upload(
  context: JobContext,
  destinationSide: DestinationSide,
  source: ByteSource,
  key: string,
  name: string,
): Promise<string> {
  const { uploadId, got } = await destinationSide.startUpload(source.size, key);
  if (got === source.size) return uploadId;
  let done = got;
  async function* counted(): AsyncGenerator<Uint8Array> {
    for await (const part of readChunks(source, got, source.size - got, 1 << 18)) {
      done += part.length;
      await context.report({ words: `uploading to ${name}`, ahead: null, done, total: source.size, unit: 'bytes' });
      yield part;
    }
  }
  await destinationSide.upload(uploadId, got, counted(), context.signal);
  return uploadId;
}

async function waitForImport(
  services: Services,
  context: JobContext,
  destinationSide: DestinationSide,
  importId: string,
  name: string,
): Promise<void> {
  const state = await destinationSide.importState(importId);
  switch (state.state) {
    case 'waiting':
      await context.report({ words: `waiting at ${name}`, ahead: state.ahead, done: 0, total: 0, unit: '' });
      return context.later(services.config.pollMs);
    case 'working':
      await context.report({
        words: `unpacking at ${name}`,
        ahead: null,
        done: state.done,
        total: state.total,
        unit: state.unit,
      });
      return context.later(services.config.pollMs);
    case 'failed':
      throw new Refusal(problem('import-failed', state.why));
    case 'gone':
      throw new Refusal(problem('import-failed', `${name} does not know the import any more.`));
    case 'ready':
      return;
  }
}

/**
 * Keeps a copy of a course of the destination before something of it is taken away, by a fetch like any other: its archive is
 * downloaded, read, and read again as it lies in the strongroom, before anything else is done. Gives the copy's identifier.
 * @param items how many things the course holds: a copy of fewer is none
 */
export async function keptBefore(
  services: Services,
  context: JobContext,
  destination: Instance,
  { remoteId, items, round, askedBy }: { remoteId: string; items: number; round: number; askedBy: number | null },
): Promise<number> {
  const course = await CourseRow.findOne({ where: { instanceId: destination.id, remoteId } });
  if (!course) throw notKept('the register does not know it');
  const key = `keep:${context.job.requestKey}`;
  const jobId = await context.step(`keep-${round}`, z.number(), async () => {
    const { id } = await enqueue({
      kind: 'fetch',
      key,
      course: courseName(course),
      moveId: null,
      courseId: course.id,
      askedBy,
      input: { round: 0, options: PLAIN },
      of: destination.name,
    });
    return id;
  });
  const job = await Job.findByPk(jobId, { rejectOnEmpty: true });
  if (job.state === 'failed' || job.state === 'called off')
    throw notKept(job.problem?.message ?? 'the fetch of it was called off');
  if (job.state !== 'done') {
    await context.report({ words: `keeping a copy of what is there: ${job.words}`.slice(0, 290), ahead: job.ahead });
    return context.later(services.config.pollMs);
  }
  return context.step(`kept-${round}`, z.number(), async () => {
    const copy = await Copy.findOne({ where: { courseId: course.id, sourceKey: { [Op.startsWith]: `${key} ` } } });
    if (!copy) throw notKept('it is gone again');
    if (!(await isSound(services, copy.sha256))) throw notKept('it is damaged');
    if (copy.items < items) throw notKept(`${count(copy.items, 'item')} of ${items} are in it`);
    return copy.id;
  });
}

/** Whether what is kept under a hash has it still. */
export async function isSound(services: Services, sha256: string): Promise<boolean> {
  if (!(await services.store.has(sha256))) return false;
  const source = await services.store.open(sha256);
  const hash = createHash('sha256');
  try {
    for await (const part of readChunks(source, 0, source.size, 1 << 20)) hash.update(part);
  } finally {
    await source.close();
  }
  return hash.digest('hex') === sha256;
}

function notKept(why: string): Refusal {
  return new Refusal(
    problem(
      'not-kept',
      `No copy of what is there could be kept: ${why.replace(/\.$/, '')}. Nothing was taken out of it.`,
    ),
  );
}

/**
 * Uploads a package, as much of it as is not there yet. What stands in the way of that (no right, no room) is told before anything
 * is taken out of the course that it is for.
 */
export async function sendUp(
  services: Services,
  context: JobContext,
  destinationSide: DestinationSide,
  { sha256, round, name }: { sha256: string; round: number; name: string },
): Promise<string> {
  return context.step(`upload-${round}`, z.string(), async () => {
    const source = await services.store.open(sha256);
    try {
      const key = `treenail ${context.job.requestKey} ${sha256}`;
      return await upload(context, destinationSide, source, key, name);
    } catch (error) {
      if (!(error instanceof Refusal) || error.problem.code !== 'platform-full') throw error;
      throw new Refusal(
        problem('destination-full', `${name} has no room for the package: nothing was taken out of any course.`),
      );
    } finally {
      await source.close();
    }
  });
}

/** Has the platform unpack what was uploaded into a course, and waits until it has. Gives the name of the import. */
export async function unpackThere(
  services: Services,
  context: JobContext,
  destinationSide: DestinationSide,
  {
    uploadId,
    into,
    round,
    name,
    onBegun = async () => undefined,
  }: { uploadId: string; into: string; round: number; name: string; onBegun?: (importId: string) => Promise<unknown> },
): Promise<string> {
  const key = `treenail ${context.job.requestKey}`;
  const importId = await context.step(`import-${round}`, z.string(), () =>
    destinationSide.startImport(into, uploadId, `${key} ${round}`),
  );
  await onBegun(importId);
  await waitForImport(services, context, destinationSide, importId, name);
  return importId;
}
