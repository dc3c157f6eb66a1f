/// <reference lib="webworker" />
import {
  Refusal,
  FORMATS,
  blobSource,
  httpSource,
  withReadAhead,
  declaredLosses,
  explain,
  inventory,
  labelOf,
  openCourse,
  packFolder,
  portableEngine,
  previewItem,
  problem,
  questionNotes,
  readCourse,
  survey,
  targetById,
  writePackage,
  type ByteSource,
  type Course,
  type CourseLink,
  type Note,
  type Package,
  type Preview,
  type Scratch,
  type Survey,
} from '@treenail/core';
import type { Converted, FromWorker, Glance, Opened, Source, ToWorker } from './messages';

/** The core over a dropped file, by random access: nothing of it leaves the browser. */
let open: { id: number; pkg: Package; course: Course; name: string; surveyed: Promise<Survey> } | null = null;
/** Folders that were packed, so that one that was glanced at is not packed again when it is opened. */
const packed = new Map<string, Blob>();

addEventListener('message', (event: MessageEvent<ToWorker>) => {
  const asked = event.data;
  const work =
    asked.ask === 'open'
      ? read(asked.id, asked.source)
      : asked.ask === 'glance'
        ? glance(asked.source)
        : asked.ask === 'preview'
          ? preview(asked.item)
          : convert(asked.target);
  work.then(
    (answer) => say({ id: asked.id, answer }),
    (error: unknown) => say({ id: asked.id, refusal: refusalOf(error) }),
  );
});

function say(message: FromWorker): void {
  postMessage(message);
}

function refusalOf(error: unknown) {
  if (error instanceof Refusal) return error.problem;
  const why = error instanceof Error ? error.message : String(error);
  return problem('unexpected', `The file could not be read: ${why}`, 'Try the file as the platform exported it.');
}

/**
 * Answers as soon as the directory and the definitions are read, however long the package is. Every file is then hashed
 * and every page read for its links, and the answer is given again with what that found.
 */
async function read(id: number, source: Source): Promise<Opened> {
  open = null;
  const blob = await blobOf(source);
  const pkg = await openCourse(bytesOf(source, blob), { engine: portableEngine, scratch: inBlob });
  const { course, notes } = await readCourse(pkg);
  const surveyed = survey(pkg, course, {
    engine: portableEngine,
    onProgress: ({ done, total }) => {
      if (open?.id === id) say({ progress: done, total });
    },
  });
  open = { id, pkg, course, name: source.name, surveyed };
  surveyed.then(
    (found) => {
      if (open?.id === id) say({ surveyed: answerOf(blob, found.course, found.links, [...notes, ...found.notes]) });
    },
    (error: unknown) => {
      // What could be read stays on the screen, with a note of why the rest could not.
      if (open?.id === id)
        say({ surveyed: answerOf(blob, course, [], [...notes, { ...refusalOf(error), weight: 'warning' }]) });
    },
  );
  return answerOf(blob, course, [], notes);
}

function answerOf(blob: Blob | null, course: Course, links: readonly CourseLink[], notes: Note[]): Opened {
  const { format, version } = course.origin;
  const hasQuestions = course.items.some((i) => i.kind === 'quiz' || i.kind === 'bank');
  return {
    blob,
    course,
    inventory: inventory(course, links),
    notes: [...notes, ...questionNotes(course)],
    label: labelOf(format, version),
    targets: FORMATS.flatMap((f) => f.targets.filter((t) => !isSame(f.id, t, course)))
      .filter((t) => !t.id.startsWith('qti') || hasQuestions)
      .map((t) => ({
        id: t.id,
        label: t.label,
        losses: declaredLosses(course, t.profile).map((line) => ({ title: line.title, why: explain(line) })),
      })),
  };
}

async function glance(source: Source): Promise<Glance> {
  const blob = await blobOf(source);
  const { course, notes } = await readCourse(
    await openCourse(bytesOf(source, blob), { engine: portableEngine, scratch: inBlob }),
  );
  const { format, version } = course.origin;
  return {
    blob,
    label: labelOf(format, version),
    title: course.title,
    items: course.items.length,
    notes: notes.length,
  };
}

function bytesOf(source: Source, blob: Blob | null): ByteSource {
  if ('address' in source) return withReadAhead(httpSource(source.address, source.size), 1 << 20, 1 << 16);
  return blobSource(blob ?? new Blob());
}

async function blobOf(source: Source): Promise<Blob | null> {
  if ('address' in source) return null;
  if ('file' in source) return source.file;
  const key = `${source.name} ${source.size} ${source.files.length}`;
  const before = packed.get(key);
  if (before) return before;
  const parts: Blob[] = [];
  await packFolder(
    source.files.map(({ path, file }) => ({ path, source: blobSource(file) })),
    { write: async (bytes) => void parts.push(new Blob([new Uint8Array(bytes)])) },
    { engine: portableEngine, onProgress: ({ done, total }) => say({ progress: done, total }) },
  );
  const blob = new Blob(parts);
  packed.set(key, blob);
  return blob;
}

/** A package need not be converted into what it is. */
function isSame(format: string, target: { id: string; version: string }, { origin }: Course): boolean {
  return (
    target.id === origin.format ||
    (format === origin.format && target.version === origin.version && target.id !== 'thin13')
  );
}

/** The browser keeps the parts of a blob outside the heap. */
async function inBlob(): Promise<Scratch> {
  const parts: Blob[] = [];
  return {
    sink: { write: async (bytes) => void parts.push(new Blob([new Uint8Array(bytes)])) },
    source: async () => blobSource(new Blob(parts)),
  };
}

function current(): NonNullable<typeof open> {
  if (!open) throw new Refusal(problem('nothing-open', 'No package is open.', 'Drop a package first.'));
  return open;
}

async function preview(id: string): Promise<Preview> {
  const { pkg, course } = current();
  const item = course.items.find((i) => i.id === id);
  return item ? previewItem(pkg, item, portableEngine) : { form: 'none', why: 'it is not in the package' };
}

async function convert(to: string): Promise<Converted> {
  const { pkg, name, surveyed } = current();
  const { course } = await surveyed;
  const { format, target } = targetById(to);
  // The browser keeps the parts of a blob outside the heap.
  const parts: Blob[] = [];
  const sink = { write: async (bytes: Uint8Array) => void parts.push(new Blob([new Uint8Array(bytes)])) };
  await writePackage(await format.plan(course, target, pkg), pkg, sink, {
    engine: portableEngine,
    onProgress: ({ done, total }) => say({ progress: done, total }),
  });
  return { blob: new Blob(parts), fileName: `${name.replace(/\.\w+$/, '')}_${target.id}.${target.extension}` };
}
