import { count, inventory, questionNotes, readCourse, survey } from '@treenail/core';
import { nodeEngine } from '@treenail/core/node';
import { Copy } from '../../db/models.ts';
import type { Services } from '../../services/context.ts';
import { writeDocument } from '../../services/documents.ts';
import { carriedAs, fitWords, foretell } from '../../services/carrying.ts';
import { withPackage } from '../../services/packages.ts';
import type { Handler } from '../worker.ts';
import { cannot, noteResult, ofMove } from './of-move.ts';

/** Reads every file of the kept package, and forecasts what will become of the course at its destination. */
export const lookInside =
  (services: Services): Handler =>
  async (context) => {
    const { move, to, destination } = await ofMove(services, context.job);
    const taker = to.taker;
    if (!taker) throw cannot('take courses', destination);
    const copy = await Copy.findByPk(move.copyId ?? 0, { rejectOnEmpty: true });
    const { links, ...looked } = await withPackage(services, copy.sha256, async (pkg, described) => {
      const { course, notes } = await readCourse(pkg, described);
      const surveyed = await survey(pkg, course, {
        engine: nodeEngine,
        onProgress: ({ done, total, unit }) =>
          void context.report({ words: 'looking inside', done, total, unit }).catch(() => undefined),
      });
      return {
        course: surveyed.course,
        notes: [...notes, ...surveyed.notes, ...questionNotes(surveyed.course)],
        links: surveyed.links,
      };
    });
    context.signal.throwIfAborted();
    const counted = inventory(looked.course, links);
    const foretold = await foretell(looked.course, carriedAs(move, taker), destination, taker);
    await writeDocument(move.id, 'look', { ...looked, inventory: counted });
    await writeDocument(move.id, 'forecast', foretold);
    const quizzes = counted.kinds.find((k) => k.kind === 'quiz')?.items ?? 0;
    await noteResult(
      move,
      'look',
      `${count(counted.items, 'item')}, ${count(counted.files, 'file')}, ${count(quizzes, 'quiz', 'quizzes')}`,
    );
    await noteResult(move, 'fit', fitWords(foretold));
    await context.report({ words: 'looked inside; the fit waits for you' });
  };
