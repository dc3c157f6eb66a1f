import { isCurrent, planOf } from '../../db/models/index.ts';
import { Refusal, problem, relationsOf, wordsAsked } from '@treenail/core';
import type { Person } from '../../contract/index.ts';
import { carryAs, formsOf } from '../../services/carrying.ts';
import { allSent, furtherOf, partNotes, sendMore } from '../../services/further.ts';
import { backOf, takeBack } from '../../services/back.ts';
import { giveWords, toldLog } from '../../services/log-words.ts';
import { goInto, intoOf, lookAt, meet, targetsOf } from '../../services/into.ts';
import type { Services } from '../../services/context.ts';
import { documentIfAny, readDocument } from '../../services/documents.ts';
import { inventoryAsCsv, inventoryAsXlsx } from '../../services/inventory-sheets.ts';
import * as moves from '../../services/moves.ts';
import type { Read } from '../../services/readings.ts';
import { searchTexts } from '../../services/texts.ts';
import { openDates } from '../../services/redate.ts';
import * as tidy from '../../services/tidy.ts';
import { courseDecided, hasWorkingCopy } from '../../services/working.ts';
import { askedPart, sendPart, type SendBlob } from '../sending.ts';
import type { Answers, Call } from '../serve.ts';
import type { Endpoints } from '../../contract/index.ts';
import * as retries from '../../services/retries.ts';

type Names =
  | 'moves'
  | 'startMove'
  | 'move'
  | 'look'
  | 'fit'
  | 'relations'
  | 'searchTexts'
  | 'inventorySheet'
  | 'carryAs'
  | 'log'
  | 'check'
  | 'arrivedPreview'
  | 'preview'
  | 'file'
  | 'accept'
  | 'reopenFit'
  | 'callOffMove'
  | 'putAway'
  | 'takeOut'
  | 'retry'
  | 'there'
  | 'deliver'
  | 'further'
  | 'sentSource'
  | 'sentPreview'
  | 'sendMore'
  | 'targets'
  | 'lookAt'
  | 'into'
  | 'giveWords'
  | 'goInto'
  | 'meet'
  | 'back'
  | 'takeBack'
  | 'builtPackage';

