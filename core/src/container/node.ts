import { createHash } from 'node:crypto';
import { open } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { promisify } from 'node:util';
import zlib from 'node:zlib';
import type { ByteSource } from './byte-source.ts';
import type { Engine } from './engine.ts';
import type { Sink } from './zip-writer.ts';

const deflate = promisify(zlib.deflateRaw);

async function* inflateRaw(chunks: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  const inflater = zlib.createInflateRaw();
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

/** Node's own zlib and crypto. */
export const nodeEngine: Engine = {
  inflateRaw,
  inflateWhole: (bytes, limit) => zlib.inflateRawSync(bytes, { maxOutputLength: limit }),
  deflateRaw: (bytes) => deflate(bytes),
  crc32: (bytes, seed = 0) => zlib.crc32(bytes, seed),
  sha256() {
    const hash = createHash('sha256');
    return { update: (bytes) => void hash.update(bytes), hex: () => hash.digest('hex') };
  },
};

export async function fileSource(path: string): Promise<ByteSource> {
  const handle = await open(path, 'r');
  const { size } = await handle.stat();
  return {
    size,
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

/** A sink that writes a new file and hashes what goes through it. `close` gives size and SHA-256. */
export async function fileSink(path: string): Promise<Sink & { close(): Promise<{ size: number; sha256: string }> }> {
  const handle = await open(path, 'wx');
  const hash = createHash('sha256');
  let size = 0;
  return {
    async write(bytes) {
      hash.update(bytes);
      let done = 0;
      while (done < bytes.length) {
        const { bytesWritten } = await handle.write(bytes, done, bytes.length - done);
        done += bytesWritten;
      }
      size += bytes.length;
    },
    async close() {
      await handle.sync();
      await handle.close();
      return { size, sha256: hash.digest('hex') };
    },
  };
}
