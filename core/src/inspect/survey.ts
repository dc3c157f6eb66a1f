import type { Engine, Package } from '../container/index.ts';
import {
  addressesInCss,
  decodeText,
  emptyReading,
  fold,
  plainText,
  readPage,
  type PageReading,
  type PageReference,
} from '../markup/index.ts';
import {
  Refusal,
  decodePercent,
  warning,
  type Course,
  type CourseFile,
  type Item,
  type Note,
  type RichText,
} from '../model/index.ts';
import { bytesForMarks, marksOf } from './file-marks.ts';
import type { HouseRules } from './findings/contract.ts';
import { Bearings, type CourseLink, type KnownAddresses } from './links.ts';
import { PAGE_PART, textsOf } from './passages.ts';

/** A text of a course as it was read: the body of a page, a text of another item, a style sheet. */
export interface Passage {
  /** `null` for style sheets. */
  item: Item | null;
  /** Which of the item's texts: see `textsOf`. */
  part: string;
  /** The file it lies in, or that stands for its item. */
  file: string | null;
  source: string;
  reading: PageReading;
  links: CourseLink[];
}

export interface Survey {
  /** The course with hashes of its files, fingerprints of its items and the files their texts use. */
  course: Course;
  links: CourseLink[];
  notes: Note[];
  /** Languages that pages say they are in, with how many pages say so. */
  languages: Map<string, number>;
  /** What files tell of people, by their paths; only where `marks` was asked for. */
  fileMarks: Map<string, string[]>;
}

export interface Kept {
  sha256: string;
  /** Of pages. */
  print: string | undefined;
  links: readonly CourseLink[];
}

export interface SurveyOptions {
  engine: Engine;
  onProgress?: (at: { done: number; total: number; unit: 'bytes' }) => void;
  /** Pages longer than this are hashed but not read for links, bytes. */
  pageBytes?: number;
  /** Addresses of the platform that the course comes from. */
  known?: KnownAddresses;
  /** What need not be read again, by package path: it is known from an earlier survey of the same bytes. */
  kept?: ReadonlyMap<string, Kept>;
  /** Looks at what files tell of people, by the habits of a house. */
  marks?: HouseRules;
  /** Told each text once, in the order in which they are read; what is given may not be kept whole. */
  onPassage?: (passage: Passage) => void;
}

const PAGE_BYTES = 16 * 2 ** 20;
export const STYLE_PART = 'style sheet';

/**
 * Reads every file once: hashes it and, where it is a page or a style sheet, takes its text and links. Files are streamed;
 * only pages are held, one at a time. A damaged file is noted and left without a hash.
 */
export async function survey(pkg: Package, course: Course, options: SurveyOptions): Promise<Survey> {
  const notes: Note[] = [];
  const links: CourseLink[] = [];
  const anchors = new Map<string, ReadonlySet<string>>();
  const bearings = new Bearings(course, pkg.entries.keys(), options.known);
  const pages = new Map<string, Item>();
  for (const item of course.items) if (item.kind === 'page') pages.set(item.file, item);
  const total = course.files.reduce((sum, f) => sum + f.size, 0);
  let done = 0;
  const files: CourseFile[] = [];
  const fileMarks = new Map<string, string[]>();
  const languages = new Map<string, number>();
  const prints = new Map<string, { print: string; embeds: string[] }>();
  const hear = (passage: Passage) => {
    links.push(...passage.links);
    options.onPassage?.(passage);
  };
  for (const file of course.files) {
    const short = file.size <= (options.pageBytes ?? PAGE_BYTES);
    const page = short ? pages.get(file.path) : undefined;
    const sheet = short && file.role === 'content' && file.mediaType === 'text/css';
    const kept = options.kept?.get(file.path);
    if (kept) {
      files.push({ ...file, sha256: kept.sha256 });
      links.push(...kept.links);
      if (page) prints.set(page.id, { print: kept.print ?? '', embeds: used(kept.links) });
      continue;
    }
    try {
      const telling = options.marks ? bytesForMarks(file.path, file.size) : 0;
      const read = await hashFile(pkg, file.path, options.engine, page || sheet ? pkg.entry(file.path).size : telling);
      files.push({ ...file, sha256: read.sha256 });
      if (options.marks && telling > 0 && read.bytes) {
        const told = await marksOf(file.path, read.bytes, options.marks, options.engine);
        if (told.length > 0) fileMarks.set(file.path, told);
      }
      if (page && read.bytes) {
        const source = decodeText(read.bytes);
        const reading = readPage(source);
        const place = { item: page.id, part: PAGE_PART, file: file.path };
        const found = bearings.resolve(reading, place);
        const language = reading.lang.toLowerCase();
        if (language !== '') languages.set(language, (languages.get(language) ?? 0) + 1);
        anchors.set(file.path, reading.anchors);
        prints.set(page.id, { print: digest(options.engine, reading.text), embeds: used(found) });
        hear({ ...place, item: page, source, reading, links: found });
      } else if (sheet && read.bytes) hear(sheetOf(decodeText(read.bytes), file.path, bearings));
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      notes.push({ ...error.problem, weight: 'warning' });
      files.push(file);
    }
    done += file.size;
    options.onProgress?.({ done, total, unit: 'bytes' });
  }
  const hashes = new Map(files.map((f) => [f.path, f.sha256]));
  const items = course.items.map((item): Item => {
    const own = prints.get(item.id);
    const found = textsOf(item).flatMap(({ part, text }) => {
      const passage = passageOf(item, part, text, bearings);
      if (!passage) return [];
      hear(passage);
      return passage.links;
    });
    const embeds = [...new Set([...(own?.embeds ?? []), ...used(found), ...pictures(item)])]
      .filter((p) => p !== item.place)
      .sort();
    const print =
      own?.print ?? (item.kind === 'file' ? hashes.get(item.file) : digest(options.engine, substance(item)));
    return {
      ...item,
      settings: withEmbeds(item.settings, embeds),
      ...(print === undefined ? {} : { print }),
    };
  });
  const titles = new Map(course.items.map((i) => [i.id, i]));
  for (const [i, link] of links.entries()) {
    const known = link.path === null || link.path === link.file ? undefined : anchors.get(link.path);
    // Of a page that was not read again, what was known before still holds.
    if (known) links[i] = { ...link, lost: isLost(link, known) };
    if (link.state !== 'broken') continue;
    const item = link.item === null ? undefined : titles.get(link.item);
    notes.push(
      warning(
        'link-broken',
        `“${item?.title ?? link.item ?? link.file ?? ''}” refers to ${link.value}, which is not in the package.`,
        'Put the file there, or take the reference out.',
        {
          file: link.file ?? item?.place ?? undefined,
          item: item?.title,
          line: link.line,
        },
      ),
    );
  }
  return { course: { ...course, files, items }, links, notes, fileMarks, languages };
}

