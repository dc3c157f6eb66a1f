import { portableEngine, type Engine } from './engine.ts';
import type { Entry, Package } from './package.ts';

/** A piece of a file. */
export interface ByteRange {
  offset: number;
  length: number;
}

/** Where bytes go, in order. */
export interface Sink {
  /** Has taken the bytes when it resolves: the array is then filled with others. */
  write(bytes: Uint8Array): Promise<void>;
  /**
   * Writes ranges of a file one after another, where that takes less than giving their bytes does. It need not be waited
   * for: what is written after it stands behind it.
   */
  copy?(from: string, ranges: readonly ByteRange[]): Promise<void>;
  /** Forgets all that was written. */
  rewind?(): Promise<void>;
}

/** From how many bytes on ranges are worth copying by themselves: what was gathered before them is written first. */
const RANGE = 1 << 18;
/** Of how many bytes each has to be, on the average: shorter ones are read faster by the window. */
const EACH = 1 << 13;
/** How many bytes of ranges are gathered before the sink hears of them. */
const GATHERED = 1 << 24;
/** How far a sink may be behind: about a second, so that progress is not told long before it is made. */
const LAG = 1 << 28;
/** The longest range that a sink is asked for at once, so that one of half a gigabyte is not waited for to its end. */
const STRETCH = 1 << 26;

interface Written {
  path: string;
  method: number;
  crc32: number;
  dosTime: number;
  flags: number;
  compressedSize: number;
  size: number;
}

const MAX32 = 0xffffffff;
const MAX16 = 0xffff;
/** 1 January 2026 00:00: generated entries carry one fixed date, so that the same course gives the same bytes. */
const FIXED_TIME = (((2026 - 1980) << 25) | (1 << 21) | (1 << 16)) >>> 0;
/** Names are UTF-8 (APPNOTE appendix D). */
const UTF8_FLAG = 0x0800;
/** Sizes follow the bytes; how hard it was deflated (APPNOTE 4.4.4). */
const DESCRIPTOR_FLAG = 0x0008;
const DEFLATE_FLAGS = 0x0006;
/** Of less, deflating saves a hundred bytes or two, and takes longer than all else that is done for an entry. */
const WORTH_PACKING = 512;

/**
 * Writes a zip whose entries are either new or copied from another package as compressed bytes: what did not change is
 * never inflated. ZIP64 where a number needs it. Small writes are gathered, so many small entries cost few calls.
 */
export class ZipWriter {
  private readonly directory = new CentralDirectory();
  private readonly sink: Sink;
  private readonly engine: Engine;
  private at = 0;
  private readonly buffer = new Uint8Array(1 << 20);
  private buffered = 0;
  /** Ranges of a package that come next, behind what is buffered. */
  private gathered: { from: Package; ranges: ByteRange[]; bytes: number } | null = null;
  /** Ranges that the sink may still be copying while more is made, the oldest first, and their bytes. */
  private readonly copies: { bytes: number; copied: Promise<void> }[] = [];
  private behind = 0;

  constructor(sink: Sink, engine: Engine = portableEngine) {
    this.sink = sink;
    this.engine = engine;
  }

  /** Copies an entry of another package under `path`. */
  async copy(path: string, from: Package, entry: Entry): Promise<void> {
    await this.begin({ ...entry, path, flags: UTF8_FLAG });
    await this.putRange(from, await from.dataStart(entry), entry.compressedSize);
  }

  /**
   * Copies entries under their own paths. Those that also stand one after another in the source go over in one piece,
   * headers included: of ten thousand small files that is most of the work.
   */
  async copyAll(from: Package, entries: readonly Entry[]): Promise<void> {
    for (let i = 0; i < entries.length;) {
      const run = from.runOf(entries, i, keepsItsName);
      const here = entries.slice(i, Math.max(run.end, i + 1));
      const [only] = here;
      if (run.bytes === 0 && only) await this.copy(only.path, from, only);
      else {
        for (const entry of here) this.directory.add(entry, this.at + entry.offset - run.start);
        await this.putRange(from, run.start, run.bytes);
      }
      i += here.length;
    }
  }

  /** Adds new bytes, deflated where that makes them smaller by more than it costs. */
  async add(path: string, bytes: Uint8Array): Promise<void> {
    const packed = bytes.length < WORTH_PACKING ? bytes : await this.engine.deflateRaw(bytes);
    const smaller = packed.length < bytes.length;
    const body = smaller ? packed : bytes;
    await this.begin({
      path,
      method: smaller ? 8 : 0,
      crc32: this.engine.crc32(bytes),
      dosTime: FIXED_TIME,
      flags: UTF8_FLAG,
      compressedSize: body.length,
      size: bytes.length,
    });
    await this.put(body);
  }

