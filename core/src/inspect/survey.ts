import type { Engine, Package } from '../container/index.ts';
import { resolveReference } from '../formats/references.ts';
import { decodeText, fold, isExternal, plainText, readHtml, type HtmlLink } from '../markup/index.ts';
import { Refusal, warning, type Course, type CourseFile, type Item, type Note, type RichText } from '../model/index.ts';

/** A reference in an item's text, and what it leads to. */
export interface CourseLink {
  item: string;
  use: HtmlLink['use'];
  value: string;
  line: number;
  /** Package path, if it leads to a file that is there. */
  path: string | null;
  state: 'inside' | 'outside' | 'broken' | 'fragment';
}

export interface Survey {
  /** The course with hashes of its files, fingerprints of its items and the files their texts use. */
  course: Course;
  links: CourseLink[];
  notes: Note[];
}

export interface SurveyOptions {
  engine: Engine;
  onProgress?: (at: { done: number; total: number; unit: 'bytes' }) => void;
  /** Pages longer than this are hashed but not read for links, bytes. */
  pageBytes?: number;
}

const PAGE_BYTES = 16 * 2 ** 20;

/**
 * Reads every file once: hashes it and, where it is a page, takes its text and links. Files are streamed; only pages
 * are held, one at a time. A damaged file is noted and left without a hash.
 */
export async function survey(pkg: Package, course: Course, options: SurveyOptions): Promise<Survey> {
  const notes: Note[] = [];
  const links: CourseLink[] = [];
  const pages = new Map<string, Item>();
  for (const item of course.items) if (item.kind === 'page') pages.set(item.file, item);
  const total = course.files.reduce((sum, f) => sum + f.size, 0);
  let done = 0;
  const files: CourseFile[] = [];
  const prints = new Map<string, { print: string; embeds: string[] }>();
  for (const file of course.files) {
    const page = file.size <= (options.pageBytes ?? PAGE_BYTES) ? pages.get(file.path) : undefined;
    try {
      const read = await hashFile(pkg, file.path, options.engine, page !== undefined);
      files.push({ ...file, sha256: read.sha256 });
      if (page && read.bytes) {
        const html = readHtml(decodeText(read.bytes));
        const found = html.links.map((link) => resolveLink(pkg, page.id, file.path, link));
        links.push(...found);
        prints.set(page.id, { print: digest(options.engine, html.text), embeds: used(found) });
      }
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
    const texts = richTexts(item);
    const found = texts.flatMap((text) => textLinks(pkg, item, text));
    links.push(...found);
    const embeds = [...new Set([...(own?.embeds ?? []), ...used(found), ...pictures(item)])]
      .filter((p) => p !== item.place)
      .sort();
    const print =
      own?.print ?? (item.kind === 'file' ? hashes.get(item.file) : digest(options.engine, substance(item)));
    return {
      ...item,
      settings: embeds.length > 0 ? { ...item.settings, embeds } : item.settings,
      ...(print === undefined ? {} : { print }),
    };
  });
  for (const link of links) {
    if (link.state !== 'broken') continue;
    const item = course.items.find((i) => i.id === link.item);
    notes.push(
      warning(
        'link-broken',
        `“${item?.title ?? link.item}” refers to ${link.value}, which is not in the package.`,
        'Put the file there, or take the reference out.',
        {
          file: item?.place ?? undefined,
          item: item?.title,
          line: link.line,
        },
      ),
    );
  }
  return { course: { ...course, files, items }, links, notes };
}

async function hashFile(
  pkg: Package,
  path: string,
  engine: Engine,
  keep: boolean,
): Promise<{ sha256: string; bytes: Uint8Array | null }> {
  const hash = engine.sha256();
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of pkg.stream(path)) {
    hash.update(part);
    if (keep) parts.push(part);
    size += part.length;
  }
  if (!keep) return { sha256: hash.hex(), bytes: null };
  const bytes = new Uint8Array(size);
  let at = 0;
  for (const part of parts) {
    bytes.set(part, at);
    at += part.length;
  }
  return { sha256: hash.hex(), bytes };
}

export function digest(engine: Pick<Engine, 'sha256'>, text: string): string {
  const hash = engine.sha256();
  hash.update(new TextEncoder().encode(text));
  return hash.hex();
}

function resolveLink(pkg: Package, item: string, place: string, link: HtmlLink): CourseLink {
  const base = { item, use: link.use, value: link.value, line: link.line };
  const path = resolveReference((p) => pkg.entries.has(p), place, link.value);
  if (path !== null) return { ...base, path, state: 'inside' };
  if (link.value.startsWith('#')) return { ...base, path, state: 'fragment' };
  return { ...base, path, state: isExternal(link.value) ? 'outside' : 'broken' };
}

function textLinks(pkg: Package, item: Item, text: RichText): CourseLink[] {
  if (text.format === 'plain') return [];
  return readHtml(text.text).links.map((link) => resolveLink(pkg, item.id, item.place ?? '', link));
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

function richTexts(item: Item): RichText[] {
  switch (item.kind) {
    case 'assignment':
    case 'discussion':
    case 'announcement':
    case 'event':
      return [item.text];
    case 'quiz':
    case 'bank':
      return item.questions.flatMap((q) => [
        q.prompt,
        ...[...q.choices, ...(q.blanks ?? []).flatMap((b) => b.choices)].flatMap((c) =>
          c.feedback ? [c.text, c.feedback] : [c.text],
        ),
        ...(q.targets ?? []).map((t) => t.text),
        ...Object.values(q.feedback),
      ]);
    default:
      return [];
  }
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
