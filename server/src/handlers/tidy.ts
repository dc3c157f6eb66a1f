import type { Services } from '../services/context.ts';
import { settle } from '../services/carrying.ts';
import { readDocument, writeDocument } from '../services/documents.ts';
import { noteRedate } from '../services/redate.ts';
import { noteTidy } from '../services/tidy.ts';
import { withWorkingCopy } from '../services/working.ts';
import { type Instance, planOf, type WholeMove } from '../db/models/index.ts';
import type { DestinationSide } from '../platforms/index.ts';
import type { Handler, JobContext } from '../jobs/worker.ts';
import { cannot, ofMove } from './of-move.ts';

/** Puts everything that was decided into the working copy, and forecasts anew. */
export const tidy = (services: Services): Handler<'tidy'> => ({
  run: async (context) => {
    const { move, to, destination } = await ofMove(services, context.job);
    if (!to.destination) throw cannot('take courses', destination);
    // A later decision has a job of its own, which does all of it.
    if (planOf(move).workedVersion >= planOf(move).tidyVersion) return;
    if (await putMendsIn(services, context, { move, destination, destinationSide: to.destination }))
      await context.report({ words: 'the working copy is ready' });
  },
});

/** Whether what was decided when it began is what is decided still, and so is written down. */
export async function putMendsIn(
  services: Services,
  context: JobContext,
  { move, destination, destinationSide }: { move: WholeMove; destination: Instance; destinationSide: DestinationSide },
): Promise<boolean> {
  const version = planOf(move).tidyVersion;
  await context.report({ words: 'putting the mends into the working copy' });
  const { course, mended, failed } = await withWorkingCopy(services, move, async (worked) => worked);
  context.signal.throwIfAborted();
  await planOf(move).reload();
  // Something was decided meanwhile: what was made here is behind, and must not be written over what is not.
  if (planOf(move).tidyVersion !== version) return false;
  await writeDocument(move.id, 'working', { course, mended: [...mended], failed: [...failed] });
  await settle(move, course, destination, destinationSide);
  const { findings } = await readDocument(move.id, 'findings');
  await noteTidy(move, findings);
  await noteRedate(services, move);
  // Last of all: what died before is done again.
  await planOf(move).update({ workedVersion: version });
  return true;
}
