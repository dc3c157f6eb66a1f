/// <reference lib="webworker" />
import {
  FORMATS,
  Refusal,
  TextIndex,
  beforeAfter,
  byStep,
  calendarDates,
  changesNothing,
  compare,
  datesOf,
  declaredLosses,
  doublesOf,
  profileOn,
  describedFormat,
  explain,
  givenAddress,
  givenPath,
  inventory,
  joined,
  kindsFound,
  labelOf,
  mediaTypeOf,
  lookInto,
  openAndRead,
  partAsCourse,
  portableEngine,
  previewItem,
  problem,
  proposeSplits,
  readDescription,
  redated,
  relationsOf,
  searchCourse,
  selectionOf,
  splitOf,
  targetById,
  termsOfDates,
  walkOutline,
  wordsAsked,
  wordsOf,
  workingCopy,
  planPackage,
  writePackage,
  writtenDates,
  type Course,
  type CourseLink,
  type FindingSettings,
  type JoinPlan,
  type Looked,
  type Note,
  type Package,
  type Preview,
  type Profile,
  type ReadPackage,
  type Redates,
  type SplitPlan,
  type WorkingCopy,
} from '@treenail/core';
import type { BeforeAfterAnswer, RelationsAnswer, TextSearchAnswer, TidyAnswer } from '@treenail/server/contract';
import type { RedateData } from '../redate/redate-view';
import type {
  Common,
  Compared,
  Converted,
  Cuts,
  Decided,
  FromWorker,
  Glance,
  HouseCalendar,
  Opened,
  PartAnswer,
  Source,
  ToWorker,
} from './messages';
import { blobOf, bytesOf, inBlob, refusalOf } from './source-bytes';

/** What reading every file found. */
interface Known extends Looked {
  index: TextIndex;
  /** Of the destination that was chosen. */
  profile: Profile | null;
}

/** The core over a dropped file, by random access: nothing of it leaves the browser. */
let open: OpenPackage | null = null;
interface OpenPackage {
  /** Number of the request that had every file read. */
  id: number;
  blob: Blob | null;
  pkg: Package;
  /** As the definitions have it. */
  course: Course;
  notes: readonly Note[];
  name: string;
  settings: FindingSettings;
  /** As soon as the findings are known; of long files the hashes are still missing then. */
  surveyed: Promise<Known>;
  /** Once every file was read to its end. */
  whole: Promise<Known>;
}
/** What the open package was compared with last. */
let beside: { pkg: Package; course: Course } | null = null;
/** Files that a person gave for mends, by address. */
let given = new Map<string, File>();

addEventListener('message', (event: MessageEvent<ToWorker>) => {
  const request = event.data;
  work(request).then(
    (answer) => say({ id: request.id, answer }),
    (error: unknown) => say({ id: request.id, refusal: refusalOf(error) }),
  );
});

function work(request: ToWorker): Promise<Extract<FromWorker, { answer: unknown }>['answer']> {
  switch (request.ask) {
    case 'open':
      return read(request.id, request.source, request.described, request.settings);
    case 'glance':
      return glance(request.source, request.described);
    case 'preview':
      return preview(request.item, request.learner, request.question, request.decided);
    case 'preview-beside':
      return previewBeside(request.item, request.learner);
    case 'file':
      return file(request.path, request.decided);
    case 'search':
      return search(request.question);
    case 'relations':
      return relations();
    case 'tidy':
      return tidy(request.decided);
    case 'destine':
      return destine(request.id, request.profile, request.decided);
    case 'give':
      return Promise.resolve(give(request.file));
    case 'before-after':
      return tryMend(request.key, request.mend, request.params);
    case 'compare':
      return compareWith(request.source, request.described);
    case 'convert':
      return convert(request.target, request.decided);
    case 'dates':
      return dates(request.house, request.decided);
    case 'cuts':
      return cuts(request.house, request.decided);
    case 'parts':
      return parts(request.plan, request.decided);
    case 'split':
      return split(request.plan, request.target, request.decided);
    case 'doubles':
      return doubles(request.source, request.described, request.decided);
    case 'join':
      return join(request.plan, request.target, request.decided);
  }
}

function say(message: FromWorker): void {
  postMessage(message);
}

const packing = (done: number, total: number) => say({ progress: done, total });

/** The package of a source, and how its formats are read, described ones included. */
function opened(source: Source, blob: Blob | null, texts: readonly string[]): Promise<ReadPackage> {
  const described = texts.flatMap((text) => {
    const { description } = readDescription(text);
    return description ? [describedFormat(description)] : [];
  });
  return openAndRead(bytesOf(source, blob), { engine: portableEngine, scratch: inBlob, described });
}

