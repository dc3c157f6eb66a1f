import type { Services } from '../../services/context.ts';
import { settle } from '../../services/carrying.ts';
import { readDocument, writeDocument } from '../../services/documents.ts';
import { noteTidy } from '../../services/tidy.ts';
import { withWorkingCopy } from '../../services/working.ts';
import type { Handler } from '../worker.ts';
import { cannot, ofMove } from './of-move.ts';

/** Puts everything that was decided into the working copy, and forecasts anew. */
export const tidy =
  (services: Services): Handler =>
  async (context) => {
    const { move, to, destination } = await ofMove(services, context.job);
    const taker = to.taker;
    if (!taker) throw cannot('take courses', destination);
    const version = move.tidyVersion;
    // A later decision has a job of its own, which does all of it.
    if (move.workedVersion >= version) return;
    await context.report({ words: 'putting the mends into the working copy' });
    const { course, mended, failed } = await withWorkingCopy(services, move, async (worked) => worked);
    context.signal.throwIfAborted();
    await move.reload();
    // Something was decided meanwhile: what was made here is behind, and must not be written over what is not.
    if (move.tidyVersion !== version) return;
    await writeDocument(move.id, 'working', { course, mended: [...mended], failed: [...failed] });
    await settle(move, course, destination, taker);
    const { findings } = await readDocument(move.id, 'findings');
    await move.update({ workedVersion: version });
    await noteTidy(move, findings);
    await context.report({ words: 'the working copy is ready' });
  };