/** What is asked of a move, step by step. */
export function moveAnswers(services: Services, read: Read, sendBlob: SendBlob): Answers<Names> {
  const summary = async (id: number) => moves.moveSummary(await moves.moveById(id));
  const act =
    (work: (person: Person, id: number) => Promise<void>) =>
    async ({ person, params: [id] }: Call<Endpoints['accept']>) => {
      await work(person, id);
      return summary(id);
    };
  return {
    moves: ({ person, query }) => moves.listMoves(person, query),
    startMove: async ({ person, body, res }) => {
      const { moveId, fresh } = await moves.startMove(person, body);
      // Of one that was there already nothing is made.
      if (fresh) res.status(201);
      return summary(moveId);
    },
    move: ({ params: [id] }) => summary(id),
    look: async ({ params: [id] }) => {
      const [look, mended] = await Promise.all([readDocument(id, 'look'), hasWorkingCopy(id)]);
      return { ...look, mended };
    },
    fit: async ({ params: [id] }) => {
      const [course, forecast, forms, missing, open, dates, move, part, goes] = await Promise.all([
        courseDecided(id),
        readDocument(id, 'forecast'),
        formsOf(services, id),
        moves.missingIn(id),
        tidy.openIn(id),
        openDates(id),
        moves.moveById(id),
        partNotes(services, id),
        intoOf(services, id),
      ]);
      const into = goes.into ? [`It goes ${goes.into.way} what is in “${goes.into.title}”.`, ...goes.says] : [];
      return { course, forecast, forms, missing, open, dates, current: isCurrent(move), part, into };
    },
    relations: async ({ params: [id] }) => {
      const [{ course }, { links }] = await Promise.all([readDocument(id, 'look'), readDocument(id, 'links')]);
      const { pointsAt, pointedAtBy } = relationsOf(course, links);
      const plain = (of: typeof pointsAt) => Object.fromEntries([...of].map(([item, all]) => [item, [...all]]));
      return { pointsAt: plain(pointsAt), pointedAtBy: plain(pointedAtBy) };
    },
    searchTexts: ({ params: [id], query: { q } }) => searchTexts(services, id, q),
    inventorySheet: async ({ params: [id, format], res }) => {
      const { course, inventory } = await readDocument(id, 'look');
      res.attachment(`inventory_move-${id}.${format}`);
      if (format === 'json') res.json({ title: course.title, origin: course.origin, inventory });
      else if (format === 'csv') res.type('text/csv').send(inventoryAsCsv(course, inventory));
      else res.send(await inventoryAsXlsx(course, inventory));
    },
    carryAs: ({ person, params: [id], body: { target } }) => carryAs(services, person, id, target),
    log: ({ params: [id] }) => toldLog(id),
    giveWords: ({ person, params: [id], body }) => giveWords(person, id, body),
    check: async ({ params: [id] }) => {
      const [{ course }, arrived, comparison, theirs] = await Promise.all([
        allSent(id),
        readDocument(id, 'arrived'),
        readDocument(id, 'comparison'),
        documentIfAny(id, 'theirs'),
      ]);
      return { course, arrived, comparison, theirs: theirs?.says ?? '' };
    },
    arrivedPreview: ({ params: [id], query: { item, learner } }) =>
      moves.previewOfArrived(id, item, learner !== undefined),
    preview: ({ params: [id], query: asked }) =>
      'item' in asked
        ? read('previewOfItem', id, asked.item, {
            learner: asked.learner !== undefined,
            words: wordsAsked(asked.q ?? ''),
            mended: asked.mended !== undefined,
          })
        : read('previewOfFile', id, asked.path),
    file: ({ params: [id], query: asked, req, res }) =>
      moves.withFile(services, id, asked.path, asked.mended !== undefined, async (file) => {
        const part = askedPart(req, res, file.size);
        if (part === null) return;
        // It may be shown, but not become a page of this origin.
        // Nor may anything be packed on its way: a part of it would be another part.
        res
          .set('Content-Security-Policy', "sandbox; default-src 'none'")
          .set('Cache-Control', 'no-store, no-transform');
        res.type(file.mediaType);
        await sendPart(res, file.bytes(), part);
      }),
    accept: act(moves.acceptFit),
    reopenFit: act(moves.reopenFit),
    callOffMove: act(moves.callOffMove),
    putAway: act((person, id) => moves.putAway(person, id, true)),
    takeOut: act((person, id) => moves.putAway(person, id, false)),
    retry: act(retries.retry),
    there: ({ params: [id] }) => moves.thereAlready(id),
    deliver: async ({ person, params: [id], body }) => {
      await moves.deliver(services, person, id, body);
      return summary(id);
    },
    sentSource: async ({ params: [id] }) => ({ source: (await readDocument(id, 'sent')).source }),
    sentPreview: ({ params: [id], query: { item, learner } }) =>
      moves.previewOfSent(services, id, item, learner !== undefined),
    further: ({ params: [id] }) => furtherOf(services, id),
    targets: ({ params: [id], query: { words } }) => targetsOf(services, id, words),
    lookAt: ({ params: [id, course] }) => lookAt(services, id, course),
    into: ({ params: [id] }) => intoOf(services, id),
    goInto: ({ person, params: [id], body: { choice } }) => goInto(services, person, id, choice),
    meet: ({ person, params: [id], body }) => meet(services, person, id, body),
    back: ({ params: [id] }) => backOf(services, id),
    takeBack: async ({ person, params: [id] }) => {
      await takeBack(services, person, id);
      return summary(id);
    },
    sendMore: async ({ person, params: [id], body }) => {
      await sendMore(person, id, body);
      return summary(id);
    },
    builtPackage: async ({ params: [id], req, res }) => {
      const { built } = planOf(await moves.moveById(id));
      if (!built) throw new Refusal(problem('not-yet', 'No package is built yet.', {}, 'Accept the fit first.'));
      sendBlob(req, res, built);
    },
  };
}
