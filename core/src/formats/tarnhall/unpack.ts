import type { Unpacker } from '../../container/index.ts';
import { decodeText } from '../../markup/index.ts';
import { Refusal, isLedTo, itemAddress, problem, type SubjectKind } from '../../model/index.ts';
import { pageOf } from '../archive/parts.ts';
import { Crate, Entry, Unit } from './records.ts';
import type * as z from 'zod';
import type { Package } from '../../container/index.ts';

export const CRATE = 'crate.json';
/** Where the page of a text stands once the crate is unpacked. */
export const textPath = (id: string): string => `texts/${id}.html`;
/** Where a file stands: under its own name, since that is what people know it by. */
export const filePath = ({ id, path }: { id: string; path: string }): string => `files/${id}/${path}`;

/** @throws Refusal `archive-damaged` */
export async function documentAt<S extends z.ZodType>(pkg: Package, path: string, schema: S): Promise<z.infer<S>> {
  const refuse = (why: string, cause?: unknown) =>
    new Refusal(problem('archive-damaged', `${path} ${why}.`, { file: path }), { cause });
  if (!pkg.entries.has(path)) throw refuse('is pointed at and is not there');
  let value: unknown;
  try {
    value = JSON.parse(decodeText(await pkg.bytes(path)));
  } catch (error) {
    if (error instanceof Refusal) throw error;
    throw refuse('is not JSON', error);
  }
  const read = schema.safeParse(value);
  if (!read.success) throw refuse('does not hold what it should');
  return read.data;
}

/** Texts stand inside documents, and files under identifiers: pages are made of the ones, names given to the others. */
export const tarnhallUnpacker: Unpacker = {
  id: 'tarnhall',
  landmark: CRATE,
  ofPackage: {
    fits: (pkg) => pkg.entries.has(CRATE),
    async unpack(pkg, writer) {
      const crate = await documentAt(pkg, CRATE, Crate);
      const blobs = new Map(crate.files.map((f) => [f.blob, f]));
      for (const entry of pkg.entries.values()) {
        const file = blobs.get(entry.path);
        await writer.copy(file ? filePath(file) : entry.path, pkg, entry);
      }
      const held = heldIn(crate.files, await entriesIn(pkg, crate));
      for (const at of crate.units) {
        const unit = await documentAt(pkg, at, Unit);
        for (const path of unit.entries) {
          const entry = await documentAt(pkg, path, Entry);
          if (entry.sort !== 'text') continue;
          const page = pageOf(entry.title, held(entry.body, '../'));
          await writer.add(textPath(entry.id), new TextEncoder().encode(page));
        }
      }
    },
  },
};

/** What entries are in the course. */
const KIND_OF_SORT = {
  text: 'page',
  file: 'file',
  pointer: 'link',
  launcher: 'tool',
  talk: 'discussion',
  task: 'assignment',
  test: 'quiz',
  heading: 'heading',
} as const satisfies Record<Entry['sort'], SubjectKind>;

/** What stands in the units of a crate, by its number there. */
export type EntriesOfCrate = ReadonlyMap<string, { sort: Entry['sort']; id: string }>;

/** Gives out identifiers: those of the package a thing came from are kept, as long as they are unique. */
export function identifiers(): (origin: string | null, number: string) => string {
  const taken = new Set<string>();
  return (origin, number) => {
    const own = origin !== null && !taken.has(origin) ? origin : `tarnhall-${number}`;
    taken.add(own);
    return own;
  };
}

/** Every entry with the identifier that it has in the course; a unit that is named twice is read once. */
export async function entriesIn(pkg: Package, crate: z.infer<typeof Crate>): Promise<EntriesOfCrate> {
  const idOf = identifiers();
  const found = new Map<string, { sort: Entry['sort']; id: string }>();
  for (const at of new Set(crate.units)) {
    const unit = await documentAt(pkg, at, Unit);
    if (!unit.loose) idOf(unit.origin, unit.id);
    for (const path of new Set(unit.entries)) {
      const { id, origin, sort } = await documentAt(pkg, path, Entry);
      const own = idOf(origin, id);
      if (!found.has(id)) found.set(id, { sort, id: own });
    }
  }
  return found;
}

/** Texts name files as `held:` and entries as `entry:`, each with the identifier. */
export function heldIn(
  files: z.infer<typeof Crate>['files'],
  entries: EntriesOfCrate,
): (text: string, up: string) => string {
  const paths = new Map(files.map((f) => [f.id, filePath(f)]));
  return (text, up) =>
    text
      .replace(/held:(f\d+)/g, (whole, id: string) => {
        const path = paths.get(id);
        return path === undefined ? whole : up + path.split('/').map(encodeURIComponent).join('/');
      })
      .replace(/entry:(e\d+)/g, (_, number: string) => {
        const entry = entries.get(number);
        return entry && isLedTo({ kind: KIND_OF_SORT[entry.sort] }) ? itemAddress(entry.id) : up + textPath(number);
      });
}
