import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { HEADER, line, median, prepareTasks, task } from './measure.ts';

/** Ten thousand questions from QTI 1.2 to 3.0, beside a bare parse of the same XML. */
const RUNS = 3;
await prepareTasks();
const folder = await mkdtemp(join(tmpdir(), 'treenail-bench-'));
try {
  const file = join(folder, 'questions.zip');
  await task('questions', file, '10000');
  const parse = await median(RUNS, () => task('parse', file));
  const start = await median(RUNS, () => task('nothing'));
  const convert = await median(RUNS, () => task('convert', file, 'qti30', join(folder, 'out.zip')));
  const bare = (m: typeof parse) => ({ ...m, seconds: m.seconds - start.seconds });
  console.log(
    `10,000 questions, medians of ${RUNS} runs, without the ${start.seconds.toFixed(2)} s that the process takes to start\n`,
  );
  console.log(HEADER);
  console.log(line('bare parse of the XML', bare(parse), null, ''));
  console.log(line('QTI 1.2 to 3.0, beside the parse', bare(convert), bare(parse).seconds, '4.0'));
} finally {
  await rm(folder, { recursive: true, force: true });
}
