import {
  inMemory,
  openPackage,
  portableEngine,
  ZipWriter,
  type Engine,
  type Package,
  scratched,
  type MakeScratch,
} from '../container/index.ts';
import { encodePath } from '../formats/references.ts';
import { survey, withoutMarks, type CourseLink, type Kept } from '../inspect/index.ts';
import { escapeXml, splice } from '../markup/index.ts';
import { Refusal, mediaTypeOf, relativePath, type Course, type CourseFile } from '../model/index.ts';
import { fileOf, isInFile, itemsById, textAt, withPaths, type ChangeSet } from './changes.ts';
import { leaveOutOf } from './select.ts';

export interface Surveyed {
  course: Course;
  links: readonly CourseLink[];
}

/** The course as it is once changed, and the package in which its files are to be found. */
export interface Applied {
  /** Surveyed anew. `origin.untouched` is false. */
  course: Course;
  links: CourseLink[];
  pkg: Package;
  /** What could not be done to files, by the key of the finding that asked for it. */
  refused: { key: string; why: string }[];
}

export interface ApplyOptions {
  engine?: Engine;
  /** Where what is new is written; in memory where nothing is given. */
  scratch?: MakeScratch;
  /** Nobody asks for hashes, and `before` has none: of what did not change nothing is read again. */
  unhashed?: true;
}

/** Files that are new or changed, as a package of their own. */
interface Bodies {
  added: Package;
  /** Sizes of files that are other bytes now. */
  changed: ReadonlyMap<string, number>;
  refused: Applied['refused'];
}

/**
 * Does what a change set says. The package that the course came from is neither changed nor copied: what is new lies
 * beside it.
 */
export async function applyChanges(
  pkg: Package,
  before: Surveyed,
  changes: ChangeSet,
  options: ApplyOptions,
): Promise<Applied> {
  const { course } = before;
  const { engine = portableEngine } = options;
  follow(changes, before.links);
  // What used a file that is merged uses the other before the file is left out.
  const into = (path: string) => changes.merged.get(path) ?? path;
  const merged = changes.merged.size === 0 ? course : { ...course, items: course.items.map((i) => withPaths(i, into)) };
  const left = leaveOutOf(merged, changes.leftOut, before.links);
  const { added, changed, refused } = await writeBodies(pkg, course, changes, left.files, options);
  const texts = changes.texts();
  const { personal, ...rest } = left.course;
  const after: Course = {
    ...rest,
    origin: { ...course.origin, untouched: false },
    ...(rest.settings && changes.ofCourse.length > 0
      ? { settings: changes.ofCourse.reduce((after, change) => change(after), rest.settings) }
      : {}),
    ...(changes.places.size > 0 ? { outline: changes.outlineAfter(left.course.outline) } : {}),
    items: left.course.items.map((item) => changes.itemAfter(item, texts.get(item.id))),
    files: filesAfter(left.course.files, changes, changed),
    ...(personal && !changes.withoutPeople
      ? { personal: { ...personal, files: personal.files.filter((f) => !left.files.has(f)) } }
      : {}),
  };
  const over = pkg.overlaid(added, { removed: left.files, renamed: changes.renamed });
  const kept = unread(before, changes, changed, options.unhashed === true);
  const depth = options.unhashed ? 'unhashed' : 'whole';
  const surveyed = await survey(over, after, { engine, kept, depth }).catch(async (error: unknown) => {
    // Nobody else knows of it to close it.
    await added.close();
    throw error;
  });
  return { course: surveyed.course, links: surveyed.links, pkg: over, refused };
}

