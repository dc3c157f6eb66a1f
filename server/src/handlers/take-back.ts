import { Refusal, problem } from '@treenail/core';
import * as z from 'zod';
import { Copy, type Delivery, type Instance, type WholeMove } from '../db/models/index.ts';
import type { InputOf } from '../jobs/definitions.ts';
import type { Handler, JobContext } from '../jobs/worker.ts';
import { backPlan, noteTakenBack } from '../services/back.ts';
import type { Services } from '../services/context.ts';
import { thereOf } from '../services/into.ts';
import { refreshRegister } from '../services/register.ts';
import { ofMove } from './of-move.ts';
import { isSound, keptBefore, sendUp, unpackThere } from './sending.ts';

/** Takes a delivery back: what was there before it is there again, and who is in the course stays. */
export const takeBackDelivery = (services: Services): Handler<'take-back'> => ({
  run: (context, input) => takeBack(services, context, input),
});

const How = z.enum(['course', 'parts', 'restore']);

async function takeBack(services: Services, context: JobContext, { round }: InputOf<'take-back'>): Promise<void> {
  const { move, destination } = await ofMove(services, context.job);
  const { there } = await thereOf(services, move);
  // Judged once: what is half taken back looks like something else, and once it is noted another delivery is the last.
  const { by, deliveryId } = await context.step('judged', z.object({ by: How, deliveryId: z.number() }), async () => {
    const plan = await backPlan(services, move);
    if (plan.why !== '') throw new Refusal(problem('no-way-back', plan.why));
    return { by: plan.by, deliveryId: plan.delivery.id };
  });
  const delivery = move.deliveries.find((d) => d.id === deliveryId);
  const shell = delivery?.shell;
  if (!delivery || !shell || delivery.takenBackAt !== null) return;
  await context.report({ words: `taking back at ${destination.name}`, ahead: null });
  if (by === 'course') await there.removeCourse(shell.id);
  else if (by === 'parts') await there.remove(shell.id, delivery.brought?.held ?? []);
  else await restore(services, context, { move, destination, shellId: shell.id, delivery, round });
  await noteTakenBack(move, delivery, context.job.askedBy);
  await refreshRegister(1000);
  await context.report({ words: `taken back at ${destination.name}`, ahead: null });
}

/** What is there now is kept, then all of it goes, then what was there before comes again, out of its kept copy. */
async function restore(services: Services, context: JobContext, of: Restored): Promise<void> {
  const { move, destination, shellId, delivery, round } = of;
  const { side, there } = await thereOf(services, move);
  const items = await context.step('counted', z.number(), async () => {
    const { course } = await side.readBack(shellId, context.signal);
    return course.items.length;
  });
  const { askedBy } = context.job;
  const before =
    delivery.beforeCopyId === null ? null : await Copy.findByPk(delivery.beforeCopyId, { rejectOnEmpty: true });
  await context.step('sound', z.literal(true), async () => {
    if (before && !(await isSound(services, before.sha256))) {
      throw new Refusal(
        problem('copy-damaged', 'The kept copy of what was there before is damaged: nothing was taken out.'),
      );
    }
    return true as const;
  });
  if (items > 0) await keptBefore(services, context, destination, { remoteId: shellId, items, round, askedBy });
  const { name } = destination;
  const uploadId = before && (await sendUp(services, context, side, { sha256: before.sha256, round, name }));
  // Both may have taken long: learners may have worked in it meanwhile. Not in one step with what follows, as at a delivery.
  await context.step('unused', z.literal(true), async () => {
    const { work } = await there.standing(shellId);
    if (work > 0) {
      throw new Refusal(
        problem(
          'no-way-back',
          'Learners have worked in it meanwhile: what they did would be lost. Nothing was taken out.',
        ),
      );
    }
    return true as const;
  });
  await context.step('cleared', z.literal(true), async () => {
    await there.clear(shellId, `treenail ${context.job.requestKey}`);
    return true as const;
  });
  if (uploadId !== null) await unpackThere(services, context, side, { uploadId, into: shellId, round, name });
}

interface Restored {
  move: WholeMove;
  destination: Instance;
  shellId: string;
  delivery: Delivery;
  round: number;
}
