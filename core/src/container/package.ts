import { Refusal, problem, remark, warning, type Note } from '../model/index.ts';
import { straighten } from './accidents.ts';
import { decodeName, readDirectory } from './directory.ts';
import { joinedSource, readChunks, withReadAhead, type ByteSource } from './byte-source.ts';
import { collect, portableEngine, type Engine } from './engine.ts';
import { DEFAULT_LIMITS, type Limits } from './limits.ts';
import { refuse, DECEPTIVE_ALL, safePath, toEntry, type Extent, refuseOverlaps } from './judge.ts';

/** One file of a package, as its directory describes it. */
export interface Entry {
  readonly path: string;
  /** Bytes that its name takes in its local header. */
  readonly nameLength: number;
  /** Its name as the bytes in the directory read by themselves; its path was straightened. */
  readonly rawName: string;
  /** The header says this path, in an encoding that it names, so it can be copied with it. */
  readonly keepsName: boolean;
  readonly size: number;
  readonly compressedSize: number;
  /** 0 stored, 8 deflated (APPNOTE 4.4.5). */
  readonly method: number;
  readonly crc32: number;
  /** MS-DOS date and time (APPNOTE 4.4.6). */
  readonly dosTime: number;
  /** General purpose bits (APPNOTE 4.4.4). */
  readonly flags: number;
  /** Where the local header begins. */
  readonly offset: number;
}

/** Files of up to so many bytes are kept when they were read, up to so many bytes in all. */
const SMALL = 1 << 11;
const SMALL_FILES = 4 << 20;

/**
 * A zip over random access: its directory is read at once, bodies on demand. Nothing grows with the package but the
 * directory.
 */
export class Package {
  readonly entries: ReadonlyMap<string, Entry>;
  readonly notes: readonly Note[];
  private readonly source: ByteSource;
  private readonly engine: Engine;
  readonly limits: Limits;
  /** Small files that were read: what a course is made of is read again to be written. */
  private readonly read = new Map<string, Uint8Array>();
  private room = SMALL_FILES;
  /** Where the source's entries begin, in order, whether or not they are entries of this package. */
  private readonly starts: Float64Array<ArrayBuffer>;
  /** Of entries whose own header says something else than the directory, what it says, by where they begin. */
  private readonly headerMismatches: Map<number, string>;
  private ownCacheKey: object = {};

  constructor(
    source: ByteSource,
    engine: Engine,
    limits: Limits,
    entries: Map<string, Entry>,
    notes: readonly Note[],
    starts = Float64Array.from(entries.values(), (e) => e.offset).sort(),
    otherwise = new Map<number, string>(),
  ) {
    this.source = source;
    this.engine = engine;
    this.limits = limits;
    this.entries = entries;
    this.notes = notes;
    this.starts = starts;
    this.headerMismatches = otherwise;
  }

  /** What is made of the package is kept as long as this is the same: see `onceFor`. */
  get cacheKey(): object {
    return this.ownCacheKey;
  }

  /** Lets go of all that was made of it. */
  release(): void {
    this.ownCacheKey = {};
  }

  /** The file it is read from; `null` where it is none, or more than one. */
  get sourceFile(): string | null {
    return this.source.file ?? null;
  }

  /** The same package with more notes. */
  with(notes: readonly Note[]): Package {
    const entries = new Map(this.entries);
    const { source, engine, limits, starts, headerMismatches: otherwise } = this;
    return new Package(source, engine, limits, entries, [...notes, ...this.notes], starts, otherwise);
  }