/**
 * Answers as soon as the directory and the definitions are read, however long the package is. Every file is then hashed
 * and every page read for its links, and the answer is given again with what that found.
 */
async function read(
  id: number,
  source: Source,
  described: readonly string[],
  settings: FindingSettings,
): Promise<Opened> {
  open = null;
  beside = null;
  given = new Map();
  const blob = await blobOf(source, packing);
  const read = await opened(source, blob, described);
  open = { id, blob, ...read, name: source.name, settings, ...know(id, read, settings, null) };
  tellOf(open);
  return answerOf(blob, read.course, [], read.notes);
}

/** Says what reading the files found, once it is found: the findings, then what is wrong with long files. */
function tellOf({ id, blob, course, notes, surveyed, whole }: OpenPackage): void {
  const tell = (found: Known, isWhole: boolean) => {
    if (open?.id !== id) return;
    say({
      surveyed: answerOf(
        blob,
        found.course,
        found.links,
        found.notes,
        found.languages,
        byStep(found.findings).tidy.length,
      ),
      whole: isWhole,
    });
  };
  surveyed.then(
    (found) => tell(found, false),
    () => undefined,
  );
  whole.then(
    (found) => tell(found, true),
    (error: unknown) => {
      // What could be read stays on the screen, with a note of why the rest could not.
      if (open?.id !== id) return;
      const why: Note = { ...refusalOf(error), weight: 'warning' };
      say({ surveyed: answerOf(blob, course, [], [...notes, why]), whole: true });
    },
  );
}

/** Looks anew at what is open, with the eyes of a destination: what it can't bear is found too, and why it matters told. */
async function destine(id: number, profile: Profile | null, decided: Decided): Promise<TidyAnswer> {
  const before = current();
  open = { ...before, id, ...know(id, before, before.settings, profile) };
  worked = null;
  tellOf(open);
  return tidy(decided);
}

function know(
  id: number,
  read: ReadPackage,
  settings: FindingSettings,
  profile: Profile | null,
): Pick<OpenPackage, 'surveyed' | 'whole'> {
  const index = new TextIndex();
  const titles = new Map(read.course.items.map((i) => [i.id, i.title]));
  for (const [item, title] of titles) index.add(item, title, '');
  const known = (found: Looked): Known => ({ ...found, index, profile });
  let first: (found: Looked) => void = () => undefined;
  const found = new Promise<Looked>((resolve) => (first = resolve));
  const whole = lookInto(read, {
    engine: portableEngine,
    onFindings: (looked) => first(looked),
    findings: { today: new Date().toISOString().slice(0, 10), settings, profile },
    onText: ({ id, title }, text) => index.add(id, title, text),
    onProgress: ({ done, total }) => {
      if (open?.id === id) say({ progress: done, total });
    },
  });
  // Where reading fails nobody waits for findings.
  return { surveyed: Promise.race([found, whole]).then(known), whole: whole.then(known) };
}

function answerOf(
  blob: Blob | null,
  course: Course,
  links: readonly CourseLink[],
  notes: readonly Note[],
  languages: ReadonlyMap<string, number> = new Map(),
  findings: number | null = null,
): Opened {
  const { format, version } = course.origin;
  return {
    blob,
    course,
    findings,
    inventory: inventory(course, links, languages),
    notes: [...notes],
    label: labelOf(format, version),
    targets: FORMATS.filter((f) => f.accepts?.(course) !== false)
      .flatMap((f) => f.targets)
      // What it is already is no format to convert it to.
      .filter((t) => t.passthrough?.(course.origin) !== 'everything')
      .map((t) => ({
        id: t.id,
        label: t.label,
        losses: declaredLosses(course, profileOn(course, t)).map((line) => ({ title: line.title, why: explain(line) })),
      })),
  };
}

async function glance(source: Source, described: readonly string[]): Promise<Glance> {
  const blob = await blobOf(source, packing);
  const { course, notes } = await opened(source, blob, described);
  const { format, version } = course.origin;
  return {
    blob,
    label: labelOf(format, version),
    title: course.title,
    items: course.items.length,
    notes: notes.length,
  };
}

/** A package need not be converted into what it is. */
function current(): NonNullable<typeof open> {
  if (!open) throw new Refusal(problem('nothing-open', 'No package is open.'));
  return open;
}

async function preview(id: string, learner: boolean, question: string, decided: Decided): Promise<Preview> {
  const { pkg, course } = await asDecided(decided);
  const item = course.items.find((i) => i.id === id);
  const view = { learner, words: wordsAsked(question), course };
  return item ? previewItem(pkg, item, portableEngine, view) : { form: 'none', why: 'it is left out' };
}

