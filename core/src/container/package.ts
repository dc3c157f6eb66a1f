import * as zip from '@zip.js/zip.js';
import { Refusal, problem, remark, type Note } from '../model/index.ts';
import { readChunks, type ByteSource } from './byte-source.ts';
import { collect, portableEngine, type Engine } from './engine.ts';
import { DEFAULT_LIMITS, type Limits } from './limits.ts';

zip.configure({ useWebWorkers: false });

/** One file of a package, as its directory describes it. */
export interface Entry {
  readonly path: string;
  /** The name's bytes as they stand in the directory, kept for copies that must not differ. */
  readonly rawName: Uint8Array;
  readonly size: number;
  readonly compressedSize: number;
  /** 0 stored, 8 deflated (APPNOTE 4.4.5). */
  readonly method: number;
  readonly crc32: number;
  /** MS-DOS date and time (APPNOTE 4.4.6). */
  readonly dosTime: number;
  /** Where the local header begins. */
  readonly offset: number;
}

/**
 * A zip over random access: its directory is read at once, bodies on demand. Nothing grows with the package but the
 * directory.
 */
export class Package {
  readonly entries: ReadonlyMap<string, Entry>;
  readonly notes: readonly Note[];
  private readonly source: ByteSource;
  private readonly engine: Engine;
  private readonly limits: Limits;

  constructor(source: ByteSource, engine: Engine, limits: Limits, entries: Map<string, Entry>, notes: Note[]) {
    this.source = source;
    this.engine = engine;
    this.limits = limits;
    this.entries = entries;
    this.notes = notes;
  }

  entry(path: string): Entry {
    const entry = this.entries.get(path);
    if (!entry) {
      throw new Refusal(
        problem('file-missing', `The package has no file ${path}.`, 'Export the course again.', { file: path }),
      );
    }
    return entry;
  }

  /** The compressed bytes, as they are. */
  async *raw(entry: Entry): AsyncGenerator<Uint8Array> {
    const start = await this.dataStart(entry);
    yield* readChunks(this.source, start, entry.compressedSize);
  }

  /** The inflated bytes; fails on a wrong size or CRC, and before inflating past the declared size. */
  async *stream(path: string): AsyncGenerator<Uint8Array> {
    const entry = this.entry(path);
    const small = entry.compressedSize <= 1 << 20 && entry.size <= 8 << 20;
    let size = 0;
    let crc = 0;
    for await (const part of small ? this.inflateSmall(entry) : this.inflate(entry)) {
      size += part.length;
      if (size > entry.size) throw damaged(entry, 'holds more than its directory says');
      crc = this.engine.crc32(part, crc);
      yield part;
    }
    if (size !== entry.size) throw damaged(entry, `holds ${size} bytes where its directory says ${entry.size}`);
    if (crc !== entry.crc32) throw damaged(entry, 'does not match its checksum');
  }

  async bytes(path: string, limit = this.limits.textBytes): Promise<Uint8Array> {
    const entry = this.entry(path);
    if (entry.size > limit) {
      throw new Refusal(
        problem(
          'text-too-long',
          `${path} has ${entry.size} bytes; texts are read up to ${limit}.`,
          'Take the file out of the package, or raise the limit.',
          { file: path },
        ),
      );
    }
    return collect(this.stream(path));
  }

  close(): Promise<void> {
    return this.source.close();
  }

  private async *inflateSmall(entry: Entry): AsyncGenerator<Uint8Array> {
    const raw = await this.source.read(await this.dataStart(entry), entry.compressedSize);
    if (entry.method === 0) yield raw;
    else if (this.engine.inflateWhole) {
      try {
        yield this.engine.inflateWhole(raw, Math.max(1, entry.size));
      } catch (error) {
        throw damaged(entry, 'can not be inflated', error);
      }
    } else yield* this.inflateParts(entry, this.raw(entry));
  }

  private inflate(entry: Entry): AsyncIterable<Uint8Array> {
    return entry.method === 0 ? this.raw(entry) : this.inflateParts(entry, this.raw(entry));
  }

  private async *inflateParts(entry: Entry, raw: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
    try {
      yield* this.engine.inflateRaw(raw);
    } catch (error) {
      throw error instanceof Refusal ? error : damaged(entry, 'can not be inflated', error);
    }
  }

  /** The local header repeats the name and has an extra field of its own length (APPNOTE 4.3.7). */
  private async dataStart(entry: Entry): Promise<number> {
    const header = await this.source.read(entry.offset, 30).catch((error: unknown) => {
      throw damaged(entry, 'lies outside the package', error);
    });
    const view = new DataView(header.buffer, header.byteOffset, header.byteLength);
    if (view.getUint32(0, true) !== 0x04034b50) throw damaged(entry, 'is not where the directory says');
    const start = entry.offset + 30 + view.getUint16(26, true) + view.getUint16(28, true);
    if (start + entry.compressedSize > this.source.size) throw damaged(entry, 'is cut off');
    return start;
  }
}

function damaged(entry: Entry, how: string, cause?: unknown): Refusal {
  return new Refusal(
    problem('entry-damaged', `${entry.path} ${how}.`, 'Download or export the package again.', { file: entry.path }),
    { cause },
  );
}

function refuse(code: string, message: string, action: string, file?: string): Refusal {
  return new Refusal(problem(code, message, action, { file }));
}

class SourceReader extends zip.Reader<ByteSource> {
  private readonly bytes: ByteSource;

  constructor(bytes: ByteSource) {
    super(bytes);
    this.bytes = bytes;
  }

  override async init(): Promise<void> {
    await super.init?.();
    this.size = this.bytes.size;
  }

  override readUint8Array(offset: number, length: number): Promise<Uint8Array> {
    return this.bytes.read(offset, Math.min(length, this.bytes.size - offset));
  }
}

