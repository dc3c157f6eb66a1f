import {
  Refusal,
  changesNothing,
  describedFormat,
  declaredLosses,
  explain,
  givenPath,
  openAndRead,
  planPackage,
  portableEngine,
  problem,
  profileOn,
  readDescription,
  targetById,
  workingCopy,
  writePackage,
  type Course,
  type FindingSettings,
  type Looked,
  type Note,
  type Package,
  type Profile,
  type ReadPackage,
  type Target,
  type TextIndex,
  type WorkingCopy,
} from '@treenail/core';
import type { Converted, Decided, FromWorker, Loss, Source } from './messages';
import { redatesOf } from './open-dates';
import { bytesOf, inBlob } from './source-bytes';

/* What is open in the worker of the Bench, as it came and with what was decided in it, and how it is written. */

/** What reading every file found. */
export interface Known extends Looked {
  index: TextIndex;
  /** Of the destination that was chosen. */
  profile: Profile | null;
}

export interface OpenPackage {
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
/** The core over a dropped file, by random access: nothing of it leaves the browser. */
interface AtWork {
  open: OpenPackage | null;
  /** What the open package was compared with last. */
  beside: { pkg: Package; course: Course } | null;
  /** Files that a person gave for mends, by address. */
  given: Map<string, File>;
  /** The last working copy that was made, with what it was made of. */
  worked: { pkg: Package; decided: string; copy: Promise<WorkingCopy> } | null;
}
export const atWork: AtWork = { open: null, beside: null, given: new Map(), worked: null };

export function say(message: FromWorker): void {
  postMessage(message);
}

export const packing = (done: number, total: number) => say({ progress: done, total });

/** The package of a source, and how its formats are read, described ones included. */
export function opened(source: Source, blob: Blob | null, texts: readonly string[]): Promise<ReadPackage> {
  const described = texts.flatMap((text) => {
    const { description } = readDescription(text);
    return description ? [describedFormat(description)] : [];
  });
  return openAndRead(bytesOf(source, blob), { engine: portableEngine, scratch: inBlob, described });
}

export function current(): OpenPackage {
  if (!atWork.open) throw new Refusal(problem('nothing-open', 'No package is open.'));
  return atWork.open;
}

export const isNothing = ({ decisions, leftOut, hiddenUntil, redate }: Decided) =>
  decisions.length + leftOut.length === 0 && hiddenUntil === null && (redate === null || changesNothing(redate.plan));

/** What is open, as it came or with what was decided in it. */
export async function asDecided(decided: Decided): Promise<{ pkg: Package; course: Course }> {
  return isNothing(decided) ? current() : mended(decided);
}

export function mended(decided: Decided): Promise<WorkingCopy> {
  const { pkg } = current();
  const decisionsKey = JSON.stringify(decided);
  if (atWork.worked?.pkg !== pkg || atWork.worked.decided !== decisionsKey)
    atWork.worked = { pkg, decided: decisionsKey, copy: mend(decided) };
  return atWork.worked.copy;
}

async function mend({ decisions, leftOut, hiddenUntil, redate }: Decided): Promise<WorkingCopy> {
  const { pkg, whole } = current();
  const known = await whole;
  const supplies = await supplied(new Set(decisions.flatMap((d) => Object.values(d.params))));
  const redates = redate === null ? {} : { redates: await redatesOf(pkg, known, redate) };
  const hidden = hiddenUntil === null ? {} : { hiddenUntil };
  const options = { engine: portableEngine, leftOut, scratch: inBlob, supplies, ...redates, ...hidden };
  return workingCopy(pkg, known, known.findings, decisions, options);
}

export async function supplied(wanted: ReadonlySet<string>): Promise<Map<string, { path: string; bytes: Uint8Array }>> {
  const found = new Map<string, { path: string; bytes: Uint8Array }>();
  for (const [address, file] of atWork.given) {
    if (!wanted.has(address)) continue;
    found.set(address, { path: givenPath(address), bytes: new Uint8Array(await file.arrayBuffer()) });
  }
  return found;
}

/** What a target does not hold whole of a course, in words. */
export function lossesIn(course: Course, target: Target): Loss[] {
  return declaredLosses(course, profileOn(course, target)).map((line) => ({ title: line.title, why: explain(line) }));
}

export async function written(
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
  const losses = lossesIn(course, target);
  return { losses, blob: new Blob(pieces), fileName: `${name.replace(/\.\w+$/, '')}_${target.id}.${target.extension}` };
}
