import { createWriteStream } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { lookInto, openAndRead, type Course } from '@treenail/core';
import { fileSource, nodeEngine, scratchFile } from '@treenail/core/node';

/** Reads an archive as it arrives, every file hashed, and leaves nothing of it behind. */
export async function readArchive(bytes: AsyncIterable<Uint8Array>): Promise<Course> {
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
      return (await lookInto(read, { engine: nodeEngine }).finally(() => read.pkg.close())).course;
    } finally {
      await source.close();
    }
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
