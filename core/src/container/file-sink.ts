import { open } from 'node:fs/promises';
import type { Worker } from 'node:worker_threads';
import type { ThreadAnswer, ThreadRequest } from './file-sink.thread.ts';
import { startThread } from './thread.ts';
import type { ByteRange, Sink } from './zip-writer.ts';

const SLOT = 1 << 20;
const SLOTS = 8;

/**
 * SHA-256 in a thread of its own: at half a gigabyte hashing takes as long as all the rest. Bytes go over through a ring
 * of shared memory, since a message of its own for each piece costs about as much as its hash; ranges of a file are read
 * and written there too, and cost this thread nothing.
 */
class WritingThread {
  private readonly pending: { done: (answer: ThreadAnswer) => void; failed: (error: Error) => void }[] = [];
  private next = 0;
  /** Slots of the ring that are not hashed yet, the oldest first. */
  private readonly busy: Promise<unknown>[] = [];
  private failure: Error | null = null;

  private constructor(
    private readonly worker: Worker,
    private readonly ring: SharedArrayBuffer,
  ) {
    worker.on('message', (answer: ThreadAnswer) => this.pending.shift()?.done(answer));
    worker.once('error', (error) => this.fail(error));
    worker.once('exit', () => this.fail(new Error('the thread that writes has ended')));
  }

  static async start(): Promise<WritingThread> {
    const ring = new SharedArrayBuffer(SLOT * SLOTS);
    const program = { source: './file-sink.thread.ts', bundled: './file-sink-thread.mjs' };
    const resourceLimits = { maxYoungGenerationSizeMb: 2 };
    return new WritingThread(await startThread(import.meta.url, program, { workerData: ring, resourceLimits }), ring);
  }

  private fail(error: Error): void {
    this.failure ??= error;
    for (const { failed } of this.pending.splice(0)) failed(this.failure);
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

  private ask(what: ThreadRequest): Promise<ThreadAnswer> {
    const answer = new Promise<ThreadAnswer>((done, failed) => {
      if (this.failure) return failed(this.failure);
      this.pending.push({ done, failed });
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
  const thread = await WritingThread.start().catch(async (error: unknown) => {
    await handle.close();
    throw error;
  });
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
