import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
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
    entryPoints: [at('./tasks.ts')],
    outfile: TASKS,
    bundle: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    packages: 'external',
    alias: {
      '@treenail/core/node': at('../../core/src/container/node.ts'),
      '@treenail/core': at('../../core/src/index.ts'),
    },
    logLevel: 'warning',
  });
}

/** One of the tasks in `tasks.ts`, in a process of its own, as a worker would run it. */
export function task(name: string, ...args: string[]): Promise<Measured> {
  return measure(process.execPath, [TASKS, name, ...args]);
}

/** The middle of an odd number of runs: this machine is noisy. */
export async function median(runs: number, run: () => Promise<Measured>): Promise<Measured> {
  const all: Measured[] = [];
  for (let i = 0; i < runs; i++) all.push(await run());
  all.sort((a, b) => a.seconds - b.seconds);
  const middle = all[(runs - 1) / 2];
  if (!middle) throw new RangeError('an odd number of runs is needed');
  const peaks = all.flatMap((m) => m.peakMb ?? []);
  return { ...middle, peakMb: peaks.length > 0 ? Math.max(...peaks) : null };
}

export function line(what: string, measured: Measured, against: number | null, goal: string): string {
  const ratio = against === null ? '' : (measured.seconds / against).toFixed(2);
  return `| ${what} | ${measured.seconds.toFixed(2)} | ${ratio} | ${measured.peakMb ?? ''} | ${goal} |`;
}

export const HEADER = '| what | seconds | ratio | peak MB | to reach |\n|---|---:|---:|---:|---|';
