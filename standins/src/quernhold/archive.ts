import { createReadStream, createWriteStream } from 'node:fs';
import { rename, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createGunzip, createGzip } from 'node:zlib';
import { decodeFirst, encode } from 'cborg';
import { mkdir } from 'node:fs/promises';
import { dirname } from 'node:path';
import * as z from 'zod';
import { QCourse, leaves, type QNode } from './model.ts';

/**
 * Quernhold's own archive: a gzipped sequence of CBOR items (RFC 8742). The first says what it is, the last how many
 * there were; between them every thing the platform knows, one a record, and each file as its head and its pieces.
 */
const MAGIC = 'quern/4';
const PIECE = 1 << 16;

type Record = { k: string } & { [field: string]: unknown };

export async function writeArchive(
  course: QCourse,
  folder: string,
  files: readonly string[],
  target: string,
): Promise<void> {
  const part = `${target}.part`;
  await pipeline(Readable.from(packed(course, folder, files)), createGzip({ level: 6 }), createWriteStream(part));
  await rename(part, target);
}

async function* packed(course: QCourse, folder: string, files: readonly string[]): AsyncGenerator<Uint8Array> {
  let count = 0;
  const item = (record: Record): Uint8Array => {
    count++;
    return encode(record);
  };
  yield item({
    k: MAGIC,
    id: course.id,
    code: course.code,
    sec: course.section,
    term: course.term,
    ttl: course.title,
    own: course.owner,
    abt: course.about,
    kw: course.keywords,
    chg: course.changedAt,
    quota: course.quota,
  });
  const tree = function* (nodes: readonly QNode[], up: string | null): Generator<Record> {
    for (const [place, node] of nodes.entries()) {
      if (node.kind === 'folder') {
        const was = node.was === undefined ? {} : { was: node.was };
        const abt = node.about === undefined ? {} : { abt: node.about };
        yield { k: 'node', up, place, ref: node.ref, sort: 'folder', ttl: node.title, ...abt, ...was };
        yield* tree(node.inside, node.ref);
      } else {
        const { kind, ref, title, ...rest } = node;
        yield { k: 'node', up, place, ref, sort: kind, ttl: title, has: rest };
      }
    }
  };
  for (const record of tree(course.nodes, null)) yield item(record);
  for (const bank of course.banks)
    yield item({ k: 'bank', ref: bank.ref, ttl: bank.title, has: { questions: bank.questions } });
  const { rich } = course;
  for (const kind of [
    'notices',
    'checklists',
    'automations',
    'events',
    'rubrics',
    'groups',
    'rules',
    'people',
    'work',
  ] as const) {
    for (const one of rich[kind]) yield item({ k: kind, has: one });
  }
  if (rich.attendance) yield item({ k: 'attendance', has: rich.attendance });
  yield item({ k: 'ledger', has: rich.ledger });
  yield item({ k: 'linked', has: rich.linked });
  for (const path of files) {
    const { size } = await stat(join(folder, path));
    yield item({ k: 'file', at: path, size });
    for await (const piece of createReadStream(join(folder, path), { highWaterMark: PIECE })) {
      yield item({ k: 'piece', d: new Uint8Array(piece as Buffer) });
    }
  }
  yield encode({ k: 'end', n: count });
}

const Head = z.looseObject({
  k: z.literal(MAGIC),
  code: z.string(),
  sec: z.string(),
  term: z.string(),
  ttl: z.string(),
  own: z.string(),
  abt: z.string(),
  kw: z.array(z.string()),
  quota: z.number(),
});

/** Reads an archive of its own back: exactly, files into `folder`. @throws Error where it is none */
export async function readArchive(path: string, id: string, folder: string): Promise<QCourse> {
  let head: z.infer<typeof Head> | null = null;
  const byUp = new Map<string | null, { place: number; node: QNode }[]>();
  const banks: unknown[] = [];
  const rich: { [kind: string]: unknown[] } = {};
  const single: { [kind: string]: unknown } = {};
  let open: ReturnType<typeof createWriteStream> | null = null;
  let seen = 0;
  for await (const record of records(createReadStream(path).pipe(createGunzip()))) {
    seen++;
    if (!head) {
      head = Head.parse(record);
      continue;
    }
    const { k, has } = record as { k: string; has?: object };
    if (k === 'end') {
      if ((record as { n?: number }).n !== seen - 1) throw new Error('the archive is not whole');
      break;
    }
    if (k === 'node') {
      const { up, place, ref, sort, ttl, abt, was } = record as unknown as {
        up: string | null;
        place: number;
        ref: string;
        sort: string;
        ttl: string;
        abt?: string;
        was?: string;
      };
      const node =
        sort === 'folder'
          ? { kind: 'folder', ref, title: ttl, about: abt, was, inside: [] }
          : { kind: sort, ref, title: ttl, ...has };
      byUp.set(up, [...(byUp.get(up) ?? []), { place, node: node as QNode }]);
    } else if (k === 'bank') banks.push({ ref: record['ref'], title: record['ttl'], ...has });
    else if (k === 'file') {
      open?.end();
      const at = join(folder, String(record['at']));
      await mkdir(dirname(at), { recursive: true });
      open = createWriteStream(at);
    } else if (k === 'piece') open?.write(record['d']);
    else if (k === 'attendance' || k === 'ledger' || k === 'linked') single[k] = has;
    else (rich[k] ??= []).push(has);
  }
  await new Promise<void>((done) => (open ? open.end(done) : done()));
  if (!head) throw new Error('the archive is empty');
  const hang = (up: string | null): QNode[] =>
    (byUp.get(up) ?? [])
      .sort((a, b) => a.place - b.place)
      .map(({ node }) => (node.kind === 'folder' ? { ...node, inside: hang(node.ref) } : node));
  const lists = Object.fromEntries(
    ['notices', 'checklists', 'automations', 'events', 'rubrics', 'groups', 'rules', 'people', 'work'].map((kind) => [
      kind,
      rich[kind] ?? [],
    ]),
  );
  const course = QCourse.parse({
    id,
    code: head.code,
    section: head.sec,
    term: head.term,
    title: head.ttl,
    owner: head.own,
    about: head.abt,
    keywords: head.kw,
    changedAt: new Date().toISOString(),
    nodes: hang(null),
    banks,
    rich: { ...lists, attendance: single['attendance'] ?? null, ledger: single['ledger'], linked: single['linked'] },
    quota: head.quota,
  });
  for (const leaf of leaves(course.nodes)) if (leaf.title === '') throw new Error('a part without a title');
  return course;
}

/** CBOR items of a stream; what is not yet whole waits for more bytes. */
async function* records(stream: AsyncIterable<Uint8Array>): AsyncGenerator<Record> {
  let held: Uint8Array = new Uint8Array();
  for await (const part of stream) {
    held = held.length === 0 ? part : Buffer.concat([held, part]);
    for (;;) {
      if (held.length === 0) break;
      let found: [unknown, Uint8Array];
      try {
        found = decodeFirst(held);
      } catch (error) {
        if (error instanceof Error && /unexpected end|not enough/i.test(error.message)) break;
        throw error;
      }
      held = found[1];
      yield found[0] as Record;
    }
  }
  if (held.length > 0) throw new Error('the archive ends in the middle of a record');
}
