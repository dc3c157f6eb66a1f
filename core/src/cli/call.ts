import { mkdtemp, readFile, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs, type ParseArgsConfig } from 'node:util';
import { readLimits, type Limits, type Package } from '../container/index.ts';
import { fileSource, folderSource, nodeEngine, scratchFile } from '../container/node.ts';
import { describedFormat, openCourse, readDescription, type Format } from '../formats/index.ts';
import { lookInto, readPackage, type LookOptions, type Looked } from '../inspect/index.ts';
import { Refusal, count, problem, type Course } from '../model/index.ts';

type ParseArgsOptionsConfig = NonNullable<ParseArgsConfig['options']>;

/** How a command is called, and how the files that it names are opened. */

/** Where a command says what it has to say, line by line. */
export type Say = (line: string) => void;

export function usage(message: string): Refusal {
  return new Refusal(problem('usage', message));
}

export interface Call {
  files: string[];
  json: boolean;
  /** No further than counts and outline. */
  outline: boolean;
  to: string;
  out: string;
  /** Names of what may be lost; `null` where anything may. */
  allowed: readonly string[] | null;
  withoutDamaged: boolean;
  opening: Opening;
  /** What was given of the options that the command alone has. */
  own: Readonly<Record<string, unknown>>;
}

/** What packages are opened with. */
export interface Opening {
  limits: Partial<Limits>;
  described: Format[];
}

/** Options and files of a call, as many files as are needed; `own` are options that the command alone has. */
export async function readCall(
  args: readonly string[],
  files: number,
  own: ParseArgsOptionsConfig = {},
): Promise<Call> {
  let parsed;
  try {
    parsed = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        ...own,
        json: { type: 'boolean' },
        outline: { type: 'boolean' },
        to: { type: 'string' },
        out: { type: 'string' },
        'without-damaged': { type: 'boolean' },
        strict: { type: 'boolean' },
        allow: { type: 'string', multiple: true },
        limits: { type: 'string' },
        description: { type: 'string', multiple: true },
      },
    });
  } catch (error) {
    throw usage(error instanceof Error ? error.message : String(error));
  }
  const { positionals, values } = parsed;
  if (positionals.length !== files) throw usage(`${count(files, 'file')} needed, ${positionals.length} given.`);
  const {
    json = false,
    outline = false,
    to = '',
    out = '',
    limits = '',
    description = [],
    strict = false,
    allow = [],
  } = values;
  const withoutDamaged = values['without-damaged'] ?? false;
  if (!strict && allow.length > 0) throw usage('--allow says what --strict lets through: give --strict too.');
  const allowed = strict ? allow.flatMap((names) => names.split(',')).map((name) => name.trim()) : null;
  const described = await Promise.all(description.map(describedIn));
  return {
    files: positionals,
    json,
    outline,
    to,
    out,
    allowed,
    withoutDamaged,
    opening: { limits: readLimits(limits), described },
    own: values,
  };
}

async function describedIn(path: string): Promise<Format> {
  if ((await standing(path)) !== 'file') throw missing(path);
  const { description, problems } = readDescription(await readFile(path, 'utf8'), path);
  if (description) return describedFormat(description);
  const [first] = problems;
  throw first ? new Refusal(first) : missing(path);
}

function missing(path: string): Refusal {
  return new Refusal(problem('no-such-file', `There is no file ${path}.`, { file: path }));
}

/** What stands at a path, or nothing. */
export async function standing(path: string): Promise<'file' | 'folder' | null> {
  return stat(path).then(
    (s) => (s.isDirectory() ? 'folder' : 'file'),
    () => null,
  );
}

/** Opens a file or a folder, and lets go of it and of what was written anew for it. */
export async function withFile<T>(path: string, opening: Opening, work: (pkg: Package) => Promise<T>): Promise<T> {
  const kind = await standing(path);
  if (kind === null) throw missing(path);
  const scratch = await mkdtemp(join(tmpdir(), 'treenail-'));
  try {
    const source = kind === 'file' ? await fileSource(path) : await folderSource(path, join(scratch, 'packed.zip'));
    try {
      const unpacked = scratchFile(join(scratch, 'unpacked.zip'));
      const pkg = await openCourse(source, { engine: nodeEngine, ...opening, scratch: unpacked });
      return await work(pkg).finally(() => pkg.close());
    } finally {
      await source.close();
    }
  } finally {
    await rm(scratch, { recursive: true, force: true });
  }
}

export async function look(pkg: Package, { described }: Opening, findings?: LookOptions['findings']): Promise<Looked> {
  return lookInto(await readPackage(pkg, described), { engine: nodeEngine, ...(findings ? { findings } : {}) });
}

/** As `look`, without findings, and no deeper than `depthOf` says of the course: no file is hashed. */
export async function lookFor(
  pkg: Package,
  { described }: Opening,
  depthOf: (course: Course) => 'unhashed' | 'checked',
): Promise<Looked> {
  const read = await readPackage(pkg, described);
  return lookInto(read, { engine: nodeEngine, depth: depthOf(read.course) });
}
