import { Refusal, problem, relationsOf, wordsAsked } from '@treenail/core';
import type { Router } from 'express';
import * as z from 'zod';
import { carryAs, formsOf } from '../../services/carrying.ts';
import type { Services } from '../../services/context.ts';
import { readDocument, readLog } from '../../services/documents.ts';
import { inventoryAsCsv, inventoryAsXlsx } from '../../services/inventory-sheets.ts';
import * as moves from '../../services/moves.ts';
import type { Read } from '../../services/readings.ts';
import { searchTexts } from '../../services/texts.ts';
import * as tidy from '../../services/tidy.ts';
import { courseToSend, hasWorkingCopy } from '../../services/working.ts';
import { DeliverRequest, MovesAsked, NewMove, type Person } from '../../contract/index.ts';
import { Id } from '../id.ts';
import { askedPart, sendPart, type SendBlob } from '../sending.ts';
import { personIn } from '../session.ts';

/** What is asked of a move, step by step. */
export function moveRoutes(api: Router, services: Services, read: Read, sendBlob: SendBlob): void {
  const summary = async (id: number) => moves.moveSummary(await moves.moveById(id));
  api.get(
    '/moves',
    async (req, res) => void res.json(await moves.listMoves(personIn(req), MovesAsked.parse(req.query))),
  );
  api.post('/moves', async (req, res) => {
    const { moveId, fresh } = await moves.startMove(personIn(req), NewMove.parse(req.body));
    res.status(fresh ? 201 : 200).json(await summary(moveId));
  });
  api.get('/moves/:id', async (req, res) => void res.json(await summary(Id.parse(req.params.id))));
  api.get('/moves/:id/look', async (req, res) => {
    const id = Id.parse(req.params.id);
    const [look, mended] = await Promise.all([readDocument(id, 'look'), hasWorkingCopy(id)]);
    res.json({ ...look, mended });
  });
  api.get('/moves/:id/fit', async (req, res) => {
    const id = Id.parse(req.params.id);
    const [course, forecast, forms, missing, open] = await Promise.all([
      courseToSend(id),
      readDocument(id, 'forecast'),
      formsOf(services, id),
      moves.missingIn(id),
      tidy.openIn(id),
    ]);
    res.json({ course, forecast, forms, missing, open });
  });
  api.get('/moves/:id/relations', async (req, res) => {
    const id = Id.parse(req.params.id);
    const [{ course }, { links }] = await Promise.all([readDocument(id, 'look'), readDocument(id, 'links')]);
    const { pointsAt, pointedAtBy } = relationsOf(course, links);
    res.json({ pointsAt: Object.fromEntries(pointsAt), pointedAtBy: Object.fromEntries(pointedAtBy) });
  });
  api.get('/moves/:id/texts', async (req, res) => {
    const question = z.string().max(200).parse(req.query['q']);
    res.json(await searchTexts(services, Id.parse(req.params.id), question));
  });
  api.get('/moves/:id/inventory.:format', async (req, res) => {
    const format = z.enum(['csv', 'xlsx', 'json']).parse(req.params.format);
    const id = Id.parse(req.params.id);
    const { course, inventory } = await readDocument(id, 'look');
    res.attachment(`inventory_move-${id}.${format}`);
    if (format === 'json') res.json({ title: course.title, origin: course.origin, inventory });
    else if (format === 'csv') res.type('text/csv').send(inventoryAsCsv(course, inventory));
    else res.send(await inventoryAsXlsx(course, inventory));
  });
  api.put('/moves/:id/carried-as', async (req, res) => {
    const { target } = z.object({ target: z.string() }).parse(req.body);
    res.json(await carryAs(services, personIn(req), Id.parse(req.params.id), target));
  });
  api.get('/moves/:id/log', async (req, res) => void res.json(await readLog(Id.parse(req.params.id))));
  api.get('/moves/:id/check', async (req, res) => {
    const id = Id.parse(req.params.id);
    const [course, arrived, comparison] = await Promise.all([
      courseToSend(id),
      readDocument(id, 'arrived'),
      readDocument(id, 'comparison'),
    ]);
    res.json({ course, arrived, comparison });
  });
  api.get('/moves/:id/preview', async (req, res) => {
    const view = { learner: z.string().optional(), q: z.string().max(200).optional(), mended: z.string().optional() };
    const asked = z
      .union([z.object({ item: z.string(), ...view }), z.object({ path: z.string(), ...view })])
      .parse(req.query);
    const id = Id.parse(req.params.id);
    res.json(
      'item' in asked
        ? await read('previewOfItem', id, asked.item, {
            learner: asked.learner !== undefined,
            words: wordsAsked(asked.q ?? ''),
            mended: asked.mended !== undefined,
          })
        : await read('previewOfFile', id, asked.path),
    );
  });
  api.get('/moves/:id/file', async (req, res) => {
    const asked = z.object({ path: z.string(), mended: z.string().optional() }).parse(req.query);
    await moves.withFile(services, Id.parse(req.params.id), asked.path, asked.mended !== undefined, async (file) => {
      const part = askedPart(req, res, file.size);
      if (part === null) return;
      // It may be shown, but not become a page of this origin.
      // Nor may anything be packed on its way: a part of it would be another part.
      res.set('Content-Security-Policy', "sandbox; default-src 'none'").set('Cache-Control', 'no-store, no-transform');
      res.type(file.mediaType);
      await sendPart(res, file.bytes(), part);
    });
  });
  api.post('/moves/:id/accept', async (req, res) => {
    const id = Id.parse(req.params.id);
    await moves.acceptFit(personIn(req), id);
    res.json(await summary(id));
  });
  const act = (path: string, work: (person: Person, id: number) => Promise<void>) =>
    api.post(`/moves/:id/${path}`, async (req, res) => {
      const id = Id.parse(req.params['id']);
      await work(personIn(req), id);
      res.json(await summary(id));
    });
  act('reopen', moves.reopenFit);
  act('call-off', moves.callOffMove);
  act('put-away', (person, id) => moves.putAway(person, id, true));
  act('take-out', (person, id) => moves.putAway(person, id, false));
  api.get('/moves/:id/there', async (req, res) => {
    res.json(await moves.thereAlready(Id.parse(req.params.id)));
  });
  api.post('/moves/:id/deliver', async (req, res) => {
    const id = Id.parse(req.params.id);
    await moves.deliver(personIn(req), id, DeliverRequest.parse(req.body));
    res.json(await summary(id));
  });
  api.post('/moves/:id/retry', async (req, res) => {
    const id = Id.parse(req.params.id);
    await moves.retry(personIn(req), id);
    res.json(await summary(id));
  });
  api.get('/moves/:id/package', async (req, res) => {
    const { built } = await moves.moveById(Id.parse(req.params.id));
    if (!built) throw new Refusal(problem('not-yet', 'No package is built yet.', 'Accept the fit first.'));
    sendBlob(req, res, built);
  });
}
