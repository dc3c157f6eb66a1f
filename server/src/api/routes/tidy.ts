import { HouseRules, Rule } from '@treenail/core';
import type { Request, Response, Router } from 'express';
import * as z from 'zod';
import type { Services } from '../../services/context.ts';
import type { Read } from '../../services/readings.ts';
import { houseRules, setHouseRules } from '../../services/house.ts';
import { startAsking } from '../../services/outside.ts';
import * as tidy from '../../services/tidy.ts';
import { NewDecision } from '../../contract/index.ts';
import { Id } from '../id.ts';
import { personIn } from '../session.ts';

/** What is found in the course of a move, what is decided of it, and the rules that are kept of decisions. */
export function tidyRoutes(api: Router, services: Services, read: Read): void {
  const answer = async (req: Request, res: Response) => {
    res.json(await tidy.tidyOf(services, Id.parse(req.params['id'])));
  };
  api.get('/moves/:id/tidy', answer);
  api.post('/moves/:id/decisions', async (req, res) => {
    await tidy.decide(services, personIn(req), Id.parse(req.params.id), NewDecision.parse(req.body));
    await answer(req, res);
  });
  api.delete('/moves/:id/decisions/:decision', async (req, res) => {
    await tidy.undo(personIn(req), Id.parse(req.params.id), Id.parse(req.params.decision));
    await answer(req, res);
  });
  api.put('/moves/:id/selection', async (req, res) => {
    const { leftOut } = z.object({ leftOut: z.array(z.string()).max(200_000) }).parse(req.body);
    await tidy.leaveOut(personIn(req), Id.parse(req.params.id), leftOut);
    await answer(req, res);
  });
  api.post('/moves/:id/given', async (req, res) => {
    const { name } = z.object({ name: z.string().min(1).max(200) }).parse(req.query);
    res.json(await tidy.give(services, personIn(req), Id.parse(req.params.id), name, req));
  });
  api.post('/moves/:id/before-after', async (req, res) => {
    const asked = z.object({ key: z.string(), mend: z.string(), params: z.record(z.string(), z.string()) });
    res.json(await read('tryMend', Id.parse(req.params.id), asked.parse(req.body)));
  });
  api.post('/moves/:id/ask-outside', async (req, res) => {
    res.status(202).json(await startAsking(services, personIn(req), Id.parse(req.params.id)));
  });
  api.get('/mend-rules', async (_req, res) => void res.json(await tidy.listRules()));
  api.post('/mend-rules', async (req, res) => {
    res.json(await tidy.saveRule(personIn(req), Rule.parse(req.body)));
  });
  api.delete('/mend-rules/:id', async (req, res) => {
    res.json(await tidy.removeRule(personIn(req), Id.parse(req.params.id)));
  });
  api.get('/mend-rules/:id/uses', async (req, res) => void res.json(await tidy.usesOf(Id.parse(req.params.id))));
  api.post('/mend-rules/:id/apply', async (req, res) => {
    const { moveIds } = z.object({ moveIds: z.array(z.number().int()).min(1).max(500) }).parse(req.body);
    await tidy.applyRule(services, personIn(req), Id.parse(req.params.id), moveIds);
    res.status(202).end();
  });
  api.get('/house-rules', async (_req, res) => void res.json(await houseRules()));
  api.put('/house-rules', async (req, res) => {
    res.json(await setHouseRules(personIn(req), HouseRules.parse(req.body)));
  });
}
