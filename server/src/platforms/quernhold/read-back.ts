import { createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { decodeText, lookInto, openAndRead, type Course, type Package } from '@treenail/core';
import { fileSource, nodeEngine, scratchFile } from '@treenail/core/node';
import type { ReadBack } from '../contract.ts';

/** Reads an archive as it arrives, every file hashed, and leaves nothing of it behind. */
export async function readArchive(bytes: AsyncIterable<Uint8Array>): Promise<ReadBack> {
  const folder = await mkdtemp(join(tmpdir(), 'treenail-back-'));
  try {
    const file = join(folder, 'archive');
    await pipeline(bytes, createWriteStream(file));
    const source = await fileSource(file);
    try {
      const read = await openAndRead(source, {
        engine: nodeEngine,
        scratch: scratchFile(join(folder, 'unpacked.zip')),
      });
      try {
        const { course } = await lookInto(read, { engine: nodeEngine });
        // Quernhold's own references are what its archive names things by.
        const names = Object.fromEntries(course.items.map(({ id }) => [id, id]));
        return { course, pages: await pagesOf(course, read.pkg), names };
      } finally {
        await read.pkg.close();
      }
    } finally {
      await source.close();
    }
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Bytes of a page that nobody reads to its end. */
const LONG_PAGE = 1 << 20;

async function pagesOf({ items }: Course, pkg: Package): Promise<Record<string, string>> {
  const pages: Record<string, string> = {};
  for (const item of items) {
    if (item.kind !== 'page' || !pkg.entries.has(item.file) || pkg.entry(item.file).size > LONG_PAGE) continue;
    pages[item.id] = decodeText(await pkg.bytes(item.file));
  }
  return pages;
}
