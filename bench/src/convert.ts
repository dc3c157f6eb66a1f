import { mkdtemp, rm, stat, statfs } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeCartridge } from './cartridge.ts';
import { EXPLAINED, conversion, measure, prepareTasks, sideBySide, task } from './measure.ts';

/**
 * Cartridges of 500 MB, converted and read, beside what a shell does with the same file in the same run. Where there is
 * room it works in memory (BENCH_FOLDER sets another place): a disk that others use too would be all that is measured.
 */
const RUNS = 5;
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
  const yardstick = async () => {
    await rm(copy, { force: true });
    return measure('sh', ['-c', `cp ${file} ${copy} && sha256sum ${copy}`]);
  };
  const convert = (target: string) => () => conversion(file, target, out);
  const unzip = () => measure('unzip', ['-tqq', file]);
  const rows = await sideBySide(RUNS, () => task('nothing'), [
    ['1.1 to 1.3, SHA-256 included', convert('cc13'), 'cp + sha256sum', yardstick, '0.6; 200 MB'],
    ['open and inventory', () => task('inventory', file), 'unzip -t', unzip, '0.3; 200 MB'],
    ['1.1 to SCORM 2004', convert('scorm2004'), 'cp + sha256sum', yardstick, '1.5; 200 MB'],
    ['every file read and hashed', () => task('hash', file), 'unzip -t', unzip, '1.1; 200 MB'],
    ['and pages read for text and links', () => task('survey', file), 'unzip -t', unzip, ''],
  ]);
  await measure('unzip', ['-tqq', out]);
  console.log(`A cartridge of ${Math.round(size / 1e6)} MB, 10,000 items; ${EXPLAINED}\n`);
  console.log(rows.join('\n'));
} finally {
  await rm(folder, { recursive: true, force: true });
}
