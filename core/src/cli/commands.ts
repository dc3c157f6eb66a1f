import { mkdtemp, readFile, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { compare } from '../compare/index.ts';
import { readLimits, type Limits, type Package, type Sink } from '../container/index.ts';
import { fileSink, fileSource, folderSource, nodeEngine, scratchFile } from '../container/node.ts';
import { declaredLosses, profileOn, type Line } from '../fit/index.ts';
import {
  TARGETS,
  describedFormat,
  openCourse,
  readDescription,
  targetById,
  planPackage,
  writePackage,
  type Format,
  type Target,
} from '../formats/index.ts';
import { inventory, kindsFound, lookInto, readPackage, type LookOptions, type Looked } from '../inspect/index.ts';
import { plainText } from '../markup/index.ts';
import {
  holdsQuestions,
  partsOf,
  Refusal,
  count,
  problem,
  readableSize,
  walkOutline,
  type Course,
  type Note,
  type Question,
} from '../model/index.ts';
import { explain } from '../report/index.ts';
import { workingCopy, type WorkingCopy } from '../reshape/index.ts';

export const HELP = `Treenail at the command line. No database is needed.

  npm run -s treenail -- inspect FILE [--json]
      format, version, counts by kind, outline, questions with keys and points, links and what they lead to,
      unused files, notes
  npm run -s treenail -- convert FILE --to TARGET --out FILE [--json]
      writes the package anew; tells what is lost
      TARGET: ${TARGETS.map((t) => t.id).join(', ')}
      --strict refuses, and writes nothing, where anything is lost that --allow NAME,… does not name: settings, parts of
      questions, kinds of items, as the losses of --json call them
  Files that are damaged are refused; --without-damaged leaves them out, with the items that they are.
  npm run -s treenail -- compare FILE FILE [--json]
      what became of every item of the first in the second

Exit 0; or 2 with a problem document on standard output: code, what is wrong, where, and what to do.
FILE may be a zip of any name, a tar, a gzipped tar, or a folder.
--description FILE tells how an archive is made that Treenail has no reader for (docs/descriptions.md); may be repeated.
--limits NAME=NUMBER,… sets what a package may cost before it is refused (docs/formats.md names them).`;

function usage(message: string): Refusal {
  return new Refusal(problem('usage', message));
}

interface Call {
  files: string[];
  json: boolean;
  to: string;
  out: string;
  /** Names of what may be lost; `null` where anything may. */
  allowed: readonly string[] | null;
  withoutDamaged: boolean;
  opening: Opening;
}

/** What packages are opened with. */
interface Opening {
  limits: Partial<Limits>;
  described: Format[];
}

/** Options and files of a call, as many files as are needed. */
async function read(args: readonly string[], files: number): Promise<Call> {
  let parsed;
  try {
    parsed = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: {
        json: { type: 'boolean' },
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
  const { json = false, to = '', out = '', limits = '', description = [], strict = false, allow = [] } = values;
  const withoutDamaged = values['without-damaged'] ?? false;
  if (!strict && allow.length > 0) throw usage('--allow says what --strict lets through: give --strict too.');
  const allowed = strict ? allow.flatMap((names) => names.split(',')).map((name) => name.trim()) : null;
  const described = await Promise.all(description.map(describedIn));
  return {
    files: positionals,
    json,
    to,
    out,
    allowed,
    withoutDamaged,
    opening: { limits: readLimits(limits), described },
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
async function standing(path: string): Promise<'file' | 'folder' | null> {
  return stat(path).then(
    (s) => (s.isDirectory() ? 'folder' : 'file'),
    () => null,
  );
}

/** Opens a file or a folder, and lets go of it and of what was written anew for it. */
async function withFile<T>(path: string, opening: Opening, work: (pkg: Package) => Promise<T>): Promise<T> {
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

async function look(pkg: Package, { described }: Opening, findings?: LookOptions['findings']): Promise<Looked> {
  return lookInto(await readPackage(pkg, described), { engine: nodeEngine, ...(findings ? { findings } : {}) });
}

/** A question as its author sees it: texts without mark-up. */
function asPlain(q: Question, container: string) {
  const text = (t: { text: string }) => plainText(t.text);
  const parts = partsOf(q);
  return {
    id: q.id,
    container,
    type: q.type,
    title: q.title,
    prompt: text(q.prompt),
    points: q.points,
    choices: parts.choices.map((c) => ({
      id: c.id,
      text: text(c.text),
      correct: c.correct,
      score: c.score ?? null,
      feedback: c.feedback ? text(c.feedback) : null,
    })),
    answers: parts.answers,
    blanks: parts.blanks,
    numbers: parts.numbers,
    targets: parts.targets.map((t) => ({ id: t.id, text: text(t.text) })),
    pairs: parts.pairs,
    order: parts.order,
    areas: parts.areas,
    image: parts.image?.file ?? null,
    feedback: Object.fromEntries(Object.entries(q.feedback).map(([kind, t]) => [kind, text(t)])),
    category: q.category ?? null,
    files: q.files,
  };
}

function inspected({ course, links, notes, languages, findings }: Looked) {
  const counted = inventory(course, links, languages);
  const { format, version } = course.origin;
  return {
    format,
    version,
    title: course.title,
    metadata: course.metadata,
    counts: {
      items: counted.items,
      folders: counted.folders,
      entries: counted.entries,
      depth: counted.depth,
      files: counted.files,
      bytes: counted.bytes,
      kinds: Object.fromEntries(counted.kinds.map((k) => [k.kind, k.items])),
      questions: Object.fromEntries(counted.questions.map((q) => [q.type, q.count])),
    },
    outline: [...walkOutline(course.outline)].map(({ node, depth }) => ({
      depth,
      title: node.title,
      kind: course.items.find((i) => i.id === node.item)?.kind ?? 'folder',
      item: node.item ?? null,
    })),
    items: course.items.map(({ id, kind, title, definitionPath: place, settings }) => ({
      id,
      kind,
      title,
      place,
      settings,
    })),
    questions: course.items.flatMap((i) => (holdsQuestions(i) ? i.questions.map((q) => asPlain(q, i.title)) : [])),
    files: course.files,
    links: links.map(({ item, use, value, line, path, state, lost }) => ({
      item,
      use,
      value,
      line,
      path,
      state,
      // The page that it leads to has no such place.
      lostAnchor: lost,
    })),
    findings: findings.map(({ kind, weight, item, title, part, file, line, evidence, groupKey }) => ({
      kind,
      weight,
      item,
      title,
      part,
      file,
      line,
      evidence,
      groupKey,
    })),
    placeholders: findings.filter((f) => f.kind === 'placeholder').map((f) => f.evidence),
    unread: counted.unread,
    unused: counted.unused,
    notes,
  };
}

function noteLine(note: Note): string {
  const where = [note.file, note.line === undefined ? undefined : `line ${note.line}`].filter((w) => w !== undefined);
  return `  ${note.code}: ${note.message}${where.length > 0 ? ` (${where.join(', ')})` : ''} ${note.action}`;
}

async function inspect(args: readonly string[]): Promise<void> {
  const { files, json, opening } = await read(args, 1);
  await withFile(files[0] ?? '', opening, async (pkg) => {
    const looked = await look(pkg, opening, { today: new Date().toISOString() });
    const found = inspected(looked);
    if (json) {
      console.log(JSON.stringify(found, null, 2));
      return;
    }
    const { counts } = found;
    console.log(
      `${found.title}\n${found.format} ${found.version}, ${count(counts.items, 'item')} in ${count(counts.folders, 'folder')}, ${count(counts.files, 'file')}, ${readableSize(counts.bytes)}`,
    );
    console.log(
      Object.entries(counts.kinds)
        .map(([kind, n]) => `${n} ${kind}`)
        .join(', '),
    );
    for (const { depth, title, kind } of found.outline) console.log(`${'  '.repeat(depth + 1)}${title}  [${kind}]`);
    if (found.unused.length > 0) console.log(`Unused: ${found.unused.join(', ')}`);
    const broken = found.links.filter((l) => l.state === 'broken');
    if (broken.length > 0)
      console.log(`${count(broken.length, 'broken link')}: ${broken.map((l) => l.value).join(', ')}`);
    if (found.findings.length > 0) {
      console.log('Findings:');
      for (const { id, label } of kindsFound(looked.findings, null)) {
        console.log(`  ${looked.findings.filter((f) => f.kind === id).length} × ${label}`);
      }
    }
    if (found.unread.length > 0) {
      console.log(
        `Not read (${count(
          found.unread.reduce((sum, u) => sum + u.times, 0),
          'thing',
        )}):`,
      );
      for (const { name, times, places } of found.unread) {
        console.log(`  ${times} × ${name} (${places[0]?.file ?? ''}, line ${places[0]?.line ?? 0})`);
      }
    }
    if (found.notes.length > 0) console.log(`Notes:\n${found.notes.map(noteLine).join('\n')}`);
  });
}

async function convert(args: readonly string[]): Promise<void> {
  const call = await read(args, 1);
  const { files, json, to, out, opening } = call;
  if (to === '' || out === '') throw usage('--to and --out are needed.');
  const { target } = targetById(to);
  if ((await standing(out)) !== null)
    throw new Refusal(problem('file-there', `${out} is there already.`, { file: out }));
  await withFile(files[0] ?? '', opening, async (pkg) => {
    const { made, ...written } = await writing(out, (sink) => converted(pkg, call, sink));
    const summary = { format: target.id, label: target.label, ...written, losses: made.losses, notes: made.notes };
    if (json) {
      console.log(JSON.stringify(summary, null, 2));
      return;
    }
    console.log(`${out}: ${target.label}, ${readableSize(written.size)}, SHA-256 ${written.sha256}`);
    console.log(made.losses.length === 0 ? 'Nothing is lost.' : `${count(made.losses.length, 'item')} not whole:`);
    for (const loss of made.losses) console.log(`  ${loss.item} [${loss.kind}]: ${loss.outcome}. ${loss.why}`);
  });
}

/** What is told of a loss. */
interface Loss {
  item: string;
  kind: string;
  outcome: string;
  as: string | null;
  why: string;
  settings: string[];
}

/** Writes the package, and tells what is lost. */
async function converted(
  pkg: Package,
  { to, allowed, withoutDamaged, opening }: Call,
  sink: Sink,
): Promise<{ losses: Loss[]; notes: readonly Note[] }> {
  const { format, target } = targetById(to);
  const lossesOf = (course: Course) => {
    const lines = declaredLosses(course, profileOn(course, target));
    if (allowed) refuseLosses(lines, allowed, target);
    return lines.map((line): Loss => {
      const { title, kind, outcome, as, settings } = line;
      const names = settings.filter((s) => s.outcome !== 'whole').map((s) => s.name);
      return { item: title, kind, outcome, as, why: explain(line), settings: names };
    });
  };
  if (withoutDamaged) {
    const looked = await look(pkg, opening, { today: new Date().toISOString() });
    const { work, left } = await leavingDamaged(pkg, looked);
    if (allowed && left.length > 0 && !allowed.includes('damage')) throw notWhole(['damage'], target);
    const losses = [...left, ...lossesOf(work.course)];
    await writePackage(target, await planPackage(format, work.course, target, work.pkg), work.pkg, sink, {
      engine: nodeEngine,
    });
    return { losses, notes: looked.notes };
  }
  // Begun only now, so that somebody always waits for what it may refuse.
  const looked = look(pkg, opening).then((found) => ({ found, losses: lossesOf(found.course) }));
  const plan = looked.then(({ found }) => planPackage(format, found.course, target, pkg));
  await writePackage(target, plan, pkg, sink, { engine: nodeEngine });
  const { found, losses } = await looked;
  return { losses, notes: found.notes };
}

/** The course without what is damaged of it, and what that is. */
async function leavingDamaged(pkg: Package, looked: Looked): Promise<{ work: WorkingCopy; left: Loss[] }> {
  const kind = 'file-damaged';
  const decision = { id: kind, match: { kind, groupKey: null, key: null }, mend: 'leave-out', params: {}, reason: '' };
  const work = await workingCopy(pkg, looked, looked.findings, [decision], { engine: nodeEngine });
  const items = new Map(looked.course.items.map((i) => [i.id, i]));
  const left = looked.findings
    .filter((f) => f.kind === kind)
    .map(({ item, title, evidence }): Loss => {
      const own = items.get(item ?? '');
      return {
        item: own?.title ?? title,
        kind: own?.kind ?? 'file',
        outcome: 'left behind',
        as: null,
        why: evidence,
        settings: [],
      };
    });
  return { work, left };
}

/** What a loss is called: the kind of an item that becomes another or stays behind, else the settings and parts that do. */
function lossNames({ kind, as, outcome, settings }: Line): string[] {
  const isOther = outcome === 'left behind' || (as !== null && as !== kind);
  return [...(isOther ? [kind] : []), ...settings.filter((s) => s.outcome !== 'whole').map((s) => s.name)];
}

/** @throws Refusal `not-whole` where something is lost that nobody allowed */
function refuseLosses(losses: readonly Line[], allowed: readonly string[], target: Target): void {
  const left = new Map<string, string[]>();
  for (const line of losses) {
    for (const name of lossNames(line)) {
      if (!allowed.includes(name)) left.set(name, [...(left.get(name) ?? []), line.title]);
    }
  }
  if (left.size === 0) return;
  const words = [...left].map(([name, titles]) => `${name} (${titles.length === 1 ? titles[0] : titles.length})`);
  throw notWhole(words, target);
}

function notWhole(words: readonly string[], { label }: Target): Refusal {
  return new Refusal(problem('not-whole', `${label} does not hold all of it: ${words.join(', ')}.`));
}

/** Writes a file, or leaves none behind. */
async function writing<T>(
  out: string,
  work: (sink: Awaited<ReturnType<typeof fileSink>>) => Promise<T>,
): Promise<{ size: number; sha256: string; made: T }> {
  const sink = await fileSink(out);
  try {
    const made = await work(sink);
    return { ...(await sink.close()), made };
  } catch (error) {
    await sink.abandon();
    await rm(out, { force: true });
    throw error;
  }
}

async function compareFiles(args: readonly string[]): Promise<void> {
  const { files, json, opening } = await read(args, 2);
  const courseOf = (path = '') =>
    withFile(path, opening, async (pkg): Promise<Course> => (await look(pkg, opening)).course);
  const [before, after] = [await courseOf(files[0]), await courseOf(files[1])];
  const comparison = compare(before, after);
  if (json) {
    console.log(JSON.stringify(comparison, null, 2));
    return;
  }
  console.log(
    Object.entries(comparison.totals)
      .map(([outcome, n]) => `${n} ${outcome}`)
      .join(', '),
  );
  for (const line of comparison.lines) {
    if (line.outcome !== 'whole') console.log(`  ${line.title} [${line.kind}]: ${line.outcome}. ${explain(line)}`);
  }
}

export const COMMANDS: Record<string, (args: readonly string[]) => Promise<void>> = {
  inspect,
  convert,
  compare: compareFiles,
};