  /** Adds bytes of any length uncompressed. They are read twice: their checksum stands before them. */
  async store(path: string, size: number, chunks: () => AsyncIterable<Uint8Array>): Promise<void> {
    let crc32 = 0;
    for await (const part of chunks()) crc32 = this.engine.crc32(part, crc32);
    await this.begin({
      path,
      method: 0,
      crc32,
      dosTime: FIXED_TIME,
      flags: UTF8_FLAG,
      compressedSize: size,
      size,
    });
    for await (const part of chunks()) await this.put(part);
  }

  /** Adds bytes of a length not known beforehand, uncompressed: sizes and checksum follow them (APPNOTE 4.3.9). */
  async stream(path: string, chunks: AsyncIterable<Uint8Array>): Promise<void> {
    const flags = UTF8_FLAG | DESCRIPTOR_FLAG;
    const record = { path, method: 0, crc32: 0, dosTime: FIXED_TIME, flags, compressedSize: 0, size: 0 };
    const offset = this.at;
    await this.put(localHeader(record));
    for await (const part of chunks) {
      record.crc32 = this.engine.crc32(part, record.crc32);
      record.size += part.length;
      await this.put(part);
    }
    record.compressedSize = record.size;
    await this.put(dataDescriptor(record));
    this.directory.add(record, offset);
  }

  async finish(): Promise<{ size: number; entries: number }> {
    const start = this.at;
    const { bytes, entries } = this.directory;
    await this.put(bytes);
    await this.put(endRecords(entries, start, this.at - start));
    await this.flush();
    await this.catchUp(0);
    return { size: this.at, entries };
  }

  private async begin(entry: Written): Promise<void> {
    this.directory.add(entry, this.at);
    await this.put(localHeader(entry));
  }

  /** Puts a piece of the package as it stands. */
  private async putRange(from: Package, offset: number, length: number): Promise<void> {
    this.at += length;
    for (const end = offset + length; offset < end;) {
      if (this.gathered?.from !== from) {
        await this.putGathered();
        this.gathered = { from, ranges: [], bytes: 0 };
      }
      const here = Math.min(end - offset, STRETCH);
      this.gathered.ranges.push({ offset, length: here });
      this.gathered.bytes += here;
      offset += here;
      if (this.gathered.bytes >= GATHERED) await this.putGathered();
    }
  }

  private async putGathered(): Promise<void> {
    if (!this.gathered) return;
    const { from, ranges, bytes } = this.gathered;
    this.gathered = null;
    if (bytes < Math.max(RANGE, ranges.length * EACH) || from.sourceFile === null || !this.sink.copy) {
      for (const { offset, length } of ranges) {
        for await (const part of from.piece(offset, length)) await this.take(part);
      }
      return;
    }
    await this.flush();
    const copied = this.sink.copy(from.sourceFile, ranges);
    // A failure is heard of when it is waited for.
    copied.catch(() => undefined);
    this.copies.push({ bytes, copied });
    this.behind += bytes;
    await this.catchUp(LAG);
  }

  /** Waits until the sink is no more than so many bytes behind. */
  private async catchUp(most: number): Promise<void> {
    while (this.behind > most) {
      const oldest = this.copies.shift();
      this.behind -= oldest?.bytes ?? 0;
      await oldest?.copied;
    }
  }

  private async put(bytes: Uint8Array): Promise<void> {
    this.at += bytes.length;
    if (this.gathered) await this.putGathered();
    await this.take(bytes);
  }

  private async take(bytes: Uint8Array): Promise<void> {
    if (this.buffered + bytes.length > this.buffer.length) await this.flush();
    if (bytes.length >= this.buffer.length) {
      await this.sink.write(bytes);
      return;
    }
    this.buffer.set(bytes, this.buffered);
    this.buffered += bytes.length;
  }

  private async flush(): Promise<void> {
    if (this.buffered === 0) return;
    await this.sink.write(this.buffer.subarray(0, this.buffered));
    this.buffered = 0;
  }
}

/** Whether the entry's header can stand as it is: its path is its name, and its name is what the header says it is. */
function keepsItsName(entry: Entry): boolean {
  if (!entry.keepsName || entry.flags & ~(UTF8_FLAG | DESCRIPTOR_FLAG | DEFLATE_FLAGS)) return false;
  return entry.size < MAX32 && entry.compressedSize < MAX32;
}

const UTF8 = new TextEncoder();

/** Local file header (APPNOTE 4.3.7). Sizes are known beforehand, so no data descriptor follows. */
function localHeader(e: Written): Uint8Array {
  const big = e.size >= MAX32 || e.compressedSize >= MAX32;
  const name = UTF8.encode(e.path);
  const out = new Uint8Array(30 + name.length + (big ? 20 : 0));
  const view = new DataView(out.buffer);
  view.setUint32(0, 0x04034b50, true);
  view.setUint16(4, big ? 45 : 20, true);
  view.setUint16(6, e.flags, true);
  view.setUint16(8, e.method, true);
  view.setUint32(10, e.dosTime, true);
  view.setUint32(14, e.crc32, true);
  view.setUint32(18, big ? MAX32 : e.compressedSize, true);
  view.setUint32(22, big ? MAX32 : e.size, true);
  view.setUint16(26, name.length, true);
  view.setUint16(28, big ? 20 : 0, true);
  out.set(name, 30);
  if (big) {
    const at = 30 + name.length;
    view.setUint16(at, 1, true);
    view.setUint16(at + 2, 16, true);
    view.setBigUint64(at + 4, BigInt(e.size), true);
    view.setBigUint64(at + 12, BigInt(e.compressedSize), true);
  }
  return out;
}