  /**
   * The package as it would be with some files replaced, added, renamed or taken out. Nothing is copied: what is new
   * lies in `added`, a package of its own that is read as if it stood behind this one.
   */
  overlaid(
    added: Package,
    changes: {
      removed: ReadonlySet<string>;
      renamed: ReadonlyMap<string, string>;
      /** What is taken of `added`: all of it, where it is not given. */
      only?: ReadonlySet<string>;
    },
  ): Package {
    const entries = new Map<string, Entry>();
    for (const [path, entry] of this.entries) {
      const name = changes.renamed.get(path) ?? path;
      if (changes.removed.has(path)) continue;
      entries.set(name, name === path ? entry : { ...entry, path: name, keepsName: false });
    }
    for (const [path, entry] of added.entries) {
      if (changes.only?.has(path) === false) continue;
      entries.set(path, { ...entry, offset: entry.offset + this.source.size });
    }
    const source = joinedSource(this.source, added.source);
    const starts = new Float64Array(this.starts.length + added.starts.length);
    starts.set(this.starts);
    starts.set(
      added.starts.map((start) => start + this.source.size),
      this.starts.length,
    );
    return new Package(source, this.engine, this.limits, entries, this.notes, starts, this.headerMismatches);
  }

  entry(path: string): Entry {
    const entry = this.entries.get(path);
    if (!entry) {
      throw new Refusal(
        problem('file-missing', `The package has no file ${path}.`, { file: path }, 'Export the course again.'),
      );
    }
    return entry;
  }

  /**
   * What an entry's own header says that the directory does not, as far as it is known: headers are read with what
   * stands behind them. Programs that read a zip from its beginning believe the header; here the directory is believed.
   */
  contradictionOf(path: string): string | null {
    const entry = this.entries.get(path);
    return (entry && this.headerMismatches.get(entry.offset)) ?? null;
  }

  /** The same, where another reader of the same file came upon it. */
  contradicts(path: string, says: string): void {
    const entry = this.entries.get(path);
    if (entry) this.headerMismatches.set(entry.offset, says);
  }

  /** All that are known, as notes. */
  contradictions(): Note[] {
    if (this.headerMismatches.size === 0) return [];
    return [...this.entries.values()].flatMap(({ path, offset }) => {
      const says = this.headerMismatches.get(offset);
      return says === undefined ? [] : [contradiction(path, says)];
    });
  }

  /** The compressed bytes, as they are. */
  async *raw(entry: Entry): AsyncGenerator<Uint8Array> {
    const start = await this.dataStart(entry);
    yield* readChunks(this.source, start, entry.compressedSize);
  }

  /** The inflated bytes; fails on a wrong size or CRC, and before inflating past the declared size. */
  async *stream(path: string): AsyncGenerator<Uint8Array> {
    const entry = this.entry(path);
    if (this.isSmall(entry)) {
      yield await this.whole(entry);
      return;
    }
    const raw = this.raw(entry);
    let size = 0;
    let crc = 0;
    for await (const part of entry.method === 0 ? raw : this.inflate(entry, raw)) {
      size += part.length;
      if (size > entry.size) throw damaged(entry, 'holds more than its directory says');
      crc = this.engine.crc32(part, crc);
      yield part;
    }
    this.prove(entry, size, crc);
  }

  /**
   * How far a run of entries reaches that stand one after another in the package as they do in `order`, beginning at
   * `from`, with nothing between them: they can be copied in one piece, headers included. `end` is the index after the
   * last, `bytes` the extent; a run may have no entry. An entry that is known to say something else of itself is in none.
   */
  runOf(
    order: readonly Entry[],
    from: number,
    fits: (entry: Entry) => boolean,
  ): { end: number; start: number; bytes: number } {
    const start = order[from]?.offset ?? 0;
    let stop = start;
    let end = from;
    for (let entry = order[end]; entry?.offset === stop && fits(entry); entry = order[++end]) {
      if (this.headerMismatches.has(entry.offset)) break;
      const next = this.startAfter(entry.offset);
      // Behind an entry stands at most an extra field and a data descriptor (APPNOTE 4.3.9); more would be stowaways.
      const gap = next - (entry.offset + 30 + entry.nameLength + entry.compressedSize);
      if (gap < 0 || gap > RUN_GAP) break;
      stop = next;
    }
    return { end, start, bytes: stop - start };
  }

