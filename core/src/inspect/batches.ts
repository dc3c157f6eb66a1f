import type { CourseFile } from '../model/index.ts';
import { FileReader, type ReadMode, type FileRead } from './reading.ts';
import type { Kept, FileWorker } from './survey.ts';

/* Files of a course read in batches, beside each other, and taken in their order. */

/** Files that are read together: enough to be worth the words between two threads, little enough to be shared evenly. */
const BATCH_FILES = 48;
const BATCH_BYTES = 2 ** 21;
/** Files read ahead of the one whose turn it is. */
const AHEAD = 600;

/** Who reads, and what need not be read. */
interface Readers {
  reader: FileReader;
  workers: readonly FileWorker[];
  kept?: ReadonlyMap<string, Kept> | undefined;
}

/**
 * Has every file read, by this thread and whatever threads there are, and tells what was found in the order of the files:
 * so the answer never depends on who was quicker.
 */
export async function readAll(
  files: readonly CourseFile[],
  mode: ReadMode,
  { reader, workers, kept }: Readers,
  take: (file: CourseFile, read: FileRead | null) => void,
): Promise<void> {
  const batches = batchesOf(files.filter((f) => !kept?.has(f.path)));
  const waiting = new Map<string, FileRead>();
  let turn = 0;
  let room: (() => void)[] = [];
  const release = () => {
    for (let file = files[turn]; file; file = files[turn]) {
      const read = waiting.get(file.path);
      if (!read && !kept?.has(file.path)) break;
      waiting.delete(file.path);
      take(file, read ?? null);
      turn++;
    }
    if (waiting.size > AHEAD) return;
    room.forEach((go) => go());
    room = [];
  };
  const work = async (worker: (batch: readonly CourseFile[]) => Promise<void>) => {
    for (let batch = batches.shift(); batch; batch = batches.shift()) {
      await worker(batch);
      // The file whose turn it is is being read by somebody who does not wait.
      while (waiting.size > AHEAD) await new Promise<void>((go) => room.push(go));
    }
  };
  release();
  await Promise.all([
    work(async (batch) => {
      for (const file of batch) {
        waiting.set(file.path, await reader.run(file, mode));
        release();
      }
    }),
    ...workers.map((worker) =>
      work(async (batch) => {
        const paths = batch.map((f) => f.path);
        for (const read of await worker.read(paths, mode)) waiting.set(read.path, read);
        release();
      }),
    ),
  ]);
}

function batchesOf(files: readonly CourseFile[]): CourseFile[][] {
  const batches: CourseFile[][] = [];
  let bytes = 0;
  for (const file of files) {
    const last = batches.at(-1);
    if (last && last.length < BATCH_FILES && bytes + file.size <= BATCH_BYTES) {
      last.push(file);
      bytes += file.size;
    } else {
      batches.push([file]);
      bytes = file.size;
    }
  }
  return batches;
}
