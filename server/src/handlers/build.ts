import { planOf } from '../db/models/index.ts';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { nameByRule, planPackage, readableSize, targetById, writePackage } from '@treenail/core';
import { fileSink, nodeEngine, type FileSink } from '@treenail/core/node';
import * as z from 'zod';
import type { Services } from '../services/context.ts';
import { namingRule } from '../services/settings.ts';
import { nameOfItsOwn } from '../services/strongroom.ts';
import { withWorkingCopy } from '../services/working.ts';
import type { Digest } from '../store/blob-store.ts';
import type { Handler } from '../jobs/worker.ts';
import { moveById, noteStep } from '../services/move-rows.ts';
import { carriedAs } from '../services/move-steps.ts';
import { cannot, ofMove } from './of-move.ts';

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

const Built = z.object({ fileName: z.string(), format: z.string(), size: z.number(), sha256: z.string() });

/** Writes the package for the destination. What did not change is copied as compressed bytes. */
export const build = (services: Services): Handler<'build'> => ({
  run: async (context, { round }) => {
    const { move, course: row, to, destination } = await ofMove(services, context.job);
    const destinationSide = to.destination;
    if (!destinationSide) throw cannot('take courses', destination);
    const { format, target } = targetById(carriedAs(move, destinationSide).target);
    const built = await context.step(`build-${round}`, Built, async () => {
      await mkdir(services.config.scratch, { recursive: true });
      const part = join(services.config.scratch, `build-${context.job.id}.part`);
      await rm(part, { force: true });
      const sink = await fileSink(part);
      const digest = await writing(sink, () =>
        withWorkingCopy(services, move, async ({ pkg, course }) => {
          const plan = await planPackage(format, course, target, pkg);
          await writePackage(target, plan, pkg, sink, {
            engine: nodeEngine,
            onProgress: ({ done, total }) =>
              void context.report({ words: 'building the package', done, total, unit: 'files' }).catch(() => undefined),
          });
        }),
      );
      const kept = await services.store.putFile(part, digest);
      return {
        ...kept,
        fileName: await nameOfItsOwn(nameByRule(row, new Date(), target.extension, await namingRule()), {
          to: destination.name,
        }),
        format: target.label,
      };
    });
    await planOf(move).update({ built });
    // The fit was opened again meanwhile: what was built is of a plan that counts no more.
    if (planOf(await moveById(move.id)).version !== planOf(move).version) return;
    await noteStep(move.id, 'build', 'done', `${built.format}, ${readableSize(built.size)}`);
    await context.report({ words: 'package built' });
  },
});
