import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { conversion, prepareTasks, task, type Measured } from './measure.ts';
import { writeMixed } from './mixed.ts';

/**
 * How time grows with a course: the mixed cartridge (`mixed.ts`) of 1,000 to 30,000 items through each phase, the start of
 * a process taken off, and the exponent of the line through the four on logarithmic scales: 1 is in proportion.
 */
const SIZES = [1000, 3000, 10_000, 30_000];
const RUNS = 3;

const PHASES: Record<string, (file: string, out: string) => Promise<Measured>> = {
  'opened, read, counted': (file) => task('inventory', file),
  'links found and resolved': (file) => task('links', file),
  'all findings': (file) => task('findings', file),
  'findings, every file hashed': (file) => task('findings and hashes', file),
  'every file hashed': (file) => task('hash', file),
  'converted to 1.3': (file, out) => conversion(file, 'cc13', out),
};

const median = (numbers: readonly number[]) => [...numbers].sort((a, b) => a - b)[Math.floor(numbers.length / 2)] ?? 0;

/** Slope of the line of least squares through points. */
function slope(points: readonly (readonly [number, number])[]): number {
  const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / values.length;
  const [mx, my] = [mean(points.map(([x]) => x)), mean(points.map(([, y]) => y))];
  const above = points.reduce((sum, [x, y]) => sum + (x - mx) * (y - my), 0);
  return above / points.reduce((sum, [x]) => sum + (x - mx) ** 2, 0);
}

const folder = await mkdtemp(join(tmpdir(), 'treenail-growth-'));
try {
  await prepareTasks();
  const times = new Map<string, [number, number][]>();
  for (const items of SIZES) {
    const file = join(folder, `${items}.imscc`);
    await writeMixed(file, items);
    const start = median((await Promise.all([0, 1, 2].map(() => task('nothing')))).map((m) => m.seconds));
    for (const [phase, run] of Object.entries(PHASES)) {
      const measured: Measured[] = [];
      for (let i = 0; i < RUNS; i++) measured.push(await run(file, join(folder, 'out.imscc')));
      const seconds = Math.max(0.001, median(measured.map((m) => m.seconds)) - start);
      times.set(phase, [...(times.get(phase) ?? []), [items, seconds]]);
      const peak = Math.max(...measured.map((m) => m.peakMb ?? 0));
      console.log(
        `${String(items).padStart(6)} items  ${phase.padEnd(28)} ${seconds.toFixed(2).padStart(6)} s  ${peak} MB`,
      );
    }
    await rm(file);
  }
  for (const [phase, points] of times) {
    const exponent = slope(points.map(([items, seconds]) => [Math.log(items), Math.log(seconds)]));
    // From a thousand items to three the fixed costs of a process weigh most.
    const last = slope(points.slice(-2).map(([items, seconds]) => [Math.log(items), Math.log(seconds)]));
    console.log(`${phase.padEnd(28)} exponent ${exponent.toFixed(2)}, from 10,000 to 30,000 ${last.toFixed(2)}`);
  }
} finally {
  await rm(folder, { recursive: true, force: true });
}
