import { createWriteStream, existsSync } from 'node:fs';
import { mkdir, open, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { Router } from 'express';
import * as z from 'zod';
import { HttpTrouble } from '../shared/http.ts';
import type { Settings } from '../shared/settings.ts';
import { keepTicking } from '../shared/ticking.ts';
import type { JsonStore } from '../shared/store.ts';
import { readArchive } from './archive.ts';
import { listFiles } from './cartridge.ts';
import { importCartridge } from './importer.ts';
import { NOTHING } from './rich.ts';
import { untouched, type QArrival, type QCourse, type QRestore, type QState } from './model.ts';

const NewCourse = z.object({
  code: z.string(),
  section: z.string(),
  term: z.string(),
  title: z.string().min(1),
  note: z.string().max(200),
});
const NewArrival = z.object({ bytes: z.number().int().positive(), note: z.string().max(200) });
const NewRestore = z.object({ arrival: z.string(), note: z.string().max(200) });

/**
 * What is sent into a course: in pieces, then unpacked in its turn. An archive takes the place of what was there, but for
 * what the course is called; a cartridge goes beside it.
 */
export class Restores {
  private working = false;
  private readonly store: JsonStore<typeof QState>;
  private readonly settings: Settings;

  constructor(store: JsonStore<typeof QState>, settings: Settings) {
    this.store = store;
    this.settings = settings;
    for (const restore of store.state.restores) if (restore.state === 'unpacking') restore.state = 'waiting';
    store.save();
    keepTicking(settings, () => void this.tick());
  }

  /** Before bodies are parsed: pieces are streamed to disk. */
  mountPieces(api: Router): void {
    api.put('/arrivals/:id', async (req, res) => {
      const arrival = this.arrivalOf(req.params.id);
      if (Number(req.query['from']) !== arrival.got) throw new HttpTrouble(409, `there are ${arrival.got} bytes`);
      await mkdir(join(this.settings.folder, 'arrivals'), { recursive: true });
      const file = this.fileOf(arrival);
      try {
        await pipeline(req, createWriteStream(file, { flags: arrival.got === 0 ? 'w' : 'a' }));
      } finally {
        arrival.got = existsSync(file) ? (await stat(file)).size : 0;
        this.store.save();
      }
      res.json(arrival);
    });
  }

  mount(api: Router, courseOf: (id: unknown) => QCourse): void {
    const { state } = this.store;
    api.post('/courses', (req, res) => {
      const asked = this.input(NewCourse, req.body);
      const course: QCourse = {
        ...asked,
        id: `c${1000 + state.next++}`,
        owner: '',
        about: '',
        keywords: [],
        changedAt: new Date().toISOString(),
        nodes: [],
        banks: [],
        rich: structuredClone(NOTHING),
        quota: 2 ** 30,
        ...untouched(),
      };
      state.courses.push(course);
      this.store.save();
      res.status(201).json({ id: course.id, title: course.title });
    });
    api.get('/arrivals', (req, res) => {
      res.json({ arrivals: state.arrivals.filter((a) => a.note === req.query['note']) });
    });
    api.post('/arrivals', (req, res) => {
      const arrival: QArrival = { id: `A${state.next++}`, got: 0, ...this.input(NewArrival, req.body) };
      state.arrivals.push(arrival);
      this.store.save();
      res.status(201).json(arrival);
    });
    api.get('/restores', (req, res) => {
      res.json({ restores: state.restores.filter((r) => r.note === req.query['note']).map((r) => this.shown(r)) });
    });
    api.get('/restores/:id', (req, res) => {
      const restore = state.restores.find((r) => r.id === req.params.id);
      if (!restore) throw new HttpTrouble(404, 'no such restore');
      res.json(this.shown(restore));
    });
    /** One that waits can be taken back; one that is being unpacked can not. */
    api.delete('/restores/:id', (req, res) => {
      const restore = state.restores.find((r) => r.id === req.params.id);
      if (!restore) throw new HttpTrouble(404, 'no such restore');
      if (restore.state === 'unpacking') throw new HttpTrouble(409, 'it is being unpacked, and can not be stopped');
      if (restore.state === 'waiting') state.restores.splice(state.restores.indexOf(restore), 1);
      this.store.save();
      res.status(204).end();
    });
    api.post('/courses/:id/restores', (req, res) => {
      const course = courseOf(req.params.id);
      if (course.closed) throw new HttpTrouble(423, `${course.code} is closed`);
      const { arrival: id, note } = this.input(NewRestore, req.body);
      const arrival = this.arrivalOf(id);
      if (arrival.got !== arrival.bytes)
        throw new HttpTrouble(409, `there are ${arrival.got} of ${arrival.bytes} bytes`);
      const restore: QRestore = {
        id: `R${state.next++}`,
        course: course.id,
        arrival: arrival.id,
        note,
        state: 'waiting',
        startedAt: null,
        log: [],
      };
      state.restores.push(restore);
      this.store.save();
      res.status(202).json(this.shown(restore));
    });
  }

  private input<S extends z.ZodType>(schema: S, body: unknown): z.infer<S> {
    const read = schema.safeParse(body);
    if (!read.success) throw new HttpTrouble(422, z.prettifyError(read.error));
    return read.data;
  }

  private arrivalOf(id: unknown): QArrival {
    const arrival = this.store.state.arrivals.find((a) => a.id === id);
    if (!arrival) throw new HttpTrouble(404, 'nothing of that name arrived');
    return arrival;
  }

  private fileOf(arrival: QArrival): string {
    return join(this.settings.folder, 'arrivals', arrival.id);
  }

  private shown(restore: QRestore) {
    const { restores } = this.store.state;
    const before = restores.slice(0, restores.indexOf(restore));
    const share = restore.startedAt === null ? 0 : (100 * (Date.now() - restore.startedAt)) / this.settings.pace;
    return {
      ...restore,
      ahead: before.filter((r) => r.state === 'waiting' || r.state === 'unpacking').length,
      percent: restore.state === 'restored' ? 100 : Math.min(99, Math.floor(share)),
    };
  }

  private async tick(): Promise<void> {
    if (this.working) return;
    const restore = this.store.state.restores.find((r) => r.state === 'waiting');
    if (!restore) return;
    this.working = true;
    try {
      restore.state = 'unpacking';
      restore.startedAt = Date.now();
      this.store.save();
      await Promise.all([this.unpack(restore), new Promise((done) => setTimeout(done, this.settings.pace))]);
      restore.state = 'restored';
    } catch (error) {
      restore.log.push(`stopped: ${error instanceof Error ? error.message : String(error)}`);
      restore.state = 'failed';
    } finally {
      this.working = false;
      this.store.save();
    }
  }

  private async unpack(restore: QRestore): Promise<void> {
    const { state } = this.store;
    const course = state.courses.find((c) => c.id === restore.course);
    if (!course) throw new Error('the course is not there any more');
    const folder = join(this.settings.folder, 'courses', course.id);
    const file = this.fileOf(this.arrivalOf(restore.arrival));
    if (await isZip(file)) {
      await mkdir(folder, { recursive: true });
      await importCartridge(file, course, folder, (line) => restore.log.push(line), restore.id);
      course.changedAt = new Date().toISOString();
      course.turn++;
      return;
    }
    for (const path of await listFiles(folder))
      if (!path.startsWith('people/')) await rm(join(folder, path), { force: true });
    await mkdir(folder, { recursive: true });
    const read = await readArchive(file, course.id, folder);
    const { code, section, term, title, owner, closed, turn, emptied, rich, quota } = course;
    // Who is in the course stays in it, and who is in the archive comes.
    const came = read.rich.people.filter((p) => !rich.people.some((here) => here.number === p.number));
    Object.assign(course, read, { code, section, term, title, owner, closed, emptied, quota, turn: turn + 1 });
    course.rich.people = [...rich.people, ...came];
    restore.log.push(`restored: ${read.nodes.length} at the top, ${read.banks.length} banks`);
  }
}

async function isZip(path: string): Promise<boolean> {
  const file = await open(path, 'r');
  try {
    const { buffer } = await file.read(Buffer.alloc(2), 0, 2, 0);
    return buffer.toString('latin1') === 'PK';
  } finally {
    await file.close();
  }
}