// Control characters and direction overrides make a name show as something that it is not.
// eslint-disable-next-line no-control-regex
const DECEPTIVE = /[\u0000-\u001f\u007f\u202a-\u202e\u2066-\u2069]/;

/** The path an entry stands for, or a refusal if it would leave the folder it is unpacked into. */
function safePath(name: string, limits: Limits, notes: Note[]): string {
  if (name.length > limits.nameLength) {
    throw refuse('name-too-long', `A file name has ${name.length} characters.`, 'Rename the file.');
  }
  if (DECEPTIVE.test(name)) {
    throw refuse(
      'name-deceptive',
      `The file name ${JSON.stringify(name)} has control characters.`,
      'Rename the file at its source and export again.',
    );
  }
  const path = name.replaceAll('\\', '/');
  if (path.startsWith('/') || /^[A-Za-z]:/.test(path) || path.split('/').includes('..')) {
    throw refuse(
      'entry-leaves-package',
      `The entry ${name} would be written outside the package's folder.`,
      'Do not unpack this file by other means. Ask whoever made it for a clean export.',
      name,
    );
  }
  if (path !== name) {
    notes.push(
      remark('path-backslash', `${name} is written with backslashes.`, 'Nothing; it was read.', { file: path }),
    );
  }
  return path
    .split('/')
    .filter((segment) => segment !== '.' && segment !== '')
    .join('/');
}

export interface OpenOptions {
  engine?: Engine;
  limits?: Partial<Limits>;
}

/**
 * Reads a zip's directory and judges it before anything is inflated.
 * @throws Refusal `not-a-zip`, `zip-truncated`, `zip-encrypted`, `zip-method`, `zip-bomb`, `zip-overlap`,
 *   `zip-too-many`, `entry-leaves-package`, `name-deceptive`, `name-too-long`
 */
export async function openPackage(source: ByteSource, options: OpenOptions = {}): Promise<Package> {
  const limits = { ...DEFAULT_LIMITS, ...options.limits };
  const listed = await listEntries(source, limits);
  const notes: Note[] = [];
  const entries = new Map<string, Entry>();
  let total = 0;
  for (const found of listed) {
    if (found.directory) {
      safePath(found.filename, limits, notes);
      continue;
    }
    const entry = toEntry(found, limits, notes);
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
        remark('entry-repeated', `The package holds ${entry.path} more than once.`, 'The last one was read.', {
          file: entry.path,
        }),
      );
    }
    entries.set(entry.path, entry);
  }
  refuseOverlaps(listed);
  return new Package(source, options.engine ?? portableEngine, limits, entries, notes);
}

async function listEntries(source: ByteSource, limits: Limits): Promise<zip.Entry[]> {
  const head = source.size >= 4 ? await source.read(0, 4) : new Uint8Array();
  const looksZip = head[0] === 0x50 && head[1] === 0x4b;
  try {
    const reader = new zip.ZipReader(new SourceReader(source), {
      // Names are judged here, where a refusal can say what is wrong and what to do.
      filenameValidation: 'tolerant',
    });
    const found: zip.Entry[] = [];
    for await (const entry of reader.getEntriesGenerator()) {
      found.push(entry);
      if (found.length > limits.entries) {
        throw refuse(
          'zip-too-many',
          `The package has more than ${limits.entries} files.`,
          'Split it, or raise the limit.',
        );
      }
    }
    return found;
  } catch (error) {
    if (error instanceof Refusal) throw error;
    throw new Refusal(
      looksZip
        ? problem(
            'zip-truncated',
            'The file begins as a zip, but its end is missing or damaged: the download or the copy broke off.',
            'Download or export it again.',
          )
        : problem('not-a-zip', 'This is not a zip file.', 'Choose the package as the platform exported it.'),
      { cause: error },
    );
  }
}

function toEntry(found: zip.Entry, limits: Limits, notes: Note[]): Entry {
  const path = safePath(found.filename, limits, notes);
  if (found.encrypted) {
    throw refuse('zip-encrypted', `${path} is encrypted.`, 'Save the package without a password.', path);
  }
  if (found.compressionMethod !== 0 && found.compressionMethod !== 8) {
    throw refuse(
      'zip-method',
      `${path} is compressed by method ${found.compressionMethod}, which only few programs read.`,
      'Zip the files again with ordinary (deflate) compression.',
      path,
    );
  }
  if (found.uncompressedSize > limits.ratioFrom && found.uncompressedSize > found.compressedSize * limits.ratio) {
    throw refuse(
      'zip-bomb',
      `${path} would grow from ${found.compressedSize} to ${found.uncompressedSize} bytes.`,
      'Leave this file out of the package, or raise the limit if you know it.',
      path,
    );
  }
  return {
    path,
    rawName: found.rawFilename,
    size: found.uncompressedSize,
    compressedSize: found.compressedSize,
    method: found.compressionMethod,
    crc32: (found.signature ?? 0) >>> 0,
    dosTime: Number(found.rawLastModDate) >>> 0,
    offset: found.offset,
  };
}

/** Overlapping entries let a small file unpack to any size (each counted once, stored once, inflated many times). */
function refuseOverlaps(listed: readonly zip.Entry[]): void {
  const byOffset = [...listed].sort((a, b) => a.offset - b.offset);
  for (let i = 1; i < byOffset.length; i++) {
    const before = byOffset[i - 1];
    const here = byOffset[i];
    if (before && here && before.offset + 30 + before.compressedSize > here.offset) {
      throw refuse(
        'zip-overlap',
        `${before.filename} and ${here.filename} claim the same bytes of the package.`,
        'Do not unpack this file by other means. Ask whoever made it for a clean export.',
        here.filename,
      );
    }
  }
}
