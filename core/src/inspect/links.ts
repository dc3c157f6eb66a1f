import * as z from 'zod';
import { resolveReference } from '../formats/references.ts';
import { isExternal, type PageReading, type PageReference } from '../markup/index.ts';
import {
  isOneFile,
  decodePercent,
  foldedPath,
  folderOf,
  isLedTo,
  itemOfAddress,
  resolvePath,
  type Course,
} from '../model/index.ts';

/**
 * Addresses by which a course speaks of the platform it stands on, so that a link back into it is told from one to the
 * outside. `items` and `courses` are patterns with the named groups `item` and `course`.
 */
export const KnownAddresses = z.object({
  /** Beginnings of addresses of the platform. */
  platform: z.array(z.string()),
  /** The course's own identifier there. */
  course: z.string().nullable(),
  items: z.array(z.string()),
  courses: z.array(z.string()),
  /** Beginnings of addresses of a repository that courses share. */
  repository: z.array(z.string()),
});
export type KnownAddresses = z.infer<typeof KnownAddresses>;

export const NO_ADDRESSES: KnownAddresses = { platform: [], course: null, items: [], courses: [], repository: [] };

/** What a reference leads to. */
export const LINK_STATES = [
  /** A file of the package. */
  'inside',
  /** An item of this course, by its address on the old platform. */
  'item',
  /** Another course of the old platform. */
  'elsewhere',
  /** Anything else on the old platform. */
  'platform',
  /** A file that courses share. */
  'repository',
  'outside',
  /** A place in the same page. */
  'fragment',
  'broken',
] as const;
export type LinkState = (typeof LINK_STATES)[number];

const SpanOf = z.object({ start: z.number(), end: z.number() });

/** A reference in an item's text, and what it leads to. */
export const CourseLink = z.object({
  /** Identifier of the item whose text it stands in; `null` in style sheets. */
  item: z.string().nullable(),
  /** Which of the item's texts: see `textsOf`. */
  part: z.string(),
  /** The file that the text lies in, or stands for the item. */
  file: z.string().nullable(),
  use: z.enum(['anchor', 'image', 'media', 'style', 'script', 'frame']),
  value: z.string(),
  line: z.number(),
  /** Where the address stands in the text, and the tag and closing tag it belongs to. */
  at: SpanOf,
  inStyle: z.boolean(),
  element: z.object({ name: z.string(), open: SpanOf, close: SpanOf.nullable(), text: z.string() }).nullable(),
  state: z.enum(LINK_STATES),
  /** Package path, if it leads to a file that is there. */
  path: z.string().nullable(),
  /** Identifier of the item that it leads to, if it leads to one. */
  to: z.string().nullable(),
  /** Identifier of another course that it leads to. */
  course: z.string().nullable(),
  /** A file that is meant, though the reference does not name it as it is written. */
  near: z.object({ path: z.string(), how: z.enum(['case', 'encoded', 'backslash']) }).nullable(),
  /** It names a place in a page that has no such place. */
  lost: z.boolean(),
});
export type CourseLink = z.infer<typeof CourseLink>;

/** Where the text stands whose references are resolved. */
export interface LinkPlace {
  item: string | null;
  part: string;
  file: string | null;
}

/** Resolves references of one course. Built once, since it looks files and items up by many names. */
export class LinkResolver {
  private readonly has: (path: string) => boolean;
  private readonly byLowerCase = new Map<string, string>();
  private readonly itemOfFile = new Map<string, string>();
  private readonly items: ReadonlySet<string>;
  private readonly known: KnownAddresses;
  private readonly itemPatterns: readonly RegExp[];
  private readonly coursePatterns: readonly RegExp[];
  private readonly hosts: readonly string[];

  constructor(course: Course, paths: Iterable<string>, known: KnownAddresses = NO_ADDRESSES) {
    const all = new Set(paths);
    this.has = (path) => all.has(path);
    for (const path of all) this.byLowerCase.set(foldedPath(path), path);
    this.items = new Set(course.items.map((i) => i.id));
    for (const item of course.items) {
      if (isOneFile(item)) this.itemOfFile.set(item.file, item.id);
      else if (isLedTo(item) && item.definitionPath !== null) this.itemOfFile.set(item.definitionPath, item.id);
    }
    this.known = known;
    this.itemPatterns = known.items.map((p) => new RegExp(p, 'i'));
    this.coursePatterns = known.courses.map((p) => new RegExp(p, 'i'));
    this.hosts = known.platform.map((p) => p.replace(/^https?:/i, '').toLowerCase());
  }

