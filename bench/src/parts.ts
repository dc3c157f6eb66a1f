import { mkdtemp, rm, stat, statfs } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeCartridge } from './cartridge.ts';
import { EXPLAINED, conversion, measure, prepareTasks, sideBySide, task } from './measure.ts';

/** A course split in two, beside its own conversion in the same run; and the dates of a large course, re-dated. */
const RUNS = 3;
await prepareTasks();
const memory = await statfs('/dev/shm').then(
  (s) => s.bavail * s.bsize > 4e9,
  () => false,
);
const folder = await mkdtemp(join(process.env['BENCH_FOLDER'] ?? (memory ? '/dev/shm' : tmpdir()), 'treenail-bench-'));
try {
  const file = join(folder, 'measured.imscc');
  const out = join(folder, 'out.imscc');
  await writeCartridge(file, { items: 10_000, bytes: 465e6 });
  const split = async () => {
    await Promise.all([0, 1].map((n) => rm(`${out}.${n}`, { force: true })));
    return task('split', file, 'cc13', out);
  };
  const rows = await sideBySide(RUNS, () => task('nothing'), [
    ['split in two', split, 'its conversion to 1.3', () => conversion(file, 'cc13', out), '1.2; 200 MB'],
    ['the same', split, 'all its links found', () => task('survey', file), ''],
  ]);
  await measure('unzip', ['-tqq', `${out}.0`]);
  console.log(`A cartridge of ${Math.round((await stat(file)).size / 1e6)} MB, 10,000 items; ${EXPLAINED}\n`);
  console.log(rows.join('\n'));
  console.log(
    `\n2,000 dates of 10,000 items re-dated and judged: ${(await task('dates')).output.trim()} (to reach: 100 ms)`,
  );
} finally {
  await rm(folder, { recursive: true, force: true });
}
