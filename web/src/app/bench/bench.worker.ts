/// <reference lib="webworker" />
import {
  Refusal,
  FORMATS,
  declaredLosses,
  describedFormat,
  explain,
  inventory,
  labelOf,
  openCourse,
  portableEngine,
  previewItem,
  problem,
  questionNotes,
  readCourse,
  readDescription,
  survey,
  targetById,
  writePackage,
  type Course,
  type CourseLink,
  type Note,
  type Package,
  type Preview,
  type Survey,
} from '@treenail/core';
import type { Converted, FromWorker, Glance, Opened, Source, ToWorker } from './messages';
import { blobOf, bytesOf, inBlob, refusalOf } from './source-bytes';

/** The core over a dropped file, by random access: nothing of it leaves the browser. */
let open: { id: number; pkg: Package; course: Course; name: string; surveyed: Promise<Survey> } | null = null;

addEventListener('message', (event: MessageEvent<ToWorker>) => {
  const asked = event.data;
  const work =
    asked.ask === 'open'
      ? read(asked.id, asked.source, asked.described)
      : asked.ask === 'glance'
        ? glance(asked.source, asked.described)
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

const packing = (done: number, total: number) => say({ progress: done, total });

/** The package of a source, and how its formats are read, described ones included. */
async function opened(source: Source, blob: Blob | null, texts: readonly string[]) {
  const described = texts.flatMap((text) => {
    const { description } = readDescription(text);
    return description ? [describedFormat(description)] : [];
  });
  const pkg = await openCourse(bytesOf(source, blob), { engine: portableEngine, scratch: inBlob, described });
  return { pkg, ...(await readCourse(pkg, described)) };
}

/**
 * Answers as soon as the directory and the definitions are read, however long the package is. Every file is then hashed
 * and every page read for its links, and the answer is given again with what that found.
 */
async function read(id: number, source: Source, described: readonly string[]): Promise<Opened> {
  open = null;
  const blob = await blobOf(source, packing);
  const { pkg, course, notes } = await opened(source, blob, described);
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
function isSame(format: string, target: { id: string; version: string }, { origin }: Course): boolean {
  return (
    target.id === origin.format ||
    (format === origin.format && target.version === origin.version && target.id !== 'thin13')
  );
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
  await writePackage(target, await format.plan(course, target, pkg), pkg, sink, {
    engine: portableEngine,
    onProgress: ({ done, total }) => say({ progress: done, total }),
  });
  return { blob: new Blob(parts), fileName: `${name.replace(/\.\w+$/, '')}_${target.id}.${target.extension}` };
}
