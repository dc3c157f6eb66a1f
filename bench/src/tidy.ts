import { mkdtemp, rm, stat, statfs } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeCartridge } from './cartridge.ts';
import { EXPLAINED, measure, prepareTasks, sideBySide, task } from './measure.ts';

/** Links, findings and searches of large courses, each beside what reads the same bytes. */
const RUNS = 3;
await prepareTasks();
const memory = await statfs('/dev/shm').then(
  (s) => s.bavail * s.bsize > 4e9,
  () => false,
);
const folder = await mkdtemp(join(process.env['BENCH_FOLDER'] ?? (memory ? '/dev/shm' : tmpdir()), 'treenail-bench-'));
try {
  const pages = join(folder, 'pages.imscc');
  const whole = join(folder, 'whole.imscc');
  await writeCartridge(pages, { items: 5556, bytes: 80e6 });
  await writeCartridge(whole, { items: 10_000, bytes: 500e6 });
  const unzip = () => measure('unzip', ['-tqq', whole]);
  const parse5 = () => task('parse5', pages);
  const rows = await sideBySide(RUNS, () => task('nothing'), [
    ['links of 5,000 pages found and resolved', () => task('links', pages), 'a bare parse5 parse', parse5, '0.6'],
    ['all findings of 10,000 items', () => task('findings', whole), 'unzip -t', unzip, '1.5'],
    ['and every file hashed', () => task('findings and hashes', whole), 'unzip -t', unzip, ''],
  ]);
  console.log(`Pages ${await megabytes(pages)}, the whole ${await megabytes(whole)}; ${EXPLAINED}\n`);
  console.log(rows.join('\n'));
  console.log(`\nSearch answers at 10,000 items: ${(await task('search', whole)).output.trim()} (to reach: 100 ms)`);
} finally {
  await rm(folder, { recursive: true, force: true });
}

async function megabytes(file: string): Promise<string> {
  return `${Math.round((await stat(file)).size / 1e6)} MB`;
}