/** References to files that are renamed or merged follow them. */
function follow(changes: ChangeSet, links: readonly CourseLink[]): void {
  const goes = new Map([...changes.renamed, ...changes.merged]);
  if (goes.size === 0) return;
  for (const link of links) {
    const to = link.path === null ? undefined : goes.get(link.path);
    if (to === undefined || (link.item !== null && changes.leftOut.items.has(link.item))) continue;
    const from = link.file === null ? '' : (changes.renamed.get(link.file) ?? link.file);
    const rest = /[?#].*$/.exec(link.value)?.[0] ?? '';
    const value = encodePath(relativePath(from, to)) + rest;
    // Where a mend has said otherwise of this very link, that counts.
    changes.cut(link, [{ ...link.at, text: link.inStyle ? value : escapeXml(value) }]);
  }
}

async function writeBodies(
  pkg: Package,
  course: Course,
  changes: ChangeSet,
  gone: ReadonlySet<string>,
  { engine = portableEngine, scratch: made }: ApplyOptions,
): Promise<Bodies> {
  const changed = new Map<string, number>();
  const refused: Applied['refused'] = [];
  const added = await scratched(made ?? inMemory(pkg.limits.memoryBytes), async (sink) => {
    const writer = new ZipWriter(sink, engine);
    const put = async (path: string, bytes: Uint8Array) => {
      await writer.add(changes.renamed.get(path) ?? path, bytes);
      changed.set(path, bytes.length);
    };
    const items = itemsById(course);
    for (const cuts of changes.cuts.values()) {
      if (!isInFile(cuts.part)) continue;
      const path = fileOf(items.get(cuts.item ?? ''), cuts);
      const source = await textAt(pkg, items, cuts);
      if (path === null || source === null || gone.has(path)) continue;
      await put(path, encoded(splice(source, cuts.splices), source));
    }
    for (const [path, key] of changes.remade) {
      if (gone.has(path)) continue;
      try {
        await put(path, await withoutMarks(path, await pkg.bytes(path), engine));
      } catch (error) {
        if (!(error instanceof Refusal)) throw error;
        refused.push({ key, why: error.problem.message });
      }
    }
    for (const { path, bytes } of changes.supplied.values()) await put(path, bytes);
    await writer.finish();
  });
  return { added: await openPackage(added, { engine }), changed, refused };
}

function filesAfter(
  files: readonly CourseFile[],
  changes: ChangeSet,
  changed: ReadonlyMap<string, number>,
): CourseFile[] {
  const after = files.map((file): CourseFile => {
    const path = changes.renamed.get(file.path) ?? file.path;
    const size = changed.get(file.path);
    if (size === undefined) return path === file.path ? file : { ...file, path };
    const other = { ...file, path, size };
    delete other.sha256;
    return other;
  });
  const there = new Set(after.map((f) => f.path));
  for (const { path, bytes } of changes.supplied.values()) {
    if (!there.has(path)) after.push({ path, size: bytes.length, mediaType: mediaTypeOf(path), role: 'content' });
  }
  return after;
}

/** What need not be read again. */
function unread(
  { course, links }: Surveyed,
  changes: ChangeSet,
  changed: ReadonlyMap<string, number>,
  unhashed: boolean,
): Map<string, Kept> {
  const items = itemsById(course);
  const byFile = new Map<string, CourseLink[]>();
  for (const link of links) {
    if (!isInFile(link.part)) continue;
    const file = fileOf(items.get(link.item ?? ''), link);
    if (file === null) continue;
    const list = byFile.get(file);
    if (list) list.push(link);
    else byFile.set(file, [link]);
  }
  const prints = new Map<string, string | undefined>();
  for (const item of course.items) if (item.kind === 'page') prints.set(item.file, item.fingerprint);
  const kept = new Map<string, Kept>();
  const { leftOut, renamed, merged } = changes;
  // A link resolves otherwise once what it leads to is renamed or gone.
  const moved = new Set([...renamed.keys(), ...merged.keys(), ...leftOut.files]);
  for (const { path, sha256, damage } of course.files) {
    const own = byFile.get(path) ?? [];
    const isKnown = sha256 !== undefined || (unhashed && damage === undefined);
    const leadsAstray = own.some((l) => l.path !== null && (moved.has(l.path) || leftOut.items.has(l.to ?? '')));
    if (changed.has(path) || !isKnown || leadsAstray || renamed.has(path)) continue;
    kept.set(path, { sha256, print: prints.get(path), links: own });
  }
  return kept;
}

/** UTF-8; with a mark of it where the page says that it is something else. */
function encoded(text: string, source: string): Uint8Array {
  const declared = /<meta[^>]+charset\s*=\s*["']?([\w-]+)/i.exec(source.slice(0, 2048))?.[1];
  const foreign = declared !== undefined && !/^utf-?8$/i.test(declared);
  return new TextEncoder().encode(foreign && !text.startsWith('\ufeff') ? `\ufeff${text}` : text);
}