/** What was said of an earlier survey does not stay. */
function withEmbeds(settings: Item['settings'], embeds: string[]): Item['settings'] {
  const after = { ...settings };
  delete after.embeds;
  return embeds.length > 0 ? { ...after, embeds } : after;
}

/** Whether a link to another page names a place that this page does not have. */
function isLost(link: CourseLink, anchors: ReadonlySet<string>): boolean {
  const name = /#(.+)$/.exec(link.value)?.[1];
  return name !== undefined && name !== 'top' && !anchors.has(decodePercent(name));
}

/** A text of an item that is no page; `null` where there is nothing to read. */
function passageOf(item: Item, part: string, text: RichText, bearings: Bearings): Passage | null {
  if (text.text === '') return null;
  const place = { item: item.id, part, file: item.place };
  const source = text.text;
  const reading = text.format === 'html' ? readPage(source) : { ...emptyReading(), text: fold(source) };
  return { ...place, item, source, reading, links: bearings.resolve(reading, place) };
}

function sheetOf(source: string, file: string, bearings: Bearings): Passage {
  const references = addressesInCss(source).map(({ value, start, end }): PageReference => ({
    use: 'style',
    value,
    line: source.slice(0, start).split('\n').length,
    element: null,
    at: { start, end },
    inStyle: true,
  }));
  const reading = { ...emptyReading(), references };
  const place = { item: null, part: STYLE_PART, file };
  return { ...place, source, reading, links: bearings.resolve(reading, place) };
}

/** Hashes a file, and keeps its first bytes, as many as are wanted. */
async function hashFile(
  pkg: Package,
  path: string,
  engine: Engine,
  wanted: number,
): Promise<{ sha256: string; bytes: Uint8Array | null }> {
  const hash = engine.sha256();
  const bytes = wanted > 0 ? new Uint8Array(wanted) : null;
  let at = 0;
  for await (const part of pkg.stream(path)) {
    hash.update(part);
    if (!bytes || at >= wanted) continue;
    const piece = part.subarray(0, wanted - at);
    bytes.set(piece, at);
    at += piece.length;
  }
  return { sha256: hash.hex(), bytes: bytes?.subarray(0, at) ?? null };
}

export function digest(engine: Pick<Engine, 'sha256'>, text: string): string {
  const hash = engine.sha256();
  hash.update(new TextEncoder().encode(text));
  return hash.hex();
}

/**
 * Files a text needs to be whole: pictures, media, and files it hands out. Links to other pages are not among them, nor
 * are style sheets and scripts: those are how a page looks, not what it says.
 */
function used(links: readonly CourseLink[]): string[] {
  const needed = links.filter((l) => l.use !== 'style' && l.use !== 'script');
  return [...new Set(needed.flatMap((l) => (l.path !== null && !/\.x?html?$/i.test(l.path) ? [l.path] : [])))].sort();
}

/** What hotspots lie on is shown as much as a picture in a text is. */
function pictures(item: Item): string[] {
  if (item.kind !== 'quiz' && item.kind !== 'bank') return [];
  return item.questions.flatMap((q) => (q.image ? [q.image.file] : []));
}

/** What an item says, without mark-up and identifiers: so that it is found again after a platform renumbers it. */
export function substance(item: Item): string {
  switch (item.kind) {
    case 'assignment':
    case 'discussion':
      return readable(item.text);
    case 'link':
      return item.url;
    case 'tool':
      return `${item.url}\n${readable({ format: 'html', text: item.description })}`;
    case 'quiz':
    case 'bank':
      return item.questions.map((q) => readable(q.prompt)).join('\n');
    case 'announcement':
    case 'event':
    case 'checklist':
    case 'automation':
    case 'attendance':
    case 'rubric':
    case 'groups':
    case 'category':
    case 'column':
      return [readable(item.text), ...item.rows.map((r) => r.join('\t'))].join('\n');
    case 'foreign':
      return `${item.type}\n${item.files.join('\n')}`;
    case 'page':
    case 'file':
      return item.file;
  }
}

export function readable(text: RichText): string {
  return text.format === 'html' ? plainText(text.text) : fold(text.text);
}

/** All that an item says, as a person reads it: what the search looks through. */
export async function wordsOf(pkg: Package, item: Item): Promise<string> {
  if (item.kind === 'page') {
    if (!pkg.entries.has(item.file)) return '';
    return readPage(decodeText(await pkg.bytes(item.file))).text;
  }
  return textsOf(item)
    .map(({ text }) => readable(text))
    .filter((t) => t !== '')
    .join('\n');
}
