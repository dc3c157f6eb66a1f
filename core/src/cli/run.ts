import { TARGETS } from '../formats/index.ts';
import { Refusal, problem } from '../model/index.ts';
import type { Say } from './call.ts';
import { compareFiles } from './compare.ts';
import { convert } from './convert.ts';
import { inspect } from './inspect.ts';

const HELP = `Treenail at the command line. No database is needed.

  npm run -s treenail -- inspect FILE [--json]
      format, version, counts by kind, outline, questions with keys and points, links and what they lead to,
      unused files, notes
  npm run -s treenail -- convert FILE --to TARGET --out FILE [--json]
      writes the package anew; tells what is lost
      TARGET: ${TARGETS.map((t) => t.id).join(', ')}
      --strict refuses, and writes nothing, where anything is lost that --allow NAME,… does not name: settings, parts of
      questions (“questions”), kinds of items, “damage” for what is damaged, as the losses of --json call them
  Files that are damaged are refused; --without-damaged leaves them out, with the items that they are.
  npm run -s treenail -- compare FILE FILE [--json]
      what became of every item of the first in the second

Exit 0; or 2 with a problem document on standard output: code, what is wrong, where, and what to do.
FILE may be a zip of any name, a tar, a gzipped tar, or a folder.
--description FILE tells how an archive is made that Treenail has no reader for (docs/descriptions.md); may be repeated.
--limits NAME=NUMBER,… sets what a package may cost before it is refused (docs/formats.md names them).`;

const COMMANDS: Record<string, (args: readonly string[], say: Say) => Promise<void>> = {
  inspect,
  convert,
  compare: compareFiles,
};

/** Runs a command. @returns what the process ends with: 0, or 2 with a problem document (RFC 9457) said */
export async function run([name = '--help', ...args]: readonly string[], say: Say): Promise<0 | 2> {
  try {
    if (name === '--help' || name === '-h' || args.includes('--help')) {
      say(HELP);
      return 0;
    }
    const command = COMMANDS[name];
    if (!command) throw new Refusal(problem('unknown-command', `There is no command ${name}.`));
    await command(args, say);
    return 0;
  } catch (error) {
    const { code, message, ...where } = refusalOf(error);
    const document = { type: `about:treenail/${code}`, title: message, status: 422, code, detail: message, ...where };
    say(JSON.stringify(document, null, 2));
    return 2;
  }
}

function refusalOf(error: unknown): Refusal['problem'] {
  if (error instanceof Refusal) return error.problem;
  const message = error instanceof Error ? error.message : String(error);
  return problem('unexpected', message, {}, 'Tell whoever runs Treenail.');
}
