import type { Unpacker } from '../../container/index.ts';
import { decodeText } from '../../markup/index.ts';
import { Refusal, problem } from '../../model/index.ts';
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
    new Refusal(problem('archive-damaged', `${path} ${why}.`, 'Export the course again.', { file: path }), { cause });
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
      const held = heldIn(crate.files);
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

/** Texts name files as `held:` and texts as `entry:`, each with the identifier. */
export function heldIn(files: z.infer<typeof Crate>['files']): (text: string, up: string) => string {
  const paths = new Map(files.map((f) => [f.id, filePath(f)]));
  return (text, up) =>
    text
      .replace(/held:(f\d+)/g, (whole, id: string) => {
        const path = paths.get(id);
        return path === undefined ? whole : up + path.split('/').map(encodeURIComponent).join('/');
      })
      .replace(/entry:(e\d+)/g, (_, id: string) => up + textPath(id));
}
