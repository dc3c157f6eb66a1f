import { open } from 'node:fs/promises';
import { Worker } from 'node:worker_threads';
import type { ByteRange, Sink } from './zip-writer.ts';

/**
 * Runs as text, since a thread's file would have to be found again wherever this is bundled to. What it is asked for is
 * done in the order it was asked for. It hashes only: of a file that is copied, the system reads the next pieces and
 * writes the last ones meanwhile. Pieces are long, since each has another thread woken twice.
 */
const THREAD = `
const { parentPort, workerData } = require('node:worker_threads');
const { createHash } = require('node:crypto');
const { closeSync, openSync, read, write } = require('node:fs');
const { promisify } = require('node:util');
const readFrom = promisify(read);
const writeTo = promisify(write);
const PIECE = 1 << 21;
const AHEAD = 2;
const buffers = Array.from({ length: 6 }, () => ({ bytes: Buffer.allocUnsafeSlow(PIECE), free: Promise.resolve() }));
let hash = createHash('sha256');
let turn = Promise.resolve();
parentPort.on('message', (asked) => {
  turn = turn.then(() => take(asked));
});
async function take(asked) {
  if (asked.act === 'update') hash.update(new Uint8Array(workerData, asked.at, asked.length));
  else if (asked.act === 'copy') await copy(asked);
  else if (asked.act === 'reset') hash = createHash('sha256');
  parentPort.postMessage({ act: asked.act, sha256: asked.act === 'digest' ? hash.digest('hex') : '' });
}
async function copy({ from, ranges, to, position }) {
  const source = openSync(from, 'r');
  const target = openSync(to, 'r+');
  const pieces = inPieces(ranges);
  const coming = [];
  let next = 0;
  const readOn = () => {
    while (coming.length < AHEAD) {
      const { value } = pieces.next();
      if (!value) return;
      coming.push(heardLater(fill(buffers[next++ % buffers.length], source, value)));
    }
  };
  try {
    for (readOn(); coming.length > 0; ) {
      const buffer = await coming.shift();
      const bytes = buffer.bytes.subarray(0, buffer.length);
      buffer.free = heardLater(drain(target, bytes, position));
      position += bytes.length;
      readOn();
      hash.update(bytes);
    }
    await Promise.all(buffers.map((b) => b.free));
  } finally {
    await Promise.allSettled([...coming, ...buffers.map((b) => b.free)]);
    closeSync(source);
    closeSync(target);
  }
}
/** The ranges cut and gathered into what one buffer holds. */
function* inPieces(ranges) {
  let parts = [];
  let room = PIECE;
  for (const { offset, length } of ranges) {
    for (let at = 0; at < length; ) {
      const here = Math.min(room, length - at);
      parts.push({ offset: offset + at, length: here });
      at += here;
      room -= here;
      if (room > 0) continue;
      yield parts;
      parts = [];
      room = PIECE;
    }
  }
  if (parts.length > 0) yield parts;
}
async function fill(buffer, source, parts) {
  await buffer.free;
  buffer.length = 0;
  for (const { offset, length } of parts) {
    for (let at = 0; at < length; ) {
      const { bytesRead } = await readFrom(source, buffer.bytes, buffer.length, length - at, offset + at);
      if (bytesRead === 0) throw new RangeError('read past the end of the source: ' + (offset + at));
      buffer.length += bytesRead;
      at += bytesRead;
    }
  }
  return buffer;
}
async function drain(target, bytes, to) {
  for (let done = 0; done < bytes.length; ) {
    done += (await writeTo(target, bytes, done, bytes.length - done, to + done)).bytesWritten;
  }
}
/** A failure is heard of when it is waited for. */
function heardLater(promise) {
  promise.catch(() => undefined);
  return promise;
}`;
const SLOT = 1 << 20;
const SLOTS = 8;

interface Answer {
  act: 'update' | 'copy' | 'reset' | 'digest';
  sha256: string;
}