/** Data descriptor (APPNOTE 4.3.9); its sizes are long where they need to be. */
function dataDescriptor(e: Written): Uint8Array {
  const big = e.size >= MAX32;
  const out = new Uint8Array(big ? 24 : 16);
  const view = new DataView(out.buffer);
  view.setUint32(0, 0x08074b50, true);
  view.setUint32(4, e.crc32, true);
  if (big) {
    view.setBigUint64(8, BigInt(e.size), true);
    view.setBigUint64(16, BigInt(e.size), true);
  } else {
    view.setUint32(8, e.size, true);
    view.setUint32(12, e.size, true);
  }
  return out;
}

/**
 * Central directory (APPNOTE 4.3.12), with the ZIP64 field (4.5.3) only for the numbers that need it. Its records are
 * kept as the bytes that they will be: of seventy thousand entries nothing else has to be remembered.
 */
class CentralDirectory {
  entries = 0;
  private held = new Uint8Array(1 << 14);
  private length = 0;

  get bytes(): Uint8Array {
    return this.held.subarray(0, this.length);
  }

  add(e: Written, offset: number): void {
    const fits = e.size < MAX32 && e.compressedSize < MAX32 && offset < MAX32;
    const large = fits ? [] : [e.size, e.compressedSize, offset].filter((n) => n >= MAX32);
    const extra = large.length > 0 ? 4 + 8 * large.length : 0;
    const start = this.length;
    // No unit of a string takes more than three bytes.
    this.makeRoom(46 + 3 * e.path.length + extra);
    const name = UTF8.encodeInto(e.path, this.held.subarray(start + 46)).written;
    const view = new DataView(this.held.buffer, start);
    view.setUint32(0, 0x02014b50, true);
    // Made on Unix (APPNOTE 4.4.2): programs then take the name's bytes as they are, and unpack plain readable files.
    view.setUint16(4, (3 << 8) | 45, true);
    view.setUint16(6, extra > 0 ? 45 : 20, true);
    view.setUint16(8, e.flags, true);
    view.setUint16(10, e.method, true);
    view.setUint32(12, e.dosTime, true);
    view.setUint32(16, e.crc32, true);
    view.setUint32(20, Math.min(e.compressedSize, MAX32), true);
    view.setUint32(24, Math.min(e.size, MAX32), true);
    view.setUint16(28, name, true);
    view.setUint16(30, extra, true);
    view.setUint32(38, (0o100644 << 16) >>> 0, true);
    view.setUint32(42, Math.min(offset, MAX32), true);
    let at = 46 + name;
    if (extra > 0) {
      view.setUint16(at, 1, true);
      view.setUint16(at + 2, extra - 4, true);
      at += 4;
      for (const n of large) {
        view.setBigUint64(at, BigInt(n), true);
        at += 8;
      }
    }
    this.length += at;
    this.entries++;
  }

  private makeRoom(bytes: number): void {
    if (this.length + bytes <= this.held.length) return;
    const wider = new Uint8Array(Math.max(this.length + bytes, 2 * this.held.length));
    wider.set(this.bytes);
    this.held = wider;
  }
}

/** End of central directory (APPNOTE 4.3.14 to 4.3.16). */
function endRecords(count: number, start: number, length: number): Uint8Array {
  const big = count >= MAX16 || start >= MAX32 || length >= MAX32;
  const out = new Uint8Array((big ? 76 : 0) + 22);
  const view = new DataView(out.buffer);
  let at = 0;
  if (big) {
    view.setUint32(0, 0x06064b50, true);
    view.setBigUint64(4, 44n, true);
    view.setUint16(12, 45, true);
    view.setUint16(14, 45, true);
    view.setBigUint64(24, BigInt(count), true);
    view.setBigUint64(32, BigInt(count), true);
    view.setBigUint64(40, BigInt(length), true);
    view.setBigUint64(48, BigInt(start), true);
    view.setUint32(56, 0x07064b50, true);
    view.setBigUint64(64, BigInt(start + length), true);
    view.setUint32(72, 1, true);
    at = 76;
  }
  view.setUint32(at, 0x06054b50, true);
  view.setUint16(at + 8, Math.min(count, MAX16), true);
  view.setUint16(at + 10, Math.min(count, MAX16), true);
  view.setUint32(at + 12, Math.min(length, MAX32), true);
  view.setUint32(at + 16, Math.min(start, MAX32), true);
  return out;
}
