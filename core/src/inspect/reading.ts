import { collect, type Engine, type Package } from '../container/index.ts';
import {
  addressesInCss,
  decodeText,
  emptyReading,
  fold,
  readPage,
  type PageReading,
  type PageReference,
} from '../markup/index.ts';
import { Refusal, type Course, type CourseFile, type Item, type Problem, type RichText } from '../model/index.ts';
import { bytesForMarks, marksOf } from './file-marks.ts';
import { HOUSE_RULES, type FindingOptions } from './findings/contract.ts';
import { PassageEye, type Seen } from './findings/index.ts';
import { Bearings, type CourseLink } from './links.ts';
import { PAGE_PART } from './passages.ts';

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
}

/** What reading one file found. */
export interface FileRead {
  path: string;
  /** `null` where it could not be read to its end. */
  sha256: string | null;
  refused: Problem | null;
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
}

const PAGE_BYTES = 16 * 2 ** 20;
const SMALL = 2 ** 20;
export const STYLE_PART = 'style sheet';

/** Reads the files of one course, each by itself: what it needs of the others is only where they are. */
export class FileReader {
  private readonly pkg: Package;
  private readonly engine: Engine;
  private readonly options: ReadingOptions;
  private readonly bearings: Bearings;
  private readonly eye: PassageEye | null;
  private readonly pages = new Map<string, Item>();

  constructor(pkg: Package, course: Course, engine: Engine, options: ReadingOptions) {
    this.pkg = pkg;
    this.engine = engine;
    this.options = options;
    this.bearings = new Bearings(course, pkg.entries.keys(), options.findings?.known);
    this.eye = options.findings ? new PassageEye(course, options.findings) : null;
    for (const item of course.items) if (item.kind === 'page') this.pages.set(item.file, item);
  }

  /** Hashes a file and, where it is a page or a style sheet, takes its text and links. Only pages are held. */
  async read(file: CourseFile): Promise<FileRead> {
    const found: FileRead = { path: file.path, sha256: null, refused: null, marks: [], passage: null, print: null };
    const { findings } = this.options;
    const short = file.size <= (this.options.pageBytes ?? PAGE_BYTES);
    const page = short ? this.pages.get(file.path) : undefined;
    const sheet = short && file.role === 'content' && file.mediaType === 'text/css';
    const telling = findings ? bytesForMarks(file.path, file.size) : 0;
    try {
      const { sha256, bytes } = await this.hashed(file.path, page || sheet ? this.pkg.entry(file.path).size : telling);
      found.sha256 = sha256;
      if (!bytes) return found;
      if (findings && telling > 0) {
        found.marks = await marksOf(file.path, bytes, findings.house ?? HOUSE_RULES, this.engine);
      }
      if (page) {
        const source = decodeText(bytes);
        const passage = this.passage(page, PAGE_PART, file.path, source, readPage(source));
        found.passage = passage;
        found.print = digest(this.engine, passage.text);
      } else if (sheet) {
        const source = decodeText(bytes);
        found.passage = this.passage(null, STYLE_PART, file.path, source, readSheet(source));
      }
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      found.refused = error.problem;
    }
    return found;
  }

  /** A text of an item that is no page; `null` where there is nothing to read. */
  text(item: Item, part: string, { format, text }: RichText): PassageRead | null {
    if (text === '') return null;
    const reading = format === 'html' ? readPage(text) : { ...emptyReading(), text: fold(text) };
    return this.passage(item, part, item.place, text, reading);
  }

  private passage(
    item: Item | null,
    part: string,
    file: string | null,
    source: string,
    reading: PageReading,
  ): PassageRead {
    const links = this.bearings.resolve(reading, { item: item?.id ?? null, part, file });
    return {
      item: item?.id ?? null,
      text: reading.text,
      language: reading.lang.toLowerCase(),
      anchors: reading.anchors,
      links,
      seen: this.eye?.see({ item, part, file, source, reading, links }) ?? [],
    };
  }

  /** Hashes a file, and keeps its first bytes, as many as are wanted. */
  private async hashed(path: string, wanted: number): Promise<{ sha256: string; bytes: Uint8Array | null }> {
    if (this.pkg.entry(path).size <= SMALL) {
      const whole = await collect(this.pkg.stream(path));
      return { sha256: this.engine.digest(whole), bytes: wanted > 0 ? whole.subarray(0, wanted) : null };
    }
    const hash = this.engine.sha256();
    const bytes = wanted > 0 ? new Uint8Array(wanted) : null;
    let at = 0;
    for await (const part of this.pkg.stream(path)) {
      hash.update(part);
      if (!bytes || at >= wanted) continue;
      const piece = part.subarray(0, wanted - at);
      bytes.set(piece, at);
      at += piece.length;
    }
    return { sha256: hash.hex(), bytes: bytes?.subarray(0, at) ?? null };
  }
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

const UTF8 = new TextEncoder();

export function digest(engine: Pick<Engine, 'digest'>, text: string): string {
  return engine.digest(UTF8.encode(text));
}