/** An item of the package that the open one was compared with. */
async function previewBeside(id: string, learner: boolean): Promise<Preview> {
  const item = beside?.course.items.find((i) => i.id === id);
  if (!beside || !item) return { form: 'none', why: 'it is not there any more' };
  return previewItem(beside.pkg, item, portableEngine, { learner, course: beside.course });
}

/** A long film, sound or picture; the browser keeps its parts outside the heap. */
async function file(path: string, decided: Decided): Promise<Blob> {
  const { pkg } = await asDecided(decided);
  const parts: Blob[] = [];
  for await (const part of pkg.stream(path)) parts.push(new Blob([new Uint8Array(part)]));
  return new Blob(parts, { type: mediaTypeOf(path) });
}

const isNothing = ({ decisions, leftOut, redate }: Decided) =>
  decisions.length + leftOut.length === 0 && (redate === null || changesNothing(redate.plan));

/** What is open, as it came or with what was decided in it. */
async function asDecided(decided: Decided): Promise<{ pkg: Package; course: Course }> {
  return isNothing(decided) ? current() : mended(decided);
}

async function search(question: string): Promise<TextSearchAnswer> {
  const { pkg, course, surveyed } = current();
  const { index } = await surveyed;
  return searchCourse(course, index, question, (item) => wordsOf(pkg, item));
}

async function relations(): Promise<RelationsAnswer> {
  const { course, links } = await current().surveyed;
  const { pointsAt, pointedAtBy } = relationsOf(course, links);
  const plain = (map: typeof pointsAt) => Object.fromEntries([...map].map(([id, list]) => [id, [...list]]));
  return { pointsAt: plain(pointsAt), pointedAtBy: plain(pointedAtBy) };
}

/** The last working copy that was made, with what it was made of. */
let worked: { pkg: Package; decided: string; copy: Promise<WorkingCopy> } | null = null;

function mended(decided: Decided): Promise<WorkingCopy> {
  const { pkg } = current();
  const decisionsKey = JSON.stringify(decided);
  if (worked?.pkg !== pkg || worked.decided !== decisionsKey)
    worked = { pkg, decided: decisionsKey, copy: mend(decided) };
  return worked.copy;
}

async function mend({ decisions, leftOut, redate }: Decided): Promise<WorkingCopy> {
  const { pkg, whole } = current();
  const known = await whole;
  const supplies = await supplied(new Set(decisions.flatMap((d) => Object.values(d.params))));
  const redates = redate === null ? {} : { redates: await redatesOf(redate) };
  const options = { engine: portableEngine, leftOut, scratch: inBlob, supplies, ...redates };
  return workingCopy(pkg, known, known.findings, decisions, options);
}

function give(file: File): string {
  let address = givenAddress(file.name);
  for (let n = 2; given.has(address); n++) address = givenAddress(`${n} ${file.name}`);
  given.set(address, file);
  return address;
}

async function supplied(wanted: ReadonlySet<string>): Promise<Map<string, { path: string; bytes: Uint8Array }>> {
  const found = new Map<string, { path: string; bytes: Uint8Array }>();
  for (const [address, file] of given) {
    if (!wanted.has(address)) continue;
    found.set(address, { path: givenPath(address), bytes: new Uint8Array(await file.arrayBuffer()) });
  }
  return found;
}

async function tidy(decided: Decided): Promise<TidyAnswer> {
  const { course, links, findings: all, profile } = await current().surveyed;
  const { tidy: findings } = byStep(all);
  return {
    findings,
    kinds: kindsFound(findings, profile),
    decisions: [...decided.decisions],
    rules: [],
    failed: isNothing(decided) ? [] : (await mended(decided)).failed,
    leftOut: [...decided.leftOut],
    ...selectionOf(course, new Set(decided.leftOut), links),
    current: true,
    open: true,
  };
}

async function tryMend(key: string, mend: string, params: Record<string, string>): Promise<BeforeAfterAnswer> {
  const { pkg, surveyed } = current();
  const known = await surveyed;
  const finding = known.findings.find((f) => f.key === key);
  if (!finding) throw new Refusal(problem('not-found', 'There is no such finding.', {}, 'Open the file again.'));
  const supplies = await supplied(new Set(Object.values(params)));
  return beforeAfter(pkg, known, finding, { mend, params }, supplies);
}

