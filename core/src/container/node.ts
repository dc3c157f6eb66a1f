import { createHash, hash } from 'node:crypto';
import { open, opendir, stat } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import { Readable } from 'node:stream';
import { promisify } from 'node:util';
import zlib from 'node:zlib';
import type { ByteSource } from './byte-source.ts';
import type { Engine } from './engine.ts';
import { fileSink } from './file-sink.ts';
import { packFolder, type LooseFile } from './folder.ts';
import { scratched, type MakeScratch } from './scratch.ts';

export { fileSink, type FileSink } from './file-sink.ts';

const deflate = promisify(zlib.deflateRaw);

async function* inflate(
  chunks: AsyncIterable<Uint8Array>,
  inflater: zlib.InflateRaw | zlib.Gunzip,
): AsyncGenerator<Uint8Array> {
  const source = Readable.from(chunks);
  source.on('error', (error) => inflater.destroy(error));
  source.pipe(inflater);
  try {
    for await (const part of inflater) yield part as Uint8Array;
  } finally {
    source.destroy();
    inflater.destroy();
  }
}

/** What zlib takes at once for what it gives: as much as will be, since of small texts there are thousands. */
const chunk = (expected: number) => Math.min(Math.max(64, Math.ceil(expected)), 1 << 16);

/** Node's own zlib and crypto. */
export const nodeEngine: Engine = {
  inflateRaw: (chunks) => inflate(chunks, zlib.createInflateRaw()),
  gunzip: (chunks) => inflate(chunks, zlib.createGunzip()),
  gzip: (chunks) => inflate(chunks, zlib.createGzip()),
  inflateWhole: (bytes, limit) => zlib.inflateRawSync(bytes, { maxOutputLength: limit, chunkSize: chunk(limit + 1) }),
  // A small text is deflated before another thread has heard of it.
  deflateRaw: async (bytes) =>
    bytes.length < 1 << 16 ? zlib.deflateRawSync(bytes, { chunkSize: chunk(bytes.length / 2) }) : deflate(bytes),
  crc32: (bytes, seed = 0) => zlib.crc32(bytes, seed),
  sha256() {
    const hash = createHash('sha256');
    return { update: (bytes) => void hash.update(bytes), hex: () => hash.digest('hex') };
  },
  digest: (whole) => hash('sha256', whole),
};

export async function fileSource(path: string): Promise<ByteSource> {
  const handle = await open(path, 'r');
  const { size } = await handle.stat();
  return {
    size,
    file: path,
    async read(offset, length) {
      const buffer = Buffer.allocUnsafe(length);
      let done = 0;
      while (done < length) {
        const { bytesRead } = await handle.read(buffer, done, length - done, offset + done);
        if (bytesRead === 0) throw new RangeError(`read past the end of ${path}: ${offset}+${length}`);
        done += bytesRead;
      }
      return buffer;
    },
    close: () => handle.close(),
  };
}

/** A scratch file for what has to be written anew before it can be read. Whoever owns the path removes it. */
export function scratchFile(path: string): MakeScratch {
  return async () => {
    const sink = await fileSink(path);
    return {
      sink,
      source: async () => {
        await sink.close();
        return fileSource(path);
      },
      discard: () => sink.abandon(),
    };
  };
}

/** A folder on disk as a package: packed into a scratch file. Links in it are not followed. */
export async function folderSource(folder: string, scratch: string): Promise<ByteSource> {
  const files: LooseFile[] = [];
  for await (const entry of await opendir(folder, { recursive: true })) {
    if (!entry.isFile()) continue;
    const path = join(entry.parentPath, entry.name);
    files.push({ path: relative(folder, path).split(sep).join('/'), source: await lazySource(path) });
  }
  files.sort((a, b) => (a.path < b.path ? -1 : 1));
  return scratched(scratchFile(scratch), async (sink) => {
    await packFolder(files, sink, { engine: nodeEngine });
  });
}

/** A file that is held open only while a read of it runs: a folder has more files than a process may open. */
async function lazySource(path: string): Promise<ByteSource> {
  const { size } = await stat(path);
  return {
    size,
    async read(offset, length) {
      const source = await fileSource(path);
      try {
        return await source.read(offset, length);
      } finally {
        await source.close();
      }
    },
    async close() {},
  };
}
