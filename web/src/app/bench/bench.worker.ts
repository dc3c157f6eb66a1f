/// <reference lib="webworker" />
import {
  FORMATS,
  Refusal,
  TextIndex,
  beforeAfter,
  byStep,
  compare,
  givenAddress,
  inventory,
  kindsFound,
  labelOf,
  mediaTypeOf,
  lookInto,
  portableEngine,
  previewItem,
  problem,
  relationsOf,
  searchCourse,
  selectionOf,
  wordsAsked,
  wordsOf,
  type Course,
  type CourseLink,
  type FindingSettings,
  type Looked,
  type Note,
  type Preview,
  type Profile,
  type ReadPackage,
} from '@treenail/core';
import type { BeforeAfterAnswer, RelationsAnswer, TextSearchAnswer, TidyAnswer } from '@treenail/server/contract';
import type { Compared, Converted, Decided, FromWorker, Glance, Opened, Source, ToWorker } from './messages';
import { cuts, dates, doubles, join, parts, split, undated } from './reshaping';
import {
  asDecided,
  atWork,
  current,
  isNothing,
  lossesIn,
  mended,
  opened,
  packing,
  say,
  supplied,
  written,
  type Known,
  type OpenPackage,
} from './at-work';
import { blobOf, refusalOf } from './source-bytes';

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
  atWork.open = null;
  atWork.beside = null;
  atWork.given = new Map();
  const blob = await blobOf(source, packing);
  const read = await opened(source, blob, described);
  const open: OpenPackage = { id, blob, ...read, name: source.name, settings, ...know(id, read, settings, null) };
  atWork.open = open;
  tellOf(open);
  return answerOf(blob, read.course, [], read.notes);
}

/** Says what reading the files found, once it is found: the findings, then what is wrong with long files. */
function tellOf({ id, blob, course, notes, surveyed, whole }: OpenPackage): void {
  const tell = (found: Known, isWhole: boolean) => {
    if (atWork.open?.id !== id) return;
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
      if (atWork.open?.id !== id) return;
      const why: Note = { ...refusalOf(error), weight: 'warning' };
      say({ surveyed: answerOf(blob, course, [], [...notes, why]), whole: true });
    },
  );
}

/** Looks anew at what is open, with the eyes of a destination: what it can't bear is found too, and why it matters told. */
async function destine(id: number, profile: Profile | null, decided: Decided): Promise<TidyAnswer> {
  const before = current();
  const open: OpenPackage = { ...before, id, ...know(id, before, before.settings, profile) };
  atWork.open = open;
  atWork.worked = null;
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
      if (atWork.open?.id === id) say({ progress: done, total });
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
        losses: lossesIn(course, t),
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

async function preview(id: string, learner: boolean, question: string, decided: Decided): Promise<Preview> {
  const { pkg, course } = await asDecided(decided);
  const item = course.items.find((i) => i.id === id);
  const view = { learner, words: wordsAsked(question), course };
  return item ? previewItem(pkg, item, portableEngine, view) : { form: 'none', why: 'it is left out' };
}

/** An item of the package that the open one was compared with. */
async function previewBeside(id: string, learner: boolean): Promise<Preview> {
  const { beside } = atWork;
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

function give(file: File): string {
  let address = givenAddress(file.name);
  for (let n = 2; atWork.given.has(address); n++) address = givenAddress(`${n} ${file.name}`);
  atWork.given.set(address, file);
  return address;
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
    hiddenUntil: decided.hiddenUntil,
    further: null,
    comesAgain: false,
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
  atWork.beside = { pkg: other.pkg, course: surveyed.course };
  const { format, version } = other.course.origin;
  return { other: surveyed.course, label: labelOf(format, version), comparison: compare(course, surveyed.course) };
}

async function convert(to: string, decided: Decided): Promise<Converted> {
  const copy = await mended(decided);
  const made = await written(copy, to, current().name);
  return { ...made, losses: [...undated(copy), ...made.losses] };
}
