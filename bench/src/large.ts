import { mkdtemp, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeCartridge, type Shape } from './cartridge.ts';
import { conversion, measure, prepareTasks, task } from './measure.ts';

/**
 * Memory does not grow with the package: peak resident set at 500 MB, at 4 GB and with 70,000 entries, each beside what a
 * shell takes for the same file. On disk (BENCH_FOLDER sets where), since four gigabytes are too much for memory.
 */
await prepareTasks();
const folder = await mkdtemp(join(process.env['BENCH_FOLDER'] ?? tmpdir(), 'treenail-large-'));
const SHAPES: readonly (readonly [string, Shape])[] = [
  ['500 MB, 10,000 items', { items: 10_000, bytes: 500e6 }],
  ['4 GB, 10,000 items', { items: 10_000, bytes: 4e9 }],
  ['400 MB, 70,000 entries', { items: 10_000, bytes: 400e6, extraFiles: 60_000 }],
];
try {
  console.log('| package | what | seconds | beside | seconds | peak MB |');
  console.log('|---|---|---:|---|---:|---:|');
  for (const [name, shape] of SHAPES) {
    const file = join(folder, 'large.imscc');
    const out = join(folder, 'out.imscc');
    await rm(file, { force: true });
    await writeCartridge(file, shape);
    const size = `${name} (${Math.round((await stat(file)).size / 1e6)} MB)`;
    const line = (what: string, own: { seconds: number; peakMb: number | null }, beside: string, stick: number) =>
      console.log(
        `| ${size} | ${what} | ${own.seconds.toFixed(1)} | ${beside} | ${stick.toFixed(1)} | ${own.peakMb} |`,
      );
    const test = await measure('unzip', ['-tqq', file]);
    line('open and inventory', await task('inventory', file), 'unzip -t', test.seconds);
    line('every file read and hashed', await task('hash', file), 'unzip -t', test.seconds);
    const copied = await measure('sh', ['-c', `cp ${file} ${out} && sha256sum ${out}`]);
    line('1.1 to 1.3, SHA-256 included', await conversion(file, 'cc13', out), 'cp + sha256sum', copied.seconds);
    await measure('unzip', ['-tqq', out]);
    await rm(out);
  }
} finally {
  await rm(folder, { recursive: true, force: true });
}
