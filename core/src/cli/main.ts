import { run } from './run.ts';

/** `npm run -s treenail -- …`. Exit 0, or 2 with a problem document on standard output. */

// Whoever reads has read enough (`… | head`): that is no trouble, and nothing is left to be said.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') throw error;
  process.exit(0);
});

process.exitCode = await run(process.argv.slice(2), (line) => console.log(line));