/**
 * SHA-256 in a thread of its own: at half a gigabyte hashing takes as long as all the rest. Bytes go over through a ring
 * of shared memory, since a message of its own for each piece costs about as much as its hash; ranges of a file are read
 * and written there too, and cost this thread nothing.
 */
class WritingThread {
  private readonly ring = new SharedArrayBuffer(SLOT * SLOTS);
  private readonly worker = new Worker(THREAD, {
    eval: true,
    workerData: this.ring,
    resourceLimits: { maxYoungGenerationSizeMb: 2 },
  });
  private readonly asked: { done: (answer: Answer) => void; failed: (error: Error) => void }[] = [];
  private next = 0;
  /** Slots of the ring that are not hashed yet, the oldest first. */
  private readonly busy: Promise<unknown>[] = [];
  private failure: Error | null = null;

  constructor() {
    this.worker.on('message', (answer: Answer) => this.asked.shift()?.done(answer));
    this.worker.once('error', (error) => this.fail(error));
    this.worker.once('exit', () => this.fail(new Error('the thread that writes has ended')));
  }

  private fail(error: Error): void {
    this.failure ??= error;
    for (const { failed } of this.asked.splice(0)) failed(this.failure);
  }

  /** Takes a copy of the bytes; waits only while the ring is full. */
  async update(bytes: Uint8Array): Promise<void> {
    for (let at = 0; at < bytes.length; at += SLOT) {
      if (this.busy.length === SLOTS) await this.busy.shift();
      const part = bytes.subarray(at, at + SLOT);
      const slot = this.next * SLOT;
      new Uint8Array(this.ring, slot, part.length).set(part);
      this.next = (this.next + 1) % SLOTS;
      this.busy.push(this.ask({ act: 'update', at: slot, length: part.length }));
    }
  }

  async copy(copy: { from: string; ranges: readonly ByteRange[]; to: string; position: number }): Promise<void> {
    await this.ask({ act: 'copy', ...copy });
  }

  async reset(): Promise<void> {
    await this.ask({ act: 'reset' });
  }

  async hex(): Promise<string> {
    try {
      return (await this.ask({ act: 'digest' })).sha256;
    } finally {
      await this.stop();
    }
  }

  async stop(): Promise<void> {
    await this.worker.terminate();
  }

  private ask(what: { act: Answer['act'] } & Record<string, unknown>): Promise<Answer> {
    const answer = new Promise<Answer>((done, failed) => {
      if (this.failure) return failed(this.failure);
      this.asked.push({ done, failed });
      this.worker.postMessage(what);
    });
    // Whoever waits for it hears of it; so does whoever asks next.
    answer.catch(() => undefined);
    return answer;
  }
}

export interface FileSink extends Sink {
  copy(from: string, ranges: readonly ByteRange[]): Promise<void>;
  rewind(): Promise<void>;
  /** Size and SHA-256 of what was written. */
  close(): Promise<{ size: number; sha256: string }>;
  /** Lets go of a file that will not be finished. */
  abandon(): Promise<void>;
}

/** A sink that writes a new file and hashes what goes through it. */
export async function fileSink(path: string): Promise<FileSink> {
  const handle = await open(path, 'wx');
  const thread = new WritingThread();
  let size = 0;
  return {
    async write(bytes) {
      const position = size;
      size += bytes.length;
      const hashed = thread.update(bytes);
      for (let done = 0; done < bytes.length;) {
        done += (await handle.write(bytes, done, bytes.length - done, position + done)).bytesWritten;
      }
      await hashed;
    },
    async copy(from, ranges) {
      const position = size;
      for (const { length } of ranges) size += length;
      await thread.copy({ from, ranges, to: path, position });
    },
    async rewind() {
      await thread.reset();
      await handle.truncate(0);
      size = 0;
    },
    async close() {
      const sha256 = await thread.hex();
      await handle.close();
      return { size, sha256 };
    },
    async abandon() {
      await thread.stop();
      await handle.close();
    },
  };
}
