import { createWriteStream, existsSync } from 'node:fs';
import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import express, { type Express } from 'express';
import * as z from 'zod';
import { Failures } from '../shared/failures.ts';
import { HttpTrouble, answerErrors } from '../shared/http.ts';
import type { Settings } from '../shared/settings.ts';
import { JsonStore } from '../shared/store.ts';
import { find, input } from './asked.ts';
import { writeCartridge } from './cartridge.ts';
import { writeCrate } from './crate.ts';
import { mayChange, mountInhabited } from './inhabited.ts';
import { TState, type TCrate, type TDrop, type TRun, type TSpace } from './model.ts';
import { entryPage, homePage, spacePage } from './pages.ts';
import { RunQueue } from './runs.ts';
import { chosen, touched } from './space.ts';
import { TOOLS } from './tools.ts';

/** An entry is changed as its keeper does it. */
const Edit = z.object({ title: z.string().optional(), body: z.string().optional() });
const NewSpace = z.object({
  code: z.string(),
  section: z.string(),
  term: z.string(),
  title: z.string().min(1),
  remark: z.string(),
});
const NewDrop = z.object({ bytes: z.number().int().positive(), remark: z.string() });
const NewCrate = z.object({
  remark: z.string().max(200),
  as: z.enum(['crate', 'cartridge']).default('crate'),
  parts: z.array(z.string()).nullable().default(null),
});
const NewRun = z.object({ drop: z.string(), mode: z.enum(['beside', 'replace']), remark: z.string() });

