import type { Package } from '../../container/index.ts';
import {
  decodeText,
  elements,
  child,
  openTagsWith,
  declaredUtf8,
  splice,
  xml,
  type Splice,
  type XmlElement,
} from '../../markup/index.ts';
import { isLedTo, itemsById, type Course, type Item } from '../../model/index.ts';
import type { PlannedEntry } from '../format.ts';
import { MANIFEST, readManifest } from '../imscp/manifest.ts';
import { ASSIGNMENT_TYPE, VOCABULARIES, type CcVersion, type Vocabulary } from './versions.ts';
import { textPage } from './definitions.ts';

/**
 * A cartridge of one version as a cartridge of another, for courses that nothing has reshaped: the version's own words
 * are exchanged in place by splicing, so identifiers, order, comments, unknown elements and unknown resources stay as
 * they were, and every file that does not name the version passes through untouched. QTI 1.2 is the same in all
 * versions and is among those.
 */
export async function planReversion(
  course: Course,
  source: Package,
  from: CcVersion,
  to: CcVersion,
): Promise<PlannedEntry[]> {
  if (from === to) return [...source.entries.keys()].map((path) => ({ path, copy: path }));
  const words = exchange(VOCABULARIES[from], VOCABULARIES[to]);
  const { text, root } = await readManifest(source);
  const pages = to === '1.3' ? new Map<string, string>() : assignmentPages(course, source);
  const byPlace = new Map(
    course.items.flatMap((item) => (item.definitionPath === null ? [] : [[item.definitionPath, item] as const])),
  );
  const entries: PlannedEntry[] = [
    { path: MANIFEST, text: splice(text, manifestSplices(root, text, words, VOCABULARIES[to], course, pages)) },
  ];
  // What stays as it is comes first, so that it is copied in few pieces.
  const changed: PlannedEntry[] = [];
  for (const path of source.entries.keys()) {
    if (path === MANIFEST) continue;
    const item = byPlace.get(path);
    const page = item && pages.get(item.id);
    const about = item && isLedTo(item) ? { item: item.id } : {};
    if (item?.kind === 'assignment' && page !== undefined)
      changed.push({ path: page, ...about, text: textPage(course, item, page) });
    else if (item && namesVersion(item)) changed.push({ path, ...about, make: () => redefine(source, path, words) });
    else entries.push({ path, ...about, copy: path });
  }
  return [...entries, ...changed];
}

/** Kinds whose definitions stand in a namespace of the cartridge's version. */
function namesVersion(item: Item): boolean {
  return item.kind === 'link' || item.kind === 'discussion' || item.kind === 'tool';
}

function assignmentPages(course: Course, source: Package): Map<string, string> {
  const pages = new Map<string, string>();
  for (const item of course.items) {
    if (item.kind !== 'assignment' || item.definitionPath === null) continue;
    let path = item.definitionPath.replace(/\.xml$/i, '') + '.html';
    while (source.entries.has(path)) path = path.replace(/\.html$/, '_.html');
    pages.set(item.id, path);
  }
  return pages;
}

/** What one version says where another says something else. */
interface Exchange {
  /** Every string of the old version that must become one of the new, longest first. */
  readonly words: readonly [string, string][];
  /** Stands in every tag that has one of them; most tags have none. */
  readonly any: RegExp;
}

const SCHEMAS = 'http://www.imsglobal.org/profile/cc/';

function exchange(from: Vocabulary, to: Vocabulary): Exchange {
  const keys = Object.keys(from) as (keyof Vocabulary)[];
  const words = keys
    .filter((key) => key !== 'schemaVersion' && from[key] !== to[key])
    .map((key): [string, string] => [from[key], to[key]])
    .sort((a, b) => b[0].length - a[0].length);
  const literal = (text: string) => text.replace(/[.*+?^${}()|[\]\\/]/g, '\\$&');
  return { words, any: new RegExp([SCHEMAS, ...words.map(([old]) => old)].map(literal).join('|'), 'g') };
}

/** Exchanges whole attribute values in an open tag, and the names within `schemaLocation`. */
function exchangeTag(tag: string, { words }: Exchange): string {
  return tag.replace(/(["'])([^"']*)\1/g, (whole, quote: string, value: string) => {
    const exact = words.find(([old]) => old === value);
    if (exact) return quote + exact[1] + quote;
    if (!/\s/.test(value) || !value.includes('http')) return whole;
    const parts = value
      .split(/(\s+)/)
      .map((part) => words.find(([old]) => old === part)?.[1] ?? schemaPlace(part, words));
    return quote + parts.join('') + quote;
  });
}

/** Where a version's schemas are kept: the folder and the file name carry the version. */
function schemaPlace(url: string, words: readonly [string, string][]): string {
  if (!url.startsWith(SCHEMAS)) return url;
  const version = (word: string | undefined) => /imscc(v\dp\d)\//.exec(word ?? '')?.[1];
  const [old, now] = words.find(([from]) => version(from) !== undefined) ?? [];
  const [from, to] = [version(old), version(now)];
  return from === undefined || to === undefined ? url : url.replaceAll(`cc${from}`, `cc${to}`);
}

function tagSplices(text: string, words: Exchange): Splice[] {
  const found: Splice[] = [];
  for (const { start, tag } of openTagsWith(text, words.any)) {
    const changed = exchangeTag(tag, words);
    if (changed !== tag) found.push({ start, end: start + tag.length, text: changed });
  }
  return found;
}

function manifestSplices(
  root: XmlElement,
  text: string,
  words: Exchange,
  to: Vocabulary,
  course: Course,
  pages: ReadonlyMap<string, string>,
): Splice[] {
  const replaced: Splice[] = [];
  const items = itemsById(course);
  for (const resource of elements(child(root, 'resources'), 'resource')) {
    const id = resource.attrs['identifier'] ?? '';
    const page = pages.get(id);
    const item = items.get(id);
    if (resource.attrs['type'] !== ASSIGNMENT_TYPE || page === undefined || item === undefined) continue;
    const href = page.split('/').map(encodeURIComponent).join('/');
    const kept = elements(resource)
      .filter((e) => e.name !== 'file')
      .map((e) => exchangeTag(text.slice(e.start, e.end), words));
    // The prefix that the manifest uses for its own namespace, if it uses one.
    const prefix = /^<([\w.-]+:)?/.exec(text.slice(resource.start, resource.openEnd))?.[1] ?? '';
    const body = [
      ...kept.filter((k) => /metadata/.test(k.slice(0, 40))),
      xml(`${prefix}file`, { href }),
      ...kept.filter((k) => !/metadata/.test(k.slice(0, 40))),
    ];
    replaced.push({
      start: resource.start,
      end: resource.end,
      text: xml(`${prefix}resource`, { identifier: id, type: 'webcontent', href }, ...body),
    });
  }
  const version = child(root, 'metadata', 'schemaversion');
  if (version) replaced.push({ start: version.openEnd, end: version.closeStart, text: to.schemaVersion });
  const inside = (s: Splice) => replaced.some((r) => s.start >= r.start && s.end <= r.end);
  return [...replaced, ...tagSplices(text, words).filter((s) => !inside(s))];
}

/** A definition that could be read, so it is well-formed, in the new version's words. */
async function redefine(source: Package, path: string, words: Exchange): Promise<string> {
  const text = decodeText(await source.bytes(path));
  const declared = declaredUtf8(text);
  return splice(declared, tagSplices(declared, words));
}
