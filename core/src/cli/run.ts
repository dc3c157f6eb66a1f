import type { Refusal } from '../model/index.ts';
import type { Say } from './call.ts';

const HELP = `Treenail at the command line. No database is needed.

  treenail inspect FILE [--json] [--outline]
      format, version, counts by kind, outline, questions with keys and points, links and what they lead to,
      unused files, findings, notes; --outline stops at counts and outline, for which no page and no file is read
  treenail convert FILE --to TARGET --out FILE [--json]
      writes the package anew; tells what is lost
      TARGET is one of those that “treenail targets” lists
      --strict refuses, and writes nothing, where anything is lost that --allow NAME,… does not name: settings, parts of
      questions (“questions”), kinds of items, “damage” for what is damaged, as the losses of --json call them
  Files that are damaged are refused; --without-damaged leaves them out, with the items that they are.
  treenail compare FILE FILE [--json]
      what became of every item of the first in the second
  treenail redate FILE --from TERM --into TERM [--out FILE] [--to TARGET] [--json]
      the dates of a course, as they were and as they will be, and what is to be looked at; with --out the package with them
      TERM is its first and last day, 2026-09-14..2026-12-18; with single days all dates go as many days on
      --break DAY..DAY, which may be repeated, is stepped over; --closed FILE.ics are days on which the house is closed
      --stretch fits one term to the length of the other; --away takes the dates off; --texts writes new dates into texts
      --zone NAME says by which clock days are days (UTC); --csv FILE writes the dates as a table; --table FILE reads one back
  treenail split FILE [--by names|dates|halves] [--term DAY..DAY …] [--plan FILE] [--out FOLDER] [--to TARGET] [--json]
      how the course could be cut, what would be in each part, what both need, what leads over the cut; with --out each
      part as a package of its own; --json gives the plan, which can be changed and given back with --plan
  treenail join FILE FILE [--title TEXT] [--doubles first|second|both] [--apart] [--out FILE] [--to TARGET] [--json]
      what both have, by identifier and by substance; with --out both as one; --apart joins no folders
  treenail targets [--json]
      what packages can be written as

Exit 0; or 2 with a problem document on standard output: code, what is wrong, where, and what to do.
FILE may be a zip of any name, a tar, a gzipped tar, a file of questions, or a folder.
--description FILE tells how an archive is made that Treenail has no reader for (docs/descriptions.md); may be repeated.
--limits NAME=NUMBER,… sets what a package may cost before it is refused (docs/formats.md names them).`;

type Command = (args: readonly string[], say: Say) => Promise<void>;

/** Each is loaded when it is asked for: half of the time of a short command is what it loads. */
const COMMANDS: Record<string, () => Promise<Command>> = {
  inspect: async () => (await import('./inspect.ts')).inspect,
  convert: async () => (await import('./convert.ts')).convert,
  compare: async () => (await import('./compare.ts')).compareFiles,
  redate: async () => (await import('./redate.ts')).redate,
  split: async () => (await import('./split.ts')).split,
  join: async () => (await import('./join.ts')).join,
  targets: async () => (await import('./targets.ts')).targets,
};

/** Runs a command. @returns what the process ends with: 0, or 2 with a problem document (RFC 9457) said */
export async function run([name = '--help', ...args]: readonly string[], say: Say): Promise<0 | 2> {
  if (name === '--help' || name === '-h' || args.includes('--help')) {
    say(HELP);
    return 0;
  }
  try {
    const command = COMMANDS[name];
    if (!command) {
      const { Refusal, problem } = await import('../model/index.ts');
      throw new Refusal(problem('unknown-command', `There is no command ${name}.`));
    }
    await (
      await command()
    )(args, say);
    return 0;
  } catch (error) {
    const { code, message, ...where } = await refusalOf(error);
    const document = { type: `about:treenail/${code}`, title: message, status: 422, code, detail: message, ...where };
    say(JSON.stringify(document, null, 2));
    return 2;
  }
}

async function refusalOf(error: unknown): Promise<Refusal['problem']> {
  const { Refusal, problem } = await import('../model/index.ts');
  if (error instanceof Refusal) return error.problem;
  const message = error instanceof Error ? error.message : String(error);
  return problem('unexpected', message, {}, 'Tell whoever runs Treenail.');
}
