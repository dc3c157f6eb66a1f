import { mkdtemp, rm, stat, statfs } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { measure } from './measure.ts';
import { writeMixed } from './mixed.ts';

/**
 * Whole commands on a course as courses are, from the shell's call to their end, each right after what a shell does with
 * the same file. `node --import tsx bench/src/commands.ts 10000 5`: items, runs.
 */
const [items = 10_000, runs = 5] = process.argv.slice(2).map(Number);
const COMMAND = fileURLToPath(new URL('../../core/bin/treenail.mjs', import.meta.url));
const memory = await statfs('/dev/shm').then(
  (s) => s.bavail * s.bsize > 4e9,
  () => false,
);
const folder = await mkdtemp(join(process.env['BENCH_FOLDER'] ?? (memory ? '/dev/shm' : tmpdir()), 'treenail-bench-'));
const middle = (list: readonly number[]) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)] ?? Number.NaN;
try {
  const file = join(folder, 'mixed.imscc');
  const [copy, out] = [join(folder, 'copy.imscc'), join(folder, 'out.zip')];
  await writeMixed(file, items);
  const treenail = (...args: string[]) => measure(process.execPath, [COMMAND, ...args]);
  await treenail('--help');
  const convert = (target: string) => async () => {
    await rm(out, { force: true });
    return treenail('convert', file, '--to', target, '--out', out, '--json');
  };
  const copied = async () => {
    await rm(copy, { force: true });
    return measure('sh', ['-c', `cp ${file} ${copy} && sha256sum ${copy}`]);
  };
  const tested = () => measure('unzip', ['-tqq', file]);
  const rows = [
    ['convert --to cc13', convert('cc13'), 'cp + sha256sum', copied, '0.8'],
    ['convert --to scorm2004', convert('scorm2004'), 'cp + sha256sum', copied, '1.8'],
    ['inspect --outline', () => treenail('inspect', file, '--outline', '--json'), 'unzip -t', tested, '0.4'],
    ['inspect --json', () => treenail('inspect', file, '--json'), 'unzip -t', tested, '1.6'],
    ['convert --to qti30', convert('qti30'), 'unzip -t', tested, ''],
    ['--help', () => treenail('--help'), 'node -e 0', () => measure(process.execPath, ['-e', '0']), '0.35 s'],
  ] as const;
  console.log(
    `A mixed cartridge of ${Math.round((await stat(file)).size / 1e6)} MB, ${items} items; whole commands, medians of ${runs}\n`,
  );
  console.log('| command | beside | seconds | beside, seconds | ratios | median | peak MB | to reach |');
  console.log('|---|---|---:|---:|---|---:|---:|---|');
  for (const [what, run, beside, yardstick, goal] of rows) {
    const pairs = [];
    for (let i = 0; i < runs; i++) pairs.push({ stick: await yardstick(), own: await run() });
    const ratios = pairs.map(({ own, stick }) => own.seconds / stick.seconds);
    const [seconds, sticks] = [pairs.map((p) => p.own.seconds), pairs.map((p) => p.stick.seconds)];
    const peak = Math.max(...pairs.map((p) => p.own.peakMb ?? 0));
    console.log(
      `| ${what} | ${beside} | ${middle(seconds).toFixed(2)} | ${middle(sticks).toFixed(2)} | ${ratios.map((r) => r.toFixed(2)).join(', ')} | ${middle(ratios).toFixed(2)} | ${peak} | ${goal} |`,
    );
  }
} finally {
  await rm(folder, { recursive: true, force: true });
}
