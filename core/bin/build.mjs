import { rmSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';

const CORE = fileURLToPath(new URL('..', import.meta.url));

/** Bundles the command line with all that it needs, so that `dist/cli` runs wherever it is copied to. */
export async function buildCommand() {
  rmSync(`${CORE}/dist/cli`, { recursive: true, force: true });
  await build({
    absWorkingDir: CORE,
    entryPoints: {
      main: 'src/cli/main.ts',
      'file-worker': 'src/inspect/file.worker.ts',
      'file-sink-thread': 'src/container/file-sink.thread.ts',
    },
    outdir: 'dist/cli',
    outExtension: { '.js': '.mjs' },
    bundle: true,
    // What a command does not need is not loaded.
    splitting: true,
    platform: 'node',
    target: 'node20',
    format: 'esm',
    minifySyntax: true,
    // Some packages ask for others in the manner of CommonJS.
    banner: {
      js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);",
    },
    logLevel: 'warning',
  });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await buildCommand();