  /** Where the next entry begins in the source; nowhere, behind the last one. */
  private startAfter(offset: number): number {
    let low = 0;
    let high = this.starts.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.starts[middle] ?? 0) <= offset) low = middle + 1;
      else high = middle;
    }
    return this.starts[low] ?? Number.POSITIVE_INFINITY;
  }

  /** A piece of the package as it stands. */
  piece(start: number, bytes: number): AsyncGenerator<Uint8Array> {
    return readChunks(this.source, start, bytes);
  }

  /** The inflated bytes, which are to be left as they are. */
  async bytes(path: string, limit = this.limits.textBytes): Promise<Uint8Array> {
    const entry = this.entry(path);
    if (entry.size > limit) {
      throw new Refusal(
        problem('text-too-long', `${path} has ${entry.size} bytes; texts are read up to ${limit}.`, { file: path }),
      );
    }
    const before = this.read.get(path);
    if (before) return before;
    const bytes = this.isSmall(entry) ? await this.whole(entry) : await collect(this.stream(path));
    if (bytes.length > SMALL || bytes.length > this.room) return bytes;
    this.room -= bytes.length;
    // What is given may share its memory with a window of the source.
    const kept = bytes.slice();
    this.read.set(path, kept);
    return kept;
  }

  close(): Promise<void> {
    return this.source.close();
  }

  private isSmall({ method, compressedSize, size }: Entry): boolean {
    if (compressedSize > 1 << 20 || size > 8 << 20) return false;
    return method === 0 || this.engine.inflateWhole !== undefined;
  }

  /** All of a small entry, without a stream, which costs more than its bytes. */
  private async whole(entry: Entry): Promise<Uint8Array> {
    const raw = await this.source.read(await this.dataStart(entry), entry.compressedSize);
    const bytes = entry.method === 0 ? raw : this.inflated(entry, raw);
    this.prove(entry, bytes.length, this.engine.crc32(bytes));
    return bytes;
  }

  private inflated(entry: Entry, raw: Uint8Array): Uint8Array {
    try {
      return this.engine.inflateWhole?.(raw, Math.max(1, entry.size)) ?? new Uint8Array();
    } catch (error) {
      throw damaged(entry, 'can not be inflated', error);
    }
  }

  private prove(entry: Entry, size: number, crc: number): void {
    if (size > entry.size) throw damaged(entry, 'holds more than its directory says');
    if (size !== entry.size) throw damaged(entry, `holds ${size} bytes where its directory says ${entry.size}`);
    if (crc !== entry.crc32) throw damaged(entry, 'does not match its checksum');
  }

  private async *inflate(entry: Entry, raw: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
    try {
      yield* this.engine.inflateRaw(raw);
    } catch (error) {
      throw error instanceof Refusal ? error : damaged(entry, 'can not be inflated', error);
    }
  }

  /** Where its compressed bytes begin. @throws Refusal `entry-damaged` where they do not lie in the package */
  async dataStart(entry: Entry): Promise<number> {
    const header = await this.source.read(entry.offset, 30 + entry.nameLength).catch((error: unknown) => {
      throw damaged(entry, 'lies outside the package', error);
    });
    const start = entry.offset + headerLength(entry, header);
    const says = contradictionIn(entry, header);
    if (says !== null) this.headerMismatches.set(entry.offset, says);
    if (start + entry.compressedSize > this.source.size) throw damaged(entry, 'is cut off');
    return start;
  }
}

/** The local header repeats the name and has an extra field of its own length (APPNOTE 4.3.7). */
function headerLength(entry: Entry, header: Uint8Array): number {
  const view = new DataView(header.buffer, header.byteOffset, header.byteLength);
  if (view.getUint32(0, true) !== 0x04034b50) throw damaged(entry, 'is not where the directory says');
  return 30 + view.getUint16(26, true) + view.getUint16(28, true);
}

