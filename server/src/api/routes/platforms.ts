import type { Router } from 'express';
import * as z from 'zod';
import { PLATFORMS } from '../../platforms/index.ts';
import type { Services } from '../../services/context.ts';
import * as moves from '../../services/moves.ts';
import * as platforms from '../../services/platforms.ts';
import { refreshRegister } from '../../services/register.ts';
import { NewPlatform, PlatformChange, ProfileChange } from '../../contract/index.ts';
import { Id } from '../id.ts';
import { personIn } from '../session.ts';

/** What is asked of connected instances and of their profiles. */
export function platformRoutes(api: Router, services: Services): void {
  api.get('/platform-kinds', (_req, res) => void res.json(PLATFORMS.map(({ id, label }) => ({ id, label }))));
  api.get('/platforms', async (_req, res) => void res.json(await platforms.listPlatforms(services)));
  api.post('/platforms/test', async (req, res) => {
    res.json(await platforms.testPlatform(personIn(req), NewPlatform.parse(req.body)));
  });
  api.post('/platforms', async (req, res) => {
    const id = await platforms.addPlatform(services, personIn(req), NewPlatform.parse(req.body));
    await refreshRegister(2000);
    res.status(201).json({ id });
  });
  api.put('/platforms/:id', async (req, res) => {
    const change = PlatformChange.parse(req.body);
    await platforms.changePlatform(services, personIn(req), Id.parse(req.params.id), change);
    res.status(204).end();
  });
  api.post('/platforms/:id/check', async (req, res) => {
    res.json(await platforms.checkPlatform(services, Id.parse(req.params.id)));
  });
  api.post('/platforms/:id/retry-all', async (req, res) => {
    res.json({ jobs: await moves.retryAllOf(personIn(req), Id.parse(req.params.id)) });
  });
  api.get('/platforms/:id/exports', async (req, res) => {
    res.json(await platforms.exportsAt(services, Id.parse(req.params.id)));
  });
  api.post('/platforms/:id/exports/clear', async (req, res) => {
    const { exports } = z.object({ exports: z.array(z.string().max(200)).min(1).max(2000) }).parse(req.body);
    res.json(await platforms.clearExports(services, personIn(req), Id.parse(req.params.id), exports));
  });
  api.get('/platforms/:id/profile', async (req, res) => {
    res.json(await platforms.profileAnswer(services, Id.parse(req.params.id)));
  });
  api.put('/platforms/:id/profile', async (req, res) => {
    const change = ProfileChange.parse(req.body);
    res.json(await platforms.changeProfile(services, personIn(req), Id.parse(req.params.id), change));
  });
}