/** Tarnhall: the destination. Imports in two stages, upload then unpack, behind other people's. */
export function tarnhall(settings: Settings, seed: () => TSpace[]): Express {
  const store = new JsonStore(join(settings.folder, 'state.json'), TState, () => ({
    spaces: seed(),
    drops: [],
    runs: [],
    crates: [],
    next: 1000,
  }));
  store.save();
  const queue = new RunQueue(store, settings);
  const { state } = store;
  const dropFile = (drop: TDrop) => join(settings.folder, 'drops', drop.id);
  const shownRun = (run: TRun) => ({
    run: run.id,
    remark: run.remark,
    state: run.state,
    ahead: queue.ahead(run),
    done: run.done,
    total: run.total,
    log: run.log,
  });
  const shownSpace = ({ id, code, section, term, title, keeper, remark, changedAt, files }: TSpace) => ({
    id,
    code,
    section,
    term,
    title,
    keeper,
    remark,
    changedAt,
    bytes: files.reduce((n, f) => n + f.bytes, 0),
  });

  const failures = new Failures();
  const shownCrate = ({ id, space, remark, state: at, begun, bytes }: TCrate) => ({
    crate: id,
    space,
    remark,
    state: at,
    percent: Math.min(99, Math.floor((100 * (Date.now() - begun)) / settings.pace)),
    bytes,
    begun: new Date(begun).toISOString(),
  });
  const crateFile = (crate: TCrate) => join(settings.folder, 'crates', crate.id);
  const pack = async (crate: TCrate, space: TSpace): Promise<void> => {
    try {
      const wait = new Promise((done) => setTimeout(done, settings.pace));
      const write = crate.as === 'crate' ? writeCrate : writeCartridge;
      await Promise.all([
        write(chosen(space, crate.parts), join(settings.folder, 'spaces', space.id), crateFile(crate)),
        wait,
      ]);
      if (failures.take('break')) throw new Error('CRT broken');
      if (crate.hangs) return;
      crate.bytes = (await stat(crateFile(crate))).size;
      crate.state = 'packed';
    } catch (error) {
      console.error(error);
      crate.state = 'broken';
    }
    store.save();
  };
  for (const crate of state.crates) {
    const space = state.spaces.find((s) => s.id === crate.space);
    if (crate.state === 'packing' && space) void pack(crate, space);
  }

  const app = express();
  failures.mount(app, `Tarnhall, ${settings.name}`, settings);
  app.get('/', (_req, res) => void res.send(homePage(state.spaces)));
  app.get('/space/:id', (req, res) => void res.send(spacePage(find(state.spaces, req.params.id, 'SPC'))));
  app.get('/space/:id/entry/:entry', (req, res) => {
    const space = find(state.spaces, req.params.id, 'SPC');
    res.send(
      entryPage(
        space,
        find(
          space.units.flatMap((u) => u.entries),
          req.params.entry,
          'ENT',
        ),
      ),
    );
  });
  app.get('/space/:id/file/:file', (req, res) => {
    const space = find(state.spaces, req.params.id, 'SPC');
    const file = find(space.files, req.params.file, 'FIL');
    res.type(file.media).sendFile(file.id, { root: join(settings.folder, 'spaces', space.id) });
  });

  const api = express.Router();
  api.use(failures.guard);
  api.use((req, _res, next) => {
    if (req.get('Authorization') !== `Key ${settings.token}`) throw new HttpTrouble(401, 'KEY bad');
    next();
  });
  api.put('/drops/:id', async (req, res) => {
    const drop = find(state.drops, req.params.id, 'DRP');
    if (Number(req.query['from']) !== drop.got) throw new HttpTrouble(409, `DRP at ${drop.got}`);
    await mkdir(join(settings.folder, 'drops'), { recursive: true });
    try {
      await pipeline(req, createWriteStream(dropFile(drop), { flags: drop.got === 0 ? 'w' : 'a' }));
    } finally {
      drop.got = existsSync(dropFile(drop)) ? (await stat(dropFile(drop))).size : 0;
      store.save();
    }
    res.json({ drop: drop.id, got: drop.got, bytes: drop.bytes });
  });
  api.use(express.json());
  api.get('/about', (_req, res) => {
    const standing = state.runs.filter((r) => r.state === 'standing' || r.state === 'unpacking').length;
    res.json({ name: settings.name, kind: 'tarnhall', standing, each: settings.pace / 1000 });
  });
  api.get('/tools', (_req, res) => void res.json({ tools: TOOLS }));
  api.get('/spaces', (req, res) => {
    const remark = req.query['remark'];
    res.json({ spaces: state.spaces.filter((s) => remark === undefined || s.remark === remark).map(shownSpace) });
  });
  api.post('/spaces', (req, res) => {
    const asked = input(NewSpace, req.body);
    const space: TSpace = {
      id: `s${state.next++}`,
      ...asked,
      keeper: '',
      changedAt: new Date().toISOString(),
      about: null,
      units: [],
      pools: [],
      files: [],
      people: [],
      work: [],
      shut: false,
      turn: 0,
      cleared: [],
    };
    state.spaces.push(space);
    store.save();
    res.status(201).json(shownSpace(space));
  });
  mountInhabited(api, store, settings);
  api.get('/spaces/:id/contents', (req, res) => {
    const { units, pools, files } = find(state.spaces, req.params.id, 'SPC');
    res.json({ units, pools, files });
  });
  api.put('/spaces/:id/entries/:entry', (req, res) => {
    const space = find(state.spaces, req.params.id, 'SPC');
    mayChange(space);
    const entries = space.units.flatMap((u) => u.entries);
    const entry = Object.assign(find(entries, req.params.entry, 'ENT'), input(Edit, req.body));
    touched(space);
    store.save();
    res.json({ id: entry.id, title: entry.title });
  });
  api.delete('/spaces/:id/entries/:entry', (req, res) => {
    const space = find(state.spaces, req.params.id, 'SPC');
    for (const unit of space.units) unit.entries = unit.entries.filter((e) => e.id !== req.params.entry);
    touched(space);
    store.save();
    res.status(204).end();
  });
  api.post('/spaces/:id/crates', (req, res) => {
    const space = find(state.spaces, req.params.id, 'SPC');
    const { remark, as, parts } = input(NewCrate, req.body);
    if (failures.take('full')) throw new HttpTrouble(507, 'CRT room nil');
    const crate: TCrate = {
      id: `k${state.next++}`,
      as,
      parts,
      space: space.id,
      remark,
      state: 'packing',
      begun: Date.now(),
      hangs: failures.take('hang'),
      bytes: null,
    };
    state.crates.push(crate);
    store.save();
    void pack(crate, space);
    res.status(202).json(shownCrate(crate));
  });
  api.get('/crates', (req, res) => {
    const { remark } = req.query;
    res.json({ crates: state.crates.filter((c) => remark === undefined || c.remark === remark).map(shownCrate) });
  });
  api.get('/crates/:id', (req, res) => void res.json(shownCrate(find(state.crates, req.params.id, 'CRT'))));
  api.get('/crates/:id/crate', async (req, res) => {
    const crate = find(state.crates, req.params.id, 'CRT');
    if (crate.state === 'packed' && failures.take('expire')) await rm(crateFile(crate), { force: true });
    if (crate.state === 'packed' && !existsSync(crateFile(crate))) throw new HttpTrouble(410, 'CRT gone');
    if (crate.state !== 'packed') throw new HttpTrouble(409, 'CRT not yet');
    res.sendFile(crate.id, { root: join(settings.folder, 'crates') });
  });
  api.delete('/crates/:id', async (req, res) => {
    const crate = find(state.crates, req.params.id, 'CRT');
    state.crates.splice(state.crates.indexOf(crate), 1);
    store.save();
    await rm(crateFile(crate), { force: true });
    res.status(204).end();
  });
  api.get('/drops', (req, res) => {
    res.json({ drops: state.drops.filter((d) => d.remark === req.query['remark']) });
  });
  api.post('/drops', (req, res) => {
    if (failures.take('room')) throw new HttpTrouble(507, 'DRP room nil');
    const drop: TDrop = { id: `d${state.next++}`, got: 0, ...input(NewDrop, req.body) };
    state.drops.push(drop);
    store.save();
    res.status(201).json(drop);
  });
  api.get('/drops/:id', (req, res) => void res.json(find(state.drops, req.params.id, 'DRP')));
  api.post('/spaces/:id/runs', (req, res) => {
    const space = find(state.spaces, req.params.id, 'SPC');
    mayChange(space);
    const asked = input(NewRun, req.body);
    const drop = find(state.drops, asked.drop, 'DRP');
    if (drop.got !== drop.bytes) throw new HttpTrouble(409, `DRP short ${drop.got}/${drop.bytes}`);
    res.status(202).json(shownRun(queue.ask(space.id, drop.id, asked.remark, asked.mode)));
  });
  api.get('/runs', (req, res) => {
    res.json({ runs: state.runs.filter((r) => r.space !== null && r.remark === req.query['remark']).map(shownRun) });
  });
  api.get('/runs/:id', (req, res) => void res.json(shownRun(find(state.runs, req.params.id, 'RUN'))));
  /** One that stands in the queue can be taken out of it; one that is being unpacked can not. */
  api.delete('/runs/:id', (req, res) => {
    const run = find(state.runs, req.params.id, 'RUN');
    if (run.state === 'unpacking') throw new HttpTrouble(409, 'RUN busy: it can not be stopped any more');
    if (run.state === 'standing') state.runs.splice(state.runs.indexOf(run), 1);
    store.save();
    res.status(204).end();
  });
  app.use('/api', api);
  app.use(answerErrors);
  return app;
}
