import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { EXPLAINED, conversion, prepareTasks, sideBySide, task } from './measure.ts';

/** Ten thousand questions from QTI 1.2 to 3.0, beside a bare parse of the same XML. */
const RUNS = 3;
await prepareTasks();
const folder = await mkdtemp(join(tmpdir(), 'treenail-bench-'));
try {
  const file = join(folder, 'questions.zip');
  await task('questions', file, '10000');
  const out = join(folder, 'out.zip');
  const rows = await sideBySide(RUNS, () => task('nothing'), [
    ['QTI 1.2 to 3.0', () => conversion(file, 'qti30', out), 'a bare parse', () => task('parse', file), '4.0'],
  ]);
  console.log(`\n10,000 questions; ${EXPLAINED}\n`);
  console.log(rows.join('\n'));
} finally {
  await rm(folder, { recursive: true, force: true });
}
