import { readFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { Worker, type WorkerOptions } from 'node:worker_threads';

const compiled = new Map<string, Promise<string>>();

/**
 * Starts a thread whose program is a module of ours. Where the code is bundled, each such module is an entry of the
 * bundle and lies beside it. Where TypeScript runs as it stands, the module is compiled once: the loader that does so for
 * the first thread does not reach into others. Such a module imports nothing but Node's own.
 * @param from `import.meta.url` of the caller
 * @param source the module, relative to the caller where nothing is bundled
 * @param bundled the file that it becomes beside the bundle
 */
export async function startThread(
  from: string,
  { source, bundled }: { source: string; bundled: string },
  options: WorkerOptions,
): Promise<Worker> {
  if (!from.endsWith('.ts')) return new Worker(new URL(bundled, from), options);
  const path = fileURLToPath(new URL(source, from));
  const program = compiled.get(path) ?? compile(path);
  compiled.set(path, program);
  return new Worker(await program, { ...options, eval: true });
}

async function compile(path: string): Promise<string> {
  const { transform } = await import('esbuild');
  return (await transform(await readFile(path, 'utf8'), { loader: 'ts', format: 'cjs', target: 'node20' })).code;
}
