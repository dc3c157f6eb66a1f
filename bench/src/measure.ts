import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';

export interface Measured {
  seconds: number;
  /** Peak resident set of the process, MB (`VmHWM`), or `null` where it was over too soon to be read. */
  peakMb: number | null;
  output: string;
}

/** Runs a command to its end and watches its memory. @throws Error with what it said, if it fails */
export function measure(program: string, args: readonly string[]): Promise<Measured> {
  return new Promise((resolve, reject) => {
    const began = process.hrtime.bigint();
    const child = spawn(program, args, { stdio: ['ignore', 'pipe', 'pipe'] });
    let peak: number | null = null;
    const look = () => {
      try {
        const found = /VmHWM:\s+(\d+) kB/.exec(readFileSync(`/proc/${child.pid}/status`, 'utf8'));
        if (found) peak = Math.max(peak ?? 0, Number(found[1]) / 1024);
      } catch {
        // It has ended between two looks; what was seen before stands.
      }
    };
    const timer = setInterval(look, 10);
    const said: Buffer[] = [];
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (part: Buffer) => said.push(part));
    child.once('error', reject);
    child.once('close', (code) => {
      clearInterval(timer);
      const output = Buffer.concat(said).toString('utf8');
      const seconds = Number(process.hrtime.bigint() - began) / 1e9;
      if (code === 0) resolve({ seconds, peakMb: peak === null ? null : Math.round(peak), output });
      else reject(new Error(`${program} ${args.join(' ')} ended with ${code}:\n${output.slice(-2000)}`));
    });
  });
}

const TASKS = fileURLToPath(new URL('../dist/tasks.mjs', import.meta.url));

/** Bundles the tasks, as `npm start` bundles what it runs. */
export async function prepareTasks(): Promise<void> {
  const at = (path: string) => fileURLToPath(new URL(path, import.meta.url));
  await build({
    entryPoints: {
      tasks: at('./tasks.ts'),
      'file-worker': at('./file-worker.ts'),
      'file-sink-thread': at('./file-sink-thread.ts'),
    },
    outdir: at('../dist'),
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    packages: 'external',
    alias: {
      '@treenail/core/file-worker': at('../../core/src/inspect/file.worker.ts'),
      '@treenail/core/file-sink-thread': at('../../core/src/container/file-sink.thread.ts'),
      '@treenail/core/workers': at('../../core/src/inspect/node-workers.ts'),
      '@treenail/core/node': at('../../core/src/container/node.ts'),
      '@treenail/core': at('../../core/src/index.ts'),
    },
    logLevel: 'warning',
  });
}

/** A conversion into a file that is not there yet: giving back the bytes of an old one would be measured with it. */
export async function conversion(file: string, target: string, out: string): Promise<Measured> {
  await rm(out, { force: true });
  return task('convert', file, target, out);
}

/** As `scripts/machine.mjs` starts workers. */
const POOL = `--v8-pool-size=${Math.max(1, availableParallelism() - 1)}`;

/** One of the tasks in `tasks.ts`, in a process of its own, as a worker would run it. */
export function task(name: string, ...args: string[]): Promise<Measured> {
  return measure(process.execPath, [POOL, TASKS, name, ...args]);
}

type Run = () => Promise<Measured>;
/** What is measured, its run, its yardstick, the yardstick's run, and what is to be reached. */
type Row = [what: string, run: Run, beside: string, yardstick: Run, goal: string];

export const EXPLAINED =
  'each run right after its yardstick, medians of the ratios, without what a process takes to start';

function middle(numbers: readonly number[]): number {
  return [...numbers].sort((a, b) => a - b)[Math.floor(numbers.length / 2)] ?? Number.NaN;
}

/**
 * Runs each task right after its yardstick, several times: this machine is noisy, and what is measured minutes apart
 * can't be held together. Tasks and yardsticks that are processes of ours are counted without their start, since a worker
 * is started once and not for every job.
 */
export async function sideBySide(runs: number, nothing: Run, rows: readonly Row[]): Promise<string[]> {
  const lines = [
    '| what | beside | seconds | ratios | median | peak MB | to reach |',
    '|---|---|---:|---|---:|---:|---|',
  ];
  for (const [what, run, beside, yardstick, goal] of rows) {
    const ratios: number[] = [];
    const seconds: number[] = [];
    let peak = 0;
    for (let i = 0; i < runs; i++) {
      const start = (await nothing()).seconds;
      const stick = await yardstick();
      const measured = await run();
      const own = measured.seconds - start;
      seconds.push(own);
      ratios.push(own / (stick.seconds - (beside.startsWith('a bare parse') ? start : 0)));
      peak = Math.max(peak, measured.peakMb ?? 0);
    }
    const each = ratios.map((r) => r.toFixed(2)).join(', ');
    lines.push(
      `| ${what} | ${beside} | ${middle(seconds).toFixed(2)} | ${each} | ${middle(ratios).toFixed(2)} | ${peak} | ${goal} |`,
    );
  }
  return lines;
}
