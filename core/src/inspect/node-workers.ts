import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import type { Entry, Limits, Package } from '../container/index.ts';
import type { Course } from '../model/index.ts';
import type { ReadMode, FileRead, ReadingOptions } from './reading.ts';
import type { FileWorker } from './survey.ts';

/** Threads of Node that read files of a course beside the one that surveys it. */
export interface FileWorkers {
  readonly workers: readonly FileWorker[];
  readonly close: () => Promise<void>;
}

/** What a thread is told when it begins. */
export interface ThreadStart {
  path: string;
  entries: ReadonlyMap<string, Entry>;
  limits: Limits;
  course: Course;
  options: ReadingOptions;
}

export interface ThreadRequest {
  id: number;
  paths: readonly string[];
  mode: ReadMode;
}

export interface ThreadAnswer {
  id: number;
  read: FileRead[];
}

/** Pages with less in them are read sooner than another thread has begun, learned the course and warmed up. */
const WORTH_BYTES = 192 * 2 ** 20;

/**
 * Begins as many threads as the machine has cores besides this one, at most `most`. There are none where the package
 * lies in no file of its own, or is not worth it.
 * @param script the bundled `file.worker.ts`; `null` where nothing is bundled
 */
export function fileWorkersFor(
  pkg: Package,
  course: Course,
  options: ReadingOptions,
  script: URL | null,
  { most = 3, worth = WORTH_BYTES } = {},
): FileWorkers {
  const lies = pkg.sourceFile;
  const bytes = course.files.reduce((sum, f) => sum + (/html|css/.test(f.mediaType) ? f.size : 0), 0);
  const many = bytes < worth ? 0 : Math.min(most, availableParallelism() - 1);
  if (lies === null || script === null || many < 1) return { workers: [], close: async () => undefined };
  const order: ThreadStart = { path: lies, entries: pkg.entries, limits: pkg.limits, course, options };
  const threads = Array.from({ length: many }, () => new FileThread(script, order));
  return {
    workers: threads,
    close: async () => void (await Promise.all(threads.map((t) => t.end()))),
  };
}

class FileThread implements FileWorker {
  private readonly worker: Worker;
  private readonly asked = new Map<number, { done: (read: FileRead[]) => void; failed: (error: Error) => void }>();
  private next = 0;
  private broken: Error | null = null;

  constructor(script: URL, order: ThreadStart) {
    this.worker = new Worker(script, { workerData: order });
    this.worker.on('message', ({ id, read }: ThreadAnswer) => {
      this.asked.get(id)?.done(read);
      this.asked.delete(id);
    });
    this.worker.on('error', (error) => this.fail(error));
    this.worker.on('exit', () => this.fail(new Error('a thread that reads files has ended')));
  }

  read(paths: readonly string[], mode: ReadMode): Promise<FileRead[]> {
    if (this.broken) return Promise.reject(this.broken);
    return new Promise((done, failed) => {
      const id = this.next++;
      this.asked.set(id, { done, failed });
      this.worker.postMessage({ id, paths, mode } satisfies ThreadRequest);
    });
  }

  private fail(error: Error): void {
    this.broken ??= error;
    for (const { failed } of this.asked.values()) failed(this.broken);
    this.asked.clear();
  }

  async end(): Promise<void> {
    await this.worker.terminate();
  }
}