/** What differs between the package that is open and another one. */
async function compareWith(source: Source, described: readonly string[]): Promise<Compared> {
  const { course } = await current().whole;
  const other = await opened(source, await blobOf(source, packing), described);
  const surveyed = await lookInto(other, {
    engine: portableEngine,
    onProgress: ({ done, total }) => say({ progress: done, total }),
  });
  beside = { pkg: other.pkg, course: surveyed.course };
  const { format, version } = other.course.origin;
  return { other: surveyed.course, label: labelOf(format, version), comparison: compare(course, surveyed.course) };
}

async function convert(to: string, decided: Decided): Promise<Converted> {
  const { name } = current();
  return written(await mended(decided), to, name);
}

async function written(
  { course, pkg }: Pick<WorkingCopy, 'course' | 'pkg'>,
  to: string,
  name: string,
): Promise<Converted> {
  const { format, target } = targetById(to);
  // The browser keeps the parts of a blob outside the heap.
  const pieces: Blob[] = [];
  const sink = { write: async (bytes: Uint8Array) => void pieces.push(new Blob([new Uint8Array(bytes)])) };
  await writePackage(target, await planPackage(format, course, target, pkg), pkg, sink, {
    engine: portableEngine,
    onProgress: ({ done, total }) => say({ progress: done, total }),
  });
  return { blob: new Blob(pieces), fileName: `${name.replace(/\.\w+$/, '')}_${target.id}.${target.extension}` };
}

/** Every date of what is open, without those of what does not go. */
async function knownDates(decided: Pick<Decided, 'leftOut'>): Promise<Pick<RedateData, 'dates' | 'written' | 'notes'>> {
  const { pkg, whole } = current();
  const { course, findings } = await whole;
  const out = new Set(decided.leftOut);
  const stays = (item: string | null) => item === null || !out.has(item);
  const calendars = await calendarDates(pkg, course);
  return {
    dates: [...datesOf(course), ...calendars.dates].filter(({ item }) => stays(item)),
    written: writtenDates(course, byStep(findings).redate).filter(({ finding }) => stays(finding.item)),
    notes: calendars.notes,
  };
}

const today = () => new Date().toISOString().slice(0, 10);

async function redatesOf({ plan, zone }: NonNullable<Decided['redate']>): Promise<Redates> {
  const { dates, written } = await knownDates({ leftOut: [] });
  return { rows: redated(dates, plan, { zone, closed: [], today: today(), written }).rows, written };
}

async function dates(house: HouseCalendar, decided: Decided): Promise<RedateData> {
  const { course } = await current().whole;
  const known = await knownDates(decided);
  const [from, to] = termsOfDates(known.dates, house);
  const folders = [...walkOutline(course.outline)].flatMap(({ node: { id, title, children } }) =>
    children.length > 0 ? [{ id, title }] : [],
  );
  return { ...known, ...house, folders, today: today(), from, to };
}

async function cuts({ terms, zone }: HouseCalendar, decided: Decided): Promise<Cuts> {
  const { course } = await mended(decided);
  return { course, proposals: proposeSplits(course, { terms, zone }) };
}

async function parts(plan: SplitPlan, decided: Decided): Promise<PartAnswer[]> {
  const { course, links } = await mended(decided);
  return splitOf(course, links, plan).map(({ title, items, shared, dangling, weights, points }) => ({
    title,
    items: [...items],
    shared,
    dangling,
    weights,
    points,
  }));
}

async function split(plan: SplitPlan, target: string, decided: Decided): Promise<Converted[]> {
  const copy = await mended(decided);
  const made: Converted[] = [];
  for (const part of splitOf(copy.course, copy.links, plan)) {
    const one = await partAsCourse(copy.pkg, copy, part, { engine: portableEngine, scratch: inBlob });
    made.push(await written(one, target, part.title));
  }
  return made;
}

/** What is to be joined with what is open. */
let joining: Looked | null = null;

async function doubles(source: Source, described: readonly string[], decided: Decided): Promise<Common> {
  const { course } = await mended(decided);
  const read = await opened(source, await blobOf(source, packing), described);
  joining = await lookInto(read, {
    engine: portableEngine,
    onProgress: ({ done, total }) => say({ progress: done, total }),
  });
  const { title, items } = joining.course;
  return { title, items: items.length, doubles: doublesOf(course, joining.course) };
}

async function join(plan: JoinPlan, target: string, decided: Decided): Promise<Converted> {
  if (!joining) throw new Refusal(problem('nothing-open', 'No package is open.'));
  const copy = await mended(decided);
  const whole = await joined(copy, joining, plan, { engine: portableEngine, scratch: inBlob });
  return written(whole, target, plan.title);
}
