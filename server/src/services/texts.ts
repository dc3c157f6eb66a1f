import { createWriteStream } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { createGunzip, createGzip, type Gzip } from 'node:zlib';
import { createInterface } from 'node:readline';
import { TextIndex, searchCourse, wordsOf, type Item } from '@treenail/core';
import * as z from 'zod';
import type { TextSearchAnswer } from '../contract/index.ts';
import { Copy } from '../db/models/index.ts';
import type { Services } from './context.ts';
import { readDocument } from './documents.ts';
import { moveById } from './moves.ts';
import { withPackage } from './packages.ts';

/** Texts of a course on their way into a blob: one line an item's text, as it is read. */
export class TextsWriter {
  private readonly gzip: Gzip = createGzip({ level: 1 });
  private readonly path: string;
  private readonly written: Promise<void>;

  private constructor(path: string) {
    this.path = path;
    this.written = pipeline(this.gzip, createWriteStream(path));
    // Told when it is closed.
    this.written.catch(() => undefined);
  }

  static async into(folder: string, name: string): Promise<TextsWriter> {
    await mkdir(folder, { recursive: true });
    return new TextsWriter(join(folder, name));
  }

  readonly add = ({ id }: Item, text: string): void => {
    this.gzip.write(`${JSON.stringify([id, text])}\n`);
  };

  /** Keeps what was written. */
  async keep({ store }: Services): Promise<string> {
    this.gzip.end();
    await this.written;
    return (await store.putFile(this.path)).sha256;
  }
}

const Line = z.tuple([z.string(), z.string()]);

/** Indexes that were asked for lately, by the blob they were made of. Any server can make any of them again. */
const LATELY = new Map<string, Promise<TextIndex>>();
const HELD = 4;

function indexOf(services: Services, sha256: string, titles: ReadonlyMap<string, string>): Promise<TextIndex> {
  const before = LATELY.get(sha256);
  LATELY.delete(sha256);
  const index = before ?? load(services, sha256, titles);
  LATELY.set(sha256, index);
  index.catch(() => LATELY.delete(sha256));
  for (const oldest of LATELY.keys()) if (LATELY.size > HELD) LATELY.delete(oldest);
  return index;
}

async function load({ store }: Services, sha256: string, titles: ReadonlyMap<string, string>): Promise<TextIndex> {
  const index = new TextIndex();
  for (const [id, title] of titles) index.add(id, title, '');
  const lines = createInterface({ input: store.stream(sha256).pipe(createGunzip()), crlfDelay: Infinity });
  for await (const line of lines) {
    const [id, text] = Line.parse(JSON.parse(line));
    index.add(id, titles.get(id) ?? '', text);
  }
  return index;
}

/** Searches titles and texts of what was fetched for a move. */
export async function searchTexts(services: Services, moveId: number, question: string): Promise<TextSearchAnswer> {
  const [move, { course }, { sha256 }] = await Promise.all([
    moveById(moveId),
    readDocument(moveId, 'look'),
    readDocument(moveId, 'texts'),
  ]);
  const index = await indexOf(services, sha256, new Map(course.items.map((i) => [i.id, i.title])));
  const copy = await Copy.findByPk(move.copyId ?? 0, { rejectOnEmpty: true });
  return withPackage(services, copy.sha256, (pkg) =>
    searchCourse(course, index, question, (item) => wordsOf(pkg, item)),
  );
}
