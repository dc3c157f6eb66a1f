import { Refusal, problem } from '../model/index.ts';
import { COMMANDS, HELP } from './commands.ts';

/** `npm run -s treenail -- …`. Exit 0, or 2 with a problem document (RFC 9457) on standard output. */
const [name = '--help', ...args] = process.argv.slice(2);

// Whoever reads has read enough (`… | head`): that is no trouble, and nothing is left to be said.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') throw error;
  process.exit(0);
});

try {
  if (name === '--help' || name === '-h' || args.includes('--help')) {
    console.log(HELP);
  } else {
    const command = COMMANDS[name];
    if (!command) {
      throw new Refusal(problem('unknown-command', `There is no command ${name}.`));
    }
    await command(args);
  }
} catch (error) {
  const refused =
    error instanceof Refusal
      ? error.problem
      : problem(
          'unexpected',
          error instanceof Error ? error.message : String(error),
          {},
          'Tell whoever runs Treenail.',
        );
  const { code, message, ...where } = refused;
  const document = { type: `about:treenail/${code}`, title: message, status: 422, code, detail: message, ...where };
  console.log(JSON.stringify(document, null, 2));
  process.exitCode = 2;
}
