import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { nameByRule, planPackage, targetById, writePackage, type Course, type Settled } from '@treenail/core';
import { fileSink, nodeEngine, type FileSink } from '@treenail/core/node';
import type { CourseRow, Instance, WholeMove } from '../db/models/index.ts';
import type { DestinationSide } from '../platforms/index.ts';
import type { Digest } from '../store/blob-store.ts';
import type { Services } from './context.ts';
import { carriedAs } from './move-steps.ts';
import { namingRule } from './settings.ts';
import { nameOfItsOwn } from './strongroom.ts';
import { withWorkingCopy } from './working.ts';

/** The package of a move, as it goes to the destination. */

export interface Packed {
  built: { fileName: string; format: string; size: number; sha256: string };
  /** The course as it is in the package. */
  course: Course;
}

/** Writes a file beside what is kept, and keeps it. */
export async function keptOf(
  services: Services,
  name: string,
  work: (sink: FileSink) => Promise<void>,
): Promise<{ sha256: string; size: number }> {
  await mkdir(services.config.scratch, { recursive: true });
  const part = join(services.config.scratch, `${name}.part`);
  await rm(part, { force: true });
  const sink = await fileSink(part);
  return services.store.putFile(part, await writing(sink, () => work(sink)));
}

/** Closes the sink when the work is done, and lets go of it when it fails. */
async function writing(sink: FileSink, work: () => Promise<void>): Promise<Digest> {
  try {
    await work();
  } catch (error) {
    await sink.abandon();
    throw error;
  }
  return sink.close();
}

/**
 * Writes the package of a move into the store. What did not change is copied as compressed bytes.
 * @param settled what is sent otherwise than it was decided before it was known where it goes
 */
export async function pack(
  services: Services,
  { move, row, destination, side }: { move: WholeMove; row: CourseRow; destination: Instance; side: DestinationSide },
  { name, onProgress, settled = null }: PackOptions,
): Promise<Packed> {
  const { format, target } = targetById(carriedAs(move, side).target);
  let packed: Course | undefined;
  const kept = await keptOf(services, name, (sink) =>
    withWorkingCopy(
      services,
      move,
      async ({ pkg, course }) => {
        packed = course;
        const plan = await planPackage(format, course, target, pkg);
        await writePackage(target, plan, pkg, sink, { engine: nodeEngine, onProgress });
      },
      settled,
    ),
  );
  if (!packed) throw new Error('nothing was packed');
  const fileName = await nameOfItsOwn(nameByRule(row, new Date(), target.extension, await namingRule()), {
    to: destination.name,
  });
  return { built: { ...kept, fileName, format: target.label }, course: packed };
}

export interface PackOptions {
  /** Of the file that it is written in until it is kept: one of its own for each job. */
  name: string;
  onProgress: (progress: { done: number; total: number }) => void;
  settled?: Settled | null;
}
