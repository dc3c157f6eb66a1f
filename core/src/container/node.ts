import { createHash, hash } from 'node:crypto';
import { open, opendir, stat } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import { Readable } from 'node:stream';
import { promisify } from 'node:util';
import { Worker } from 'node:worker_threads';
import zlib from 'node:zlib';
import type { ByteSource } from './byte-source.ts';
import type { Engine } from './engine.ts';
import { packFolder, type LooseFile } from './folder.ts';
import type { Scratch } from './open.ts';
import type { Sink } from './zip-writer.ts';

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

/** Node's own zlib and crypto. */
export const nodeEngine: Engine = {
  inflateRaw: (chunks) => inflate(chunks, zlib.createInflateRaw()),
  gunzip: (chunks) => inflate(chunks, zlib.createGunzip()),
  gzip: (chunks) => inflate(chunks, zlib.createGzip()),
  inflateWhole: (bytes, limit) => zlib.inflateRawSync(bytes, { maxOutputLength: limit }),
  // A small text is deflated before another thread has heard of it.
  deflateRaw: async (bytes) => (bytes.length < 1 << 16 ? zlib.deflateRawSync(bytes) : deflate(bytes)),
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

/** Runs as text, since a thread's file would have to be found again wherever this is bundled to. */
const HASHING = `
const { parentPort, workerData } = require('node:worker_threads');
const hash = require('node:crypto').createHash('sha256');
parentPort.on('message', ({ at, length }) => {
  if (length === 0) parentPort.postMessage(hash.digest('hex'));
  else { hash.update(new Uint8Array(workerData, at, length)); parentPort.postMessage(length); }
});`;
const SLOT = 1 << 20;
const SLOTS = 8;

/**
 * SHA-256 in a thread of its own: at half a gigabyte hashing takes as long as all the rest. Bytes go over through a ring
 * of shared memory, since a message of its own for each piece costs about as much as its hash.
 */
class ThreadHash {
  private readonly ring = new SharedArrayBuffer(SLOT * SLOTS);
  private readonly worker = new Worker(HASHING, { eval: true, workerData: this.ring });
  private next = 0;
  private busy = 0;
  private wake: (() => void) | null = null;
  private failure: Error | null = null;
  private readonly ended: Promise<string>;

  constructor() {
    this.ended = new Promise((resolve, reject) => {
      this.worker.on('message', (said: number | string) => {
        if (typeof said === 'string') resolve(said);
        else this.busy--;
        this.wake?.();
      });
      this.worker.once('error', (error) => {
        this.failure = error;
        reject(error);
        this.wake?.();
      });
    });
    this.ended.catch(() => undefined);
  }

  /** Takes a copy of the bytes; waits only while the ring is full. */
  async update(bytes: Uint8Array): Promise<void> {
    for (let at = 0; at < bytes.length; at += SLOT) {
      while (this.busy === SLOTS && !this.failure) await new Promise<void>((done) => (this.wake = done));
      if (this.failure) throw this.failure;
      const part = bytes.subarray(at, at + SLOT);
      const slot = this.next * SLOT;
      new Uint8Array(this.ring, slot, part.length).set(part);
      this.next = (this.next + 1) % SLOTS;
      this.busy++;
      this.worker.postMessage({ at: slot, length: part.length });
    }
  }

  async hex(): Promise<string> {
    this.worker.postMessage({ at: 0, length: 0 });
    try {
      return await this.ended;
    } finally {
      await this.stop();
    }
  }

  async stop(): Promise<void> {
    await this.worker.terminate();
  }
}

export interface FileSink extends Sink {
  /** Size and SHA-256 of what was written. */
  close(): Promise<{ size: number; sha256: string }>;
  /** Lets go of a file that will not be finished. */
  abandon(): Promise<void>;
}

/** A sink that writes a new file and hashes what goes through it. */
export async function fileSink(path: string): Promise<FileSink> {
  const handle = await open(path, 'wx');
  const hash = new ThreadHash();
  let size = 0;
  return {
    async write(bytes) {
      const hashed = hash.update(bytes);
      let done = 0;
      while (done < bytes.length) {
        const { bytesWritten } = await handle.write(bytes, done, bytes.length - done);
        done += bytesWritten;
      }
      size += bytes.length;
      await hashed;
    },
    async close() {
      const sha256 = await hash.hex();
      await handle.close();
      return { size, sha256 };
    },
    async abandon() {
      await hash.stop();
      await handle.close();
    },
  };
}

/** A scratch file for what has to be written anew before it can be read. Whoever owns the path removes it. */
export function scratchFile(path: string): () => Promise<Scratch> {
  return async () => {
    const sink = await fileSink(path);
    return {
      sink,
      source: async () => {
        await sink.close();
        return fileSource(path);
      },
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
  const packed = await scratchFile(scratch)();
  await packFolder(files, packed.sink, { engine: nodeEngine });
  return packed.source();
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