/**
 * What a local header, its name behind it, says otherwise than the directory (APPNOTE 4.3.7); `null` where they agree.
 * Sizes and checksum are only there where they do not follow in a descriptor (bit 3) and are not too long for the header.
 */
function contradictionIn(entry: Entry, header: Uint8Array): string | null {
  const view = new DataView(header.buffer, header.byteOffset, header.byteLength);
  const rawName = header.subarray(30);
  const length = view.getUint16(26, true);
  if (length !== entry.nameLength || decodeName(rawName) !== entry.rawName) {
    const name = decodeName(rawName.subarray(0, Math.min(length, SHOWN)));
    if (name.replaceAll('\\', '/') !== entry.path) return `calls itself “${name.replaceAll(DECEPTIVE_ALL, '\ufffd')}”`;
  }
  const flags = view.getUint16(6, true);
  if (flags & 1) return 'says that it is encrypted';
  if (view.getUint16(8, true) !== entry.method) return 'says that it is compressed otherwise';
  const size = view.getUint32(22, true);
  if (flags & 8 || size === 0xffffffff) return null;
  if (size !== entry.size) return `says that it has ${size} bytes`;
  if (view.getUint32(14, true) !== entry.crc32) return 'has another checksum';
  return null;
}

function contradiction(path: string, says: string): Note {
  return warning(
    'header-contradicts',
    `${path} ${says} in its own header; what the package’s directory says was read.`,
    { file: path },
  );
}

/** Characters of a name that are shown where it is not to be trusted. */
const SHOWN = 200;

/** What stands behind an entry in a run: times, owners, long sizes and a descriptor take less; an entry of its own hardly. */
const RUN_GAP = 64;

function damaged(entry: Entry, how: string, cause?: unknown): Refusal {
  return new Refusal(problem('entry-damaged', `${entry.path} ${how}.`, { file: entry.path }), { cause });
}

export interface OpenOptions {
  engine?: Engine;
  limits?: Partial<Limits>;
  /** Files that archives are known by at their top: everything around them is one folder too many. */
  landmarks?: readonly string[];
}

/**
 * Reads a zip's directory and judges it before anything is inflated.
 * @throws Refusal `not-a-zip`, `zip-truncated`, `zip-encrypted`, `zip-method`, `zip-bomb`, `zip-overlap`,
 *   `zip-too-many`, `entry-link`, `entry-leaves-package`, `name-deceptive`, `name-too-long`
 */
export async function openPackage(source: ByteSource, options: OpenOptions = {}): Promise<Package> {
  const limits = { ...DEFAULT_LIMITS, ...options.limits };
  const engine = options.engine ?? portableEngine;
  const notes: Note[] = [];
  const entries = new Map<string, Entry>();
  const extents: Extent[] = [];
  let total = 0;
  for (const found of await readDirectory(source, engine, limits)) {
    const path = safePath(found.name, limits, notes);
    extents.push({ path, start: found.offset, end: found.offset + 30 + found.compressedSize });
    if (found.kind === 'folder') continue;
    const entry = toEntry(found, path, limits, notes);
    total += entry.size;
    if (total > limits.totalBytes) {
      throw refuse(
        'zip-bomb',
        'The package would unpack to more than the limit.',
        'Split the course, or raise the limit.',
      );
    }
    if (entries.has(entry.path)) {
      notes.push(
        remark('entry-repeated', `The package holds ${entry.path} more than once.`, {
          file: entry.path,
        }),
      );
    }
    entries.set(entry.path, entry);
  }
  refuseOverlaps(extents);
  const starts = Float64Array.from(extents, (e) => e.start);
  return new Package(
    withReadAhead(source),
    engine,
    limits,
    straighten(entries, notes, options.landmarks),
    notes,
    starts,
  );
}
