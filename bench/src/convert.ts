import { mkdtemp, rm, stat, statfs } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeCartridge } from './cartridge.ts';
import { HEADER, line, measure, median, prepareTasks, task } from './measure.ts';

/**
 * Cartridges of 500 MB, converted and read, beside what a shell does with the same file in the same run. Where there is
 * room it works in memory (BENCH_FOLDER sets another place): a disk that others use too would be all that is measured.
 */
const RUNS = 3;
await prepareTasks();
const memory = await statfs('/dev/shm').then(
  (s) => s.bavail * s.bsize > 4e9,
  () => false,
);
const place = process.env['BENCH_FOLDER'] ?? (memory ? '/dev/shm' : tmpdir());
const folder = await mkdtemp(join(place, 'treenail-bench-'));
try {
  const file = join(folder, 'measured.imscc');
  const copy = join(folder, 'copy.imscc');
  const out = join(folder, 'out.imscc');
  await writeCartridge(file, { items: 10_000, bytes: 500e6 });
  const size = (await stat(file)).size;
  console.log(
    `A cartridge of ${Math.round(size / 1e6)} MB, 10,000 items; medians of ${RUNS} runs, same machine, same run\n`,
  );
  const yardstick = await median(RUNS, () => measure('sh', ['-c', `cp ${file} ${copy} && sha256sum ${copy}`]));
  const unzip = await median(RUNS, () => measure('unzip', ['-tqq', file]));
  const open = await median(RUNS, () => task('inventory', file));
  const convert = await median(RUNS, () => task('convert', file, 'cc13', out));
  const scorm = await median(RUNS, () => task('convert', file, 'scorm2004', out));
  const hashed = await median(RUNS, () => task('hash', file));
  const read = await median(RUNS, () => task('survey', file));
  await measure('unzip', ['-tqq', out]);
  console.log(HEADER);
  console.log(line('cp + sha256sum', { ...yardstick, peakMb: null }, null, ''));
  console.log(line('unzip -t', { ...unzip, peakMb: null }, null, ''));
  console.log(line('1.1 to 1.3, SHA-256 included, beside cp + sha256sum', convert, yardstick.seconds, '0.6; 200 MB'));
  console.log(line('open and inventory, beside unzip -t', open, unzip.seconds, '0.3; 200 MB'));
  console.log(line('1.1 to SCORM 2004, beside cp + sha256sum', scorm, yardstick.seconds, '1.5; 200 MB'));
  console.log(line('every file read and hashed, beside unzip -t', hashed, unzip.seconds, '1.1; 200 MB'));
  console.log(line('and pages read for text and links, beside unzip -t', read, unzip.seconds, ''));
} finally {
  await rm(folder, { recursive: true, force: true });
}
