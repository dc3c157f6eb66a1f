import { parentPort, workerData } from 'node:worker_threads';
import { Package } from '../container/index.ts';
import { fileSource, nodeEngine } from '../container/node.ts';
import type { ThreadAnswer, ThreadRequest, ThreadStart } from './node-workers.ts';
import { FileReader, type FileRead } from './reading.ts';

/** A thread that reads the files it is asked for: see `node-workers.ts`. */
const { path, entries, limits, course, options } = workerData as ThreadStart;
const pkg = new Package(await fileSource(path), nodeEngine, limits, new Map(entries), []);
const reader = new FileReader(pkg, course, nodeEngine, options);
const files = new Map(course.files.map((f) => [f.path, f]));

parentPort?.on('message', (asked: ThreadRequest) => {
  void answer(asked);
});

/** What is no refusal ends the thread, and whoever asked hears of it. */
async function answer({ id, paths, mode }: ThreadRequest): Promise<void> {
  const read: FileRead[] = [];
  for (const wanted of paths) {
    const file = files.get(wanted);
    if (!file) throw new Error(`the course has no file ${wanted}`);
    read.push(await reader.run(file, mode));
  }
  parentPort?.postMessage({ id, read } satisfies ThreadAnswer);
}