  /** The identifier of the item that a package path is, or that is defined there. */
  itemAt(path: string): string | null {
    return this.itemOfFile.get(path) ?? null;
  }

  /** Every reference of a text, and what it leads to. */
  resolve(reading: PageReading, place: LinkPlace): CourseLink[] {
    return reading.references.map((reference) => this.one(reference, reading, place));
  }

  one(reference: PageReference, reading: Pick<PageReading, 'base' | 'anchors'>, place: LinkPlace): CourseLink {
    const { use, value, line, at, inStyle, element } = reference;
    const led = this.lead(value, place.file ?? '', reading);
    // Written out: of a large course there are a hundred thousand, and to spread an object takes four times as long.
    return {
      item: place.item,
      part: place.part,
      file: place.file,
      use,
      value,
      line,
      at,
      inStyle,
      element: element && { name: element.name, open: element.open, close: element.close, text: element.text },
      state: led.state,
      path: led.path ?? null,
      to: led.to ?? null,
      course: led.course ?? null,
      near: led.near ?? null,
      lost: led.lost ?? false,
    };
  }

  private lead(
    value: string,
    place: string,
    reading: Pick<PageReading, 'base' | 'anchors'>,
  ): Pick<CourseLink, 'state'> & Partial<CourseLink> {
    if (value.startsWith('#')) {
      const name = decodePercent(value.slice(1));
      return { state: 'fragment', lost: name !== '' && name !== 'top' && !reading.anchors.has(name) };
    }
    const named = itemOfAddress(value);
    if (named !== null) return this.items.has(named) ? { state: 'item', to: named } : { state: 'broken', near: null };
    const based = reading.base !== null && !isExternal(value) && !value.startsWith('/') ? reading.base : '';
    const reference = based === '' ? value : folderOf(based) + value;
    const path = resolveReference(this.has, place, reference);
    if (path !== null) return { state: 'inside', path, to: this.itemAt(path) };
    if (isExternal(reference)) return this.address(reference);
    return { state: 'broken', near: this.nearTo(reference, place) };
  }

  private address(value: string): Pick<CourseLink, 'state'> & Partial<CourseLink> {
    const { known } = this;
    const from = value.replace(/^https?:/i, '').toLowerCase();
    if (known.repository.some((p) => isUnder(from, p.replace(/^https?:/i, '').toLowerCase())))
      return { state: 'repository', near: this.sameName(value) };
    if (!this.hosts.some((p) => isUnder(from, p))) return { state: 'outside' };
    for (const pattern of this.itemPatterns) {
      const groups = pattern.exec(value)?.groups;
      const item = groups?.['item'];
      const own = groups?.['course'] === undefined || groups['course'] === known.course;
      if (item !== undefined && own && this.items.has(item)) return { state: 'item', to: item };
    }
    for (const pattern of this.coursePatterns) {
      const course = pattern.exec(value)?.groups?.['course'];
      if (course !== undefined && course !== known.course) return { state: 'elsewhere', course };
    }
    return { state: 'platform' };
  }

  private nearTo(reference: string, place: string): CourseLink['near'] {
    const slashed = reference.replaceAll('\\', '/');
    if (slashed !== reference) {
      const path = resolveReference(this.has, place, slashed);
      if (path !== null) return { path, how: 'backslash' };
    }
    const twice = decodePercent(decodePercent(reference));
    const encoded = resolveReference(this.has, place, twice);
    if (encoded !== null) return { path: encoded, how: 'encoded' };
    for (const written of [decodePercent(slashed), twice]) {
      const resolved = resolvePath(folderOf(place), written);
      const path = resolved === null ? undefined : this.byLowerCase.get(foldedPath(resolved));
      if (path !== undefined) return { path, how: 'case' };
    }
    return null;
  }

  /** A file of the package that has the name at the end of an address. */
  private sameName(value: string): CourseLink['near'] {
    const name = decodePercent(/([^/?#]+)(?:[?#].*)?$/.exec(value)?.[1] ?? '').toLowerCase();
    if (name === '') return null;
    for (const [lower, path] of this.byLowerCase) {
      if (lower === name || lower.endsWith(`/${name}`)) return { path, how: 'encoded' };
    }
    return null;
  }
}

/** Whether an address is a beginning or lies below it: a host that only begins with the same letters is another. */
function isUnder(address: string, beginning: string): boolean {
  return (
    address.startsWith(beginning) && (beginning.endsWith('/') || /^(?:[/?#]|$)/.test(address.slice(beginning.length)))
  );
}
