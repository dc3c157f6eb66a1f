import { collect, joinBytes, type Engine, type Package } from '../container/index.ts';
import {
  addressesInCss,
  decodeText,
  emptyReading,
  fold,
  readPage,
  type PageReading,
  type PageReference,
} from '../markup/index.ts';
import {
  PAGE_PART,
  Refusal,
  type Course,
  type CourseFile,
  type Item,
  type Problem,
  type RichText,
} from '../model/index.ts';
import { bytesForMarks, marksOf } from './file-marks.ts';
import { FINDING_SETTINGS, type FindingOptions } from './findings/contract.ts';
import { PassageScanner, type Seen } from './findings/index.ts';
import { LinkResolver, type CourseLink, type KnownAddresses } from './links.ts';

/** A text of a course as it is read: the body of a page, a text of another item, a style sheet. */
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

/** What is left of a passage once it was looked at: plain data, so that it can come from another thread. */
export interface PassageRead {
  item: string | null;
  text: string;
  language: string;
  /** Places that links can lead to. */
  anchors: ReadonlySet<string>;
  links: CourseLink[];
  seen: Seen[];
  /** Addresses beyond the limit, which were not followed up. */
  unfollowed: number;
  /** Whether there was more to be found than the limit. */
  unseen: boolean;
  /** How many letters were not read, since elements nest too deep there. */
  unread: number;
}

/** What reading one file found. */
export interface FileRead {
  path: string;
  /** `null` where it could not be read to its end, or where that was left for later. */
  sha256: string | null;
  refused: Problem | null;
  /** What its own header says otherwise than the package's directory. */
  otherwise: string | null;
  /** What it tells of people. */
  marks: string[];
  /** Of pages and style sheets. */
  passage: PassageRead | null;
  /** Fingerprint of a page's text. */
  print: string | null;
}

export interface ReadingOptions {
  /** Pages longer than this are hashed but not read for links, bytes. */
  pageBytes?: number;
  /** Where given, everything is looked at for findings, and links are told by the addresses it knows. */
  findings?: FindingOptions;
  /** Addresses by which links are told, where nothing is looked at for findings. */
  known?: KnownAddresses;
  /** Whether the texts themselves are wanted: between threads they are most of what is said. They are unless told. */
  texts?: boolean;
}

const NONE: { seen: Seen[]; left: boolean } = { seen: [], left: false };

const PAGE_BYTES = 16 * 2 ** 20;
const SMALL = 2 ** 20;
export const STYLE_PART = 'style sheet';

/**
 * How a file is read: `whole` to its end, with its hash; `telling` as far as findings need, which is all of texts and the
 * beginnings of pictures; `hash` for nothing but its hash, since what it tells is known; `unhashed` as `whole`, but without
 * its hash; `checked` to its end, for nothing but whether it is damaged.
 */
export type ReadMode = 'whole' | 'with findings' | 'hash' | 'unhashed' | 'checked';

/** Reads the files of one course, each by itself: what it needs of the others is only where they are. */
export class FileReader {
  private readonly pkg: Package;
  private readonly engine: Engine;
  private readonly options: ReadingOptions;
  private readonly resolver: LinkResolver;
  private readonly scanner: PassageScanner | null;
  private readonly pages = new Map<string, Item>();
  private readonly twins: ReadonlySet<string>;

  constructor(pkg: Package, course: Course, engine: Engine, options: ReadingOptions) {
    this.pkg = pkg;
    this.engine = engine;
    this.options = options;
    this.resolver = new LinkResolver(course, pkg.entries.keys(), options.findings?.known ?? options.known);
    this.scanner = options.findings ? new PassageScanner(course, options.findings) : null;
    for (const item of course.items) if (item.kind === 'page') this.pages.set(item.file, item);
    this.twins = twinsIn(pkg, course);
  }

  /** As what a file is looked at, and how many of its bytes say something, from its beginning on. */
  private wanted(file: CourseFile): { page: Item | undefined; sheet: boolean; marks: number; bytes: number } {
    const short = file.size <= (this.options.pageBytes ?? PAGE_BYTES);
    const page = short ? this.pages.get(file.path) : undefined;
    const sheet = short && file.role === 'content' && file.mediaType === 'text/css';
    const marks = this.options.findings ? bytesForMarks(file.path, file.size) : 0;
    return { page, sheet, marks, bytes: page || sheet ? this.sizeOf(file) : marks };
  }

  /** What is not there is refused when it is read, not before. */
  private sizeOf({ path }: CourseFile): number {
    return this.pkg.entries.get(path)?.size ?? 0;
  }

  /** Whether a file has a text that is read for links. */
  hasText(file: CourseFile): boolean {
    const { page, sheet } = this.wanted(file);
    return page !== undefined || sheet;
  }

  run(file: CourseFile, mode: ReadMode): Promise<FileRead> {
    if (mode === 'hash') return this.hash(file);
    return mode === 'checked' ? this.check(file) : this.read(file, mode);
  }

  /** Whether something of a file is left for later when it is read for what it tells. */
  isLeft(file: CourseFile): boolean {
    return !this.twins.has(file.path) && this.wanted(file).bytes < this.sizeOf(file);
  }

  private async check(file: CourseFile): Promise<FileRead> {
    return this.guarded(file, async () => {
      // The package judges every piece, and all of them at the end.
      for await (const part of this.pkg.stream(file.path)) void part;
    });
  }

  private async hash(file: CourseFile): Promise<FileRead> {
    return this.guarded(file, async (found) => {
      found.sha256 = (await this.taken(file.path, 0, true)).sha256;
    });
  }

