import { existsSync } from 'node:fs';
import { rm, stat } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import express, { type Express } from 'express';
import * as z from 'zod';
import { Failures } from '../shared/failures.ts';
import { HttpTrouble, answerErrors } from '../shared/http.ts';
import type { Settings } from '../shared/settings.ts';
import { JsonStore } from '../shared/store.ts';
import { listFiles } from './cartridge.ts';
import { chosen, filesFor } from './choose.ts';
import { mountEdits } from './edits.ts';
import { mountMembers } from './members.ts';
import { QAsk, QState, leaves, type QCourse, type QJob, type QNode } from './model.ts';
import { HOME } from './home.ts';
import { coursePage, homePage } from './pages.ts';
import { ExportQueue } from './queue.ts';
import { Restores } from './restores.ts';

/** Quernhold: an old, rich platform with a busy export queue. */
export async function quernhold(settings: Settings, seed: (folder: string) => Promise<QCourse[]>): Promise<Express> {
  const store = new JsonStore(join(settings.folder, 'state.json'), QState, () => ({
    courses: [],
    jobs: [],
    arrivals: [],
    restores: [],
    next: 1,
  }));
  if (store.state.courses.length === 0) {
    store.state.courses = await seed(join(settings.folder, 'courses'));
    store.save();
  }
  const failures = new Failures();
  const queue = new ExportQueue(store, settings, failures);
  const restores = new Restores(store, settings);
  const folderOf = (course: QCourse) => join(settings.folder, 'courses', course.id);
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
    form: job.ask?.form ?? null,
    asked: new Date(job.askedAt).toISOString(),
    took: job.endedAt === null || job.startedAt === null ? 0 : job.endedAt - job.startedAt,
  });
  const bundleBytes = (course: QCourse) =>
    store.state.jobs.reduce((sum, j) => sum + (j.course === course.id ? (j.size ?? 0) : 0), 0);

  const app = express();
  failures.mount(app, `Quernhold, ${settings.name}`, settings);
  app.get('/', (_req, res) => void res.send(homePage(settings.name, store.state.courses, store.state.jobs)));
  app.get('/course/:id', (req, res) => void res.send(coursePage(settings.name, courseOf(req.params.id))));
  app.get('/course/:id/at/{*path}', (req, res) => {
    const course = courseOf(req.params.id);
    const path = (req.params.path as unknown as string[]).join('/');
    res.sendFile(path, { root: join(settings.folder, 'courses', course.id) });
  });

  const api = express.Router();
  api.use(failures.guard);
  api.use((req, _res, next) => {
    if (req.get('X-Quernhold-Token') !== settings.token) throw new HttpTrouble(401, 'token refused');
    next();
  });
  restores.mountPieces(api);
  api.use(express.json());
  api.get('/about', (_req, res) => {
    const waiting = store.state.jobs.filter((j) => j.state === 'waiting' || j.state === 'building').length;
    res.json({ name: settings.name, kind: 'quernhold', queue: waiting, each: settings.pace / 1000, home: HOME });
  });
  api.get('/repository/{*path}', (req, res) => {
    const path = (req.params.path as unknown as string[]).join('/');
    res.sendFile(path, { root: join(settings.folder, 'repository') });
  });
  api.get('/courses', async (req, res) => {
    const { note } = req.query;
    const list = await Promise.all(
      store.state.courses
        .filter((c) => note === undefined || c.note === note)
        .map(async (c) => ({
          id: c.id,
          code: c.code,
          section: c.section,
          term: c.term,
          title: c.title,
          owner: c.owner,
          changed: c.changedAt,
          bytes: await sizeOf(folderOf(c), await listFiles(folderOf(c))),
          parts: [...leaves(c.nodes)].length,
          quota: c.quota,
          held: bundleBytes(c),
        })),
    );
    res.json({ courses: list });
  });
  api.get('/bundles', (req, res) => {
    const note = req.query['note'];
    res.json({
      bundles: store.state.jobs
        .filter((j) => (j.course !== null || req.query['all'] !== undefined) && (note === undefined || j.note === note))
        .map(shown),
    });
  });
  api.post('/courses/:id/bundles', (req, res) => {
    const course = courseOf(req.params.id);
    const ask = asked(req.body);
    if (failures.take('full') || bundleBytes(course) > course.quota) {
      throw new HttpTrouble(507, `${course.code} is over its quota: delete bundles first`);
    }
    res.status(202).json(shown(queue.ask(course.id, ask)));
  });
  api.get('/courses/:id/parts', async (req, res) => {
    const course = courseOf(req.params.id);
    const sizes = new Map<string, number>();
    for (const path of await listFiles(folderOf(course)))
      sizes.set(path, (await stat(join(folderOf(course), path))).size);
    const bytesOf = (node: QNode): number => {
      if (node.kind === 'folder') return node.inside.reduce((sum, n) => sum + bytesOf(n), 0);
      if (node.kind === 'page' || node.kind === 'file') return sizes.get(node.path) ?? 0;
      return node.kind === 'talk' || node.kind === 'task'
        ? node.attached.reduce((sum, path) => sum + (sizes.get(path) ?? 0), 0)
        : 0;
    };
    const told = (nodes: readonly QNode[]): unknown[] =>
      nodes.map((node) => ({
        ref: node.ref,
        title: node.title,
        kind: node.kind,
        bytes: bytesOf(node),
        inside: node.kind === 'folder' ? told(node.inside) : [],
      }));
    const banks = course.banks.map((b) => ({ ref: b.ref, title: b.title, kind: 'bank', bytes: 0, inside: [] }));
    res.json({ parts: [...told(course.nodes), ...banks], linked: Object.keys(course.rich.linked).length });
  });
  api.post('/courses/:id/estimate', async (req, res) => {
    const course = courseOf(req.params.id);
    const ask = asked({ note: '', ...(req.body as object) });
    const cut = chosen(course, ask);
    const files = filesFor(await listFiles(folderOf(course)), cut, ask);
    const bytes = await sizeOf(folderOf(course), files);
    const waiting = store.state.jobs.filter((j) => !j.hangs && (j.state === 'waiting' || j.state === 'building'));
    const seconds = (waiting.reduce((sum, j) => sum + j.takes, 0) + settings.pace) / 1000;
    // Counted as the list of courses counts: banks stand in no place, and are told only where nothing else is asked for.
    const parts = [...leaves(cut.nodes)].length || cut.banks.length;
    res.json({ bytes, parts, ahead: waiting.length, seconds });
  });
  restores.mount(api, courseOf);
  mountEdits(api, courseOf, folderOf, () => store.save());
  mountMembers(api, { state: store.state, courseOf, folderOf, save: () => store.save() });
  api.get('/bundles/:id', (req, res) => void res.json(shown(jobOf(req.params.id))));
  api.get('/bundles/:id/file', async (req, res) => {
    const job = jobOf(req.params.id);
    const file = queue.file(job);
    if (job.state === 'ready' && failures.take('expire')) await rm(file, { force: true });
    if (job.state === 'ready' && !existsSync(file)) throw new HttpTrouble(410, 'this bundle is gone');
    if (job.state !== 'ready') throw new HttpTrouble(409, 'not built yet');
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

function asked(body: unknown): QAsk {
  const ask = QAsk.safeParse(body);
  if (!ask.success) throw new HttpTrouble(400, z.prettifyError(ask.error));
  return ask.data;
}

async function sizeOf(folder: string, files: readonly string[]): Promise<number> {
  const sizes = await Promise.all(files.map((f) => stat(join(folder, f))));
  return sizes.reduce((sum, s) => sum + s.size, 0);
}
