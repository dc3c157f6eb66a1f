import { readableSize } from '@treenail/core';
import { planOf } from '../db/models/index.ts';
import type { Services } from '../services/context.ts';
import type { Handler } from '../jobs/worker.ts';
import { moveById, noteStep } from '../services/move-rows.ts';
import { pack } from '../services/packing.ts';
import { cannot, ofMove } from './of-move.ts';
import { Built, packing } from './sending.ts';

/** Writes the package for the destination. */
export const build = (services: Services): Handler<'build'> => ({
  run: async (context, { round }) => {
    const { move, course: row, to, destination } = await ofMove(services, context.job);
    const side = to.destination;
    if (!side) throw cannot('take courses', destination);
    const built = await context.step(`build-${round}`, Built, async () => {
      const packed = await pack(services, { move, row, destination, side }, packing(context));
      return packed.built;
    });
    await planOf(move).update({ built });
    // The fit was opened again meanwhile: what was built is of a plan that counts no more.
    if (planOf(await moveById(move.id)).version !== planOf(move).version) return;
    await noteStep(move.id, 'build', 'done', `${built.format}, ${readableSize(built.size)}`);
    await context.report({ words: 'package built' });
  },
});