  /**
   * Hashes a file and, where it is a page or a style sheet, takes its text and links. Only pages are held. Read for what
   * it tells, a file of which something is left is not hashed.
   */
  private async read(file: CourseFile, mode: 'whole' | 'with findings' | 'unhashed'): Promise<FileRead> {
    const { findings } = this.options;
    const { page, sheet, marks: telling, bytes: wanted } = this.wanted(file);
    return this.guarded(file, async (found) => {
      const left = mode === 'with findings' && this.isLeft(file);
      if (left && wanted === 0) return;
      const { sha256, bytes } = left
        ? { sha256: null, bytes: await this.beginning(file.path, wanted) }
        : await this.taken(file.path, wanted, mode !== 'unhashed');
      found.sha256 = sha256;
      if (!bytes) return;
      if (findings && telling > 0) {
        found.marks = await marksOf(file.path, bytes, findings.settings ?? FINDING_SETTINGS, this.engine);
      }
      if (page) {
        const source = decodeText(bytes);
        const reading = readPage(source);
        found.passage = this.passage(page, PAGE_PART, file.path, source, reading);
        found.print = this.engine.digest(reading.text);
      } else if (sheet) {
        const source = decodeText(bytes);
        found.passage = this.passage(null, STYLE_PART, file.path, source, readSheet(source));
      }
    });
  }

  /** What is damaged is told, and the rest of the course read. */
  private async guarded(file: CourseFile, work: (found: FileRead) => Promise<void>): Promise<FileRead> {
    const found: FileRead = {
      path: file.path,
      sha256: null,
      refused: null,
      otherwise: null,
      marks: [],
      passage: null,
      print: null,
    };
    try {
      await work(found);
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      found.refused = error.problem;
    }
    found.otherwise = this.pkg.contradictionOf(file.path);
    return found;
  }

  /** A text of an item that is no page; `null` where there is nothing to read. */
  text(item: Item, part: string, { format, text }: RichText): PassageRead | null {
    if (text === '') return null;
    const reading = format === 'html' ? readPage(text) : { ...emptyReading(), text: fold(text) };
    return this.passage(item, part, item.definitionPath, text, reading);
  }

  private passage(
    item: Item | null,
    part: string,
    file: string | null,
    source: string,
    reading: PageReading,
  ): PassageRead {
    const { linksPerText, findingsPerText } = this.pkg.limits;
    // A text that repeats itself without end is looked at as far as anybody would, and that is told.
    const followed = { ...reading, references: reading.references.slice(0, linksPerText) };
    const links = this.resolver.resolve(followed, { item: item?.id ?? null, part, file });
    const { seen, left } =
      this.scanner?.scan({ item, part, file, source, reading: followed, links }, findingsPerText) ?? NONE;
    return {
      item: item?.id ?? null,
      text: this.options.texts === false ? '' : reading.text,
      language: reading.lang.toLowerCase(),
      anchors: reading.anchors,
      links,
      seen,
      unfollowed: reading.references.length - followed.references.length,
      unseen: left,
      unread: reading.cut === null ? 0 : source.length - reading.cut,
    };
  }

  private async beginning(path: string, wanted: number): Promise<Uint8Array> {
    const parts: Uint8Array[] = [];
    let got = 0;
    for await (const part of this.pkg.stream(path)) {
      parts.push(part.subarray(0, wanted - got));
      got += part.length;
      if (got >= wanted) break;
    }
    return joinBytes(parts);
  }

  /** Reads a file to its end, hashed or not, and keeps its first bytes, as many as are wanted. */
  private async taken(
    path: string,
    wanted: number,
    isHashed: boolean,
  ): Promise<{ sha256: string | null; bytes: Uint8Array | null }> {
    if (this.pkg.entry(path).size <= SMALL) {
      const whole = await collect(this.pkg.stream(path));
      const sha256 = isHashed ? this.engine.digest(whole) : null;
      return { sha256, bytes: wanted > 0 ? whole.subarray(0, wanted) : null };
    }
    const hash = isHashed ? this.engine.sha256() : null;
    const bytes = wanted > 0 ? new Uint8Array(wanted) : null;
    let at = 0;
    for await (const part of this.pkg.stream(path)) {
      hash?.update(part);
      if (!bytes || at >= wanted) continue;
      const piece = part.subarray(0, wanted - at);
      bytes.set(piece, at);
      at += piece.length;
    }
    return { sha256: hash?.hex() ?? null, bytes: bytes?.subarray(0, at) ?? null };
  }
}

/**
 * Files that may be there twice: another has the same checksum and size, or several items are this one file. Only of these
 * must the hash be known to tell what is doubled.
 */
function twinsIn(pkg: Package, course: Course): Set<string> {
  const twins = new Set<string>();
  const first = new Map<string, string>();
  for (const { path } of course.files) {
    const entry = pkg.entries.get(path);
    if (!entry) continue;
    const sum = `${entry.crc32} ${entry.size}`;
    const before = first.get(sum);
    if (before === undefined) first.set(sum, path);
    else twins.add(before).add(path);
  }
  const shown = new Set<string>();
  for (const item of course.items) {
    if (item.kind !== 'file') continue;
    if (shown.has(item.file)) twins.add(item.file);
    shown.add(item.file);
  }
  return twins;
}

function readSheet(source: string): PageReading {
  const references = addressesInCss(source).map(({ value, start, end }): PageReference => ({
    use: 'style',
    value,
    line: source.slice(0, start).split('\n').length,
    element: null,
    at: { start, end },
    inStyle: true,
  }));
  return { ...emptyReading(), references };
}
