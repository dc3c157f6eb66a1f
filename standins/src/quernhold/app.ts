import { existsSync } from 'node:fs';
import { readdir, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import express, { type Express } from 'express';
import * as z from 'zod';
import { HttpTrouble, answerErrors } from '../shared/http.ts';
import type { Settings } from '../shared/settings.ts';
import { JsonStore } from '../shared/store.ts';
import { QState, leaves, type QCourse, type QJob } from './model.ts';
import { coursePage, homePage } from './pages.ts';
import { ExportQueue } from './queue.ts';

const Ask = z.object({ form: z.literal('cartridge-1.1'), note: z.string().max(200) });

/** Quernhold: an old, rich platform with a busy export queue. */
export async function quernhold(settings: Settings, seed: (folder: string) => Promise<QCourse[]>): Promise<Express> {
  const store = new JsonStore(join(settings.folder, 'state.json'), QState, () => ({ courses: [], jobs: [], next: 1 }));
  if (store.state.courses.length === 0) {
    store.state.courses = await seed(join(settings.folder, 'courses'));
    store.save();
  }
  const queue = new ExportQueue(store, settings);
  const courseOf = (id: unknown): QCourse => {
    const course = store.state.courses.find((c) => c.id === id);
    if (!course) throw new HttpTrouble(404, 'no such course');
    return course;
  };
  const jobOf = (id: unknown): QJob => {
    const job = store.state.jobs.find((j) => j.id === id);
    if (!job) throw new HttpTrouble(404, 'no such bundle');
    return job;
  };
  const shown = (job: QJob) => ({
    bundle: job.id,
    course: job.course,
    note: job.note,
    state: job.state,
    ahead: queue.ahead(job),
    percent: queue.percent(job),
    bytes: job.size,
  });

  const app = express();
  app.get('/', (_req, res) => void res.send(homePage(store.state.courses, store.state.jobs)));
  app.get('/course/:id', (req, res) => void res.send(coursePage(courseOf(req.params.id))));
  app.get('/course/:id/at/{*path}', (req, res) => {
    const course = courseOf(req.params.id);
    const path = (req.params.path as unknown as string[]).join('/');
    res.sendFile(path, { root: join(settings.folder, 'courses', course.id) });
  });

  const api = express.Router();
  api.use((req, _res, next) => {
    if (req.get('X-Quernhold-Token') !== settings.token) throw new HttpTrouble(401, 'token refused');
    next();
  });
  api.use(express.json());
  api.get('/courses', async (_req, res) => {
    const list = await Promise.all(
      store.state.courses.map(async (c) => ({
        id: c.id,
        code: c.code,
        section: c.section,
        term: c.term,
        title: c.title,
        owner: c.owner,
        changed: c.changedAt,
        bytes: await sizeOf(join(settings.folder, 'courses', c.id)),
        parts: [...leaves(c.nodes)].length,
      })),
    );
    res.json({ courses: list });
  });
  api.get('/bundles', (req, res) => {
    const note = req.query['note'];
    res.json({
      bundles: store.state.jobs.filter((j) => j.course !== null && (note === undefined || j.note === note)).map(shown),
    });
  });
  api.post('/courses/:id/bundles', (req, res) => {
    const course = courseOf(req.params.id);
    const ask = Ask.safeParse(req.body);
    if (!ask.success) throw new HttpTrouble(400, z.prettifyError(ask.error));
    res.status(202).json(shown(queue.ask(course.id, ask.data.note)));
  });
  api.get('/bundles/:id', (req, res) => void res.json(shown(jobOf(req.params.id))));
  api.get('/bundles/:id/file', (req, res) => {
    const job = jobOf(req.params.id);
    const file = queue.file(job);
    if (job.state !== 'ready' || !existsSync(file)) throw new HttpTrouble(409, 'not built yet');
    // By root and name: a folder above that begins with a dot must not hide the file.
    res.sendFile(basename(file), { root: dirname(file) });
  });
  api.delete('/bundles/:id', async (req, res) => {
    await queue.remove(jobOf(req.params.id));
    res.status(204).end();
  });
  app.use('/api', api);
  app.use(answerErrors);
  return app;
}

async function sizeOf(folder: string): Promise<number> {
  const found = await readdir(folder, { recursive: true, withFileTypes: true });
  const sizes = await Promise.all(found.filter((f) => f.isFile()).map((f) => stat(join(f.parentPath, f.name))));
  return sizes.reduce((sum, s) => sum + s.size, 0);
}
