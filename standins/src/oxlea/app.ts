import { createWriteStream, existsSync } from 'node:fs';
import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import express, { type Express } from 'express';
import * as z from 'zod';
import { Failures } from '../shared/failures.ts';
import { HttpTrouble, answerErrors } from '../shared/http.ts';
import { Post } from '../shared/post.ts';
import type { Settings } from '../shared/settings.ts';
import { JsonStore } from '../shared/store.ts';
import { writeCartridge } from './cartridge.ts';
import { importBook } from './importer.ts';
import { OAsk, OState, type OBook, type OParcel } from './model.ts';
import { bookPage, lessonPage, shelfPage } from './pages.ts';
import { writeParcel } from './parcel.ts';

/** Oxlea: small and quick. No queue, but what it has wrapped is thrown away after a day. */
export async function oxlea(settings: Settings, seed: (folder: string) => Promise<OBook[]>): Promise<Express> {
  const store = new JsonStore(join(settings.folder, 'state.json'), OState, () => ({ books: [], parcels: [], next: 1 }));
  const { state } = store;
  if (state.books.length === 0) {
    state.books = await seed(join(settings.folder, 'library'));
    store.save();
  }
  const failures = new Failures();
  const post = new Post(settings.name, settings.smtp);
  const libraryOf = (book: OBook) => join(settings.folder, 'library', book.id);
  const fileOf = (parcel: OParcel) => join(settings.folder, 'parcels', parcel.id);
  const find = <T extends { id: string }>(list: readonly T[], id: unknown, what: string): T => {
    const found = list.find((x) => x.id === id);
    if (!found) throw new HttpTrouble(404, `no ${what} ${String(id)}`);
    return found;
  };
  const shown = (parcel: OParcel) => ({
    id: parcel.id,
    book: parcel.book,
    reference: parcel.ask.reference,
    state: stateOf(parcel),
    share: Math.min(0.99, (Date.now() - parcel.begun) / settings.pace),
    size: parcel.size,
    begun: new Date(parcel.begun).toISOString(),
    until: parcel.until,
  });
  const stateOf = (parcel: OParcel): OParcel['state'] =>
    parcel.until !== null && Date.parse(parcel.until) < Date.now() ? 'expired' : parcel.state;

  const wrap = async (parcel: OParcel, book: OBook): Promise<void> => {
    try {
      await mkdir(join(settings.folder, 'parcels'), { recursive: true });
      const write = parcel.ask.as === 'parcel' ? writeParcel : writeCartridge;
      const wait = new Promise((done) => setTimeout(done, settings.pace));
      await Promise.all([write(book, libraryOf(book), parcel.ask, fileOf(parcel)), wait]);
      if (failures.take('break')) throw new Error('told to fail');
      if (parcel.hangs) return;
      parcel.size = (await stat(fileOf(parcel))).size;
      parcel.until = new Date(Date.now() + settings.expiryMs).toISOString();
      parcel.state = 'wrapped';
      const text = `The parcel of ${book.name} can be fetched until ${parcel.until}. Then it is thrown away.`;
      post.tell(book.author, `${book.code}: wrapped`, text);
    } catch (error) {
      console.error(error);
      parcel.state = 'torn';
    }
    store.save();
  };
  // What the process's end cut short is wrapped again.
  for (const parcel of state.parcels) {
    const book = state.books.find((b) => b.id === parcel.book);
    if (parcel.state === 'wrapping' && book) void wrap(parcel, book);
  }

  const app = express();
  failures.mount(app, `Oxlea, ${settings.name}`, settings);
  app.get('/', (_req, res) => void res.send(shelfPage(state.books)));
  app.get('/book/:id', (req, res) => void res.send(bookPage(find(state.books, req.params.id, 'book'))));
  app.get('/book/:id/lesson/:key', (req, res) => {
    const book = find(state.books, req.params.id, 'book');
    const lesson = book.halves.flatMap((h) => h.lessons).find((l) => l.key === req.params.key);
    if (!lesson) throw new HttpTrouble(404, 'no such lesson');
    res.send(lessonPage(book, lesson));
  });
  app.get('/book/:id/library/:file', (req, res) => {
    const book = find(state.books, req.params.id, 'book');
    res.sendFile(req.params.file, { root: libraryOf(book) });
  });

  const api = express.Router();
  api.use(failures.guard);
  api.use((req, _res, next) => {
    if (req.get('Authorization') !== `Bearer ${settings.token}`) throw new HttpTrouble(401, 'who are you?');
    next();
  });
  /** What is sent in whole becomes a book of its own. */
  api.post('/books', async (req, res) => {
    const id = `b${1000 + state.next++}`;
    const arrived = join(settings.folder, `${id}.arriving`);
    await pipeline(req, createWriteStream(arrived));
    try {
      const { book, log } = await importBook(arrived, id, join(settings.folder, 'library', id));
      state.books.push(book);
      store.save();
      res.status(201).json({ id, name: book.name, log });
    } catch (error) {
      throw new HttpTrouble(422, `not taken in: ${error instanceof Error ? error.message : String(error)}`);
    } finally {
      await rm(arrived, { force: true });
    }
  });
  api.use(express.json());
  api.get('/about', (_req, res) => {
    res.json({ name: settings.name, kind: 'oxlea', keeps: settings.expiryMs / 1000, each: settings.pace / 1000 });
  });
  api.get('/books', async (_req, res) => {
    const books = await Promise.all(
      state.books.map(async ({ id, code, group, year, name, author, edited, halves }) => ({
        id,
        code,
        group,
        year,
        name,
        author,
        edited,
        size: await librarySize(libraryOf({ id } as OBook), halves),
        parts: halves.flatMap((h) => h.lessons.flatMap((l) => l.parts)).filter((p) => p.sort !== 'line').length,
      })),
    );
    res.json({ books });
  });
  api.get('/books/:id/lessons', async (req, res) => {
    const book = find(state.books, req.params.id, 'book');
    const weighed = await weights(libraryOf(book), book.halves);
    res.json({
      halves: book.halves.map((h) => ({
        key: h.key,
        name: h.name,
        lessons: h.lessons.map((l) => ({
          key: l.key,
          name: l.name,
          parts: l.parts.map((p) => ({ key: p.key, name: p.name, sort: p.sort, weighs: weighed.get(p.key) ?? 0 })),
        })),
      })),
    });
  });
  api.post('/books/:id/parcels', (req, res) => {
    const book = find(state.books, req.params.id, 'book');
    const ask = OAsk.safeParse(req.body);
    if (!ask.success) throw new HttpTrouble(400, z.prettifyError(ask.error));
    // A reference is asked for once.
    const before = state.parcels.find((p) => p.ask.reference === ask.data.reference && p.book === book.id);
    if (before) {
      res.json(shown(before));
      return;
    }
    if (failures.take('full')) throw new HttpTrouble(507, 'the parcel room is full');
    const parcel: OParcel = {
      id: `p${state.next++}`,
      book: book.id,
      ask: ask.data,
      state: 'wrapping',
      begun: Date.now(),
      hangs: failures.take('hang'),
      size: null,
      until: null,
    };
    state.parcels.push(parcel);
    store.save();
    void wrap(parcel, book);
    res.status(202).json(shown(parcel));
  });
  api.get('/parcels', (req, res) => {
    const { reference } = req.query;
    res.json({
      parcels: state.parcels.filter((p) => reference === undefined || p.ask.reference === reference).map(shown),
    });
  });
  api.get('/parcels/:id', (req, res) => void res.json(shown(find(state.parcels, req.params.id, 'parcel'))));
  api.get('/parcels/:id/parcel', async (req, res) => {
    const parcel = find(state.parcels, req.params.id, 'parcel');
    if (parcel.state === 'wrapped' && failures.take('expire')) {
      parcel.until = new Date(0).toISOString();
      await rm(fileOf(parcel), { force: true });
      store.save();
    }
    const at = stateOf(parcel);
    if (at === 'expired' || (at === 'wrapped' && !existsSync(fileOf(parcel)))) {
      throw new HttpTrouble(410, 'thrown away after a day');
    }
    if (at !== 'wrapped') throw new HttpTrouble(409, 'not wrapped yet');
    res.sendFile(parcel.id, { root: join(settings.folder, 'parcels') });
  });
  api.delete('/parcels/:id', async (req, res) => {
    const parcel = find(state.parcels, req.params.id, 'parcel');
    state.parcels.splice(state.parcels.indexOf(parcel), 1);
    store.save();
    await rm(fileOf(parcel), { force: true });
    res.status(204).end();
  });
  app.use('/v1', api);
  app.use(answerErrors);
  return app;
}

/** Bytes of each part, by its key: of its handout, or of its text. */
async function weights(library: string, halves: OBook['halves']): Promise<Map<string, number>> {
  const weighed = new Map<string, number>();
  for (const part of halves.flatMap((h) => h.lessons.flatMap((l) => l.parts))) {
    if (part.sort === 'handout') weighed.set(part.key, (await stat(join(library, part.file))).size);
    else if ('text' in part) weighed.set(part.key, part.text.length);
  }
  return weighed;
}

async function librarySize(library: string, halves: OBook['halves']): Promise<number> {
  return [...(await weights(library, halves)).values()].reduce((sum, bytes) => sum + bytes, 0);
}
