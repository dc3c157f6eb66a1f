import * as zip from '@zip.js/zip.js';
import { Refusal, problem } from '../model/index.ts';
import type { ByteSource } from './byte-source.ts';
import type { Engine } from './engine.ts';
import type { Limits } from './limits.ts';

zip.configure({ useWebWorkers: false });

/** One record of a zip's central directory (APPNOTE 4.3.12), as it stands: nothing of it is trusted yet. */
export interface DirectoryRecord {
  name: string;
  /** Bytes of the name as it stands in the directory. */
  nameLength: number;
  /** Those bytes as `decodeName` reads them: nearly always the name itself. */
  rawName: string;
  /** How the name's bytes were understood. */
  encoding: 'utf-8' | 'cp437';
  /** The name's bytes are UTF-8 by the record's own word: ASCII, or flagged (APPNOTE appendix D). */
  saysUtf8: boolean;
  flags: number;
  method: number;
  dosTime: number;
  crc32: number;
  compressedSize: number;
  size: number;
  offset: number;
  kind: 'file' | 'folder' | 'link';
}

class SourceReader extends zip.Reader<ByteSource> {
  private readonly bytes: ByteSource;
  constructor(bytes: ByteSource) {
    super(bytes);
    this.bytes = bytes;
  }
  /** Not `async`: where async functions are lowered to generators, `super` would stand outside its method. */
  override init(): Promise<void> {
    this.size = this.bytes.size;
    return Promise.resolve(super.init?.());
  }
  override readUint8Array(offset: number, length: number): Promise<Uint8Array> {
    return this.bytes.read(offset, Math.min(length, this.bytes.size - offset));
  }
}

const RECORD = 0x02014b50;
const MAX32 = 0xffffffff;

/**
 * The records of a zip's directory. zip.js finds the directory (its end record, ZIP64, bytes put before the zip, a
 * wrong offset) and makes sure that it is one. The records themselves are read here: they are judged one by one, and of
 * seventy thousand of them nothing is kept that is not needed, which costs a twentieth of the time and the memory.
 * @throws Refusal `not-a-zip`, `zip-truncated`, `zip-too-many`
 */
export async function readDirectory(
  source: ByteSource,
  engine: Pick<Engine, 'crc32'>,
  limits: Limits,
): Promise<Iterable<DirectoryRecord>> {
  const found = await locate(source);
  if (!found) return [];
  const length = source.size - found.start;
  if (length > limits.directoryBytes) throw tooMany(limits);
  return recordsIn(await source.read(found.start, length), found.shift, engine, limits);
}

function* recordsIn(
  bytes: Uint8Array,
  shift: number,
  engine: Pick<Engine, 'crc32'>,
  limits: Limits,
): Generator<DirectoryRecord> {
  const view = viewOf(bytes);
  let many = 0;
  for (let at = 0; at + 46 <= bytes.length && view.getUint32(at, true) === RECORD;) {
    if (many++ === limits.entries) throw tooMany(limits);
    const end = at + 46 + view.getUint16(at + 28, true) + view.getUint16(at + 30, true) + view.getUint16(at + 32, true);
    if (end > bytes.length) throw truncated();
    yield readRecord(bytes, view, at, shift, engine);
    at = end;
  }
}

/** Where the directory begins, and by how much its offsets are off because of bytes put before the zip. */
async function locate(source: ByteSource): Promise<{ start: number; shift: number } | null> {
  const head = source.size >= 4 ? await source.read(0, 4) : new Uint8Array();
  const looksZip = head[0] === 0x50 && head[1] === 0x4b;
  const reader = new zip.ZipReader(new SourceReader(source), { filenameValidation: 'tolerant' });
  try {
    const first = await reader.getEntriesGenerator().next();
    // Not among its types, though documented.
    const start = (reader as unknown as { directoryOffset: number }).directoryOffset;
    if (first.done) return null;
    const raw = viewOf(await source.read(start, 46)).getUint32(42, true);
    return { start, shift: raw === MAX32 ? 0 : first.value.offset - raw };
  } catch (error) {
    throw looksZip ? truncated(error) : notAZip(error);
  }
}

function viewOf(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}

function readRecord(
  bytes: Uint8Array,
  view: DataView,
  at: number,
  shift: number,
  engine: Pick<Engine, 'crc32'>,
): DirectoryRecord {
  const nameEnd = at + 46 + view.getUint16(at + 28, true);
  const extraEnd = nameEnd + view.getUint16(at + 30, true);
  const rawName = bytes.subarray(at + 46, nameEnd);
  const flags = view.getUint16(at + 8, true);
  let size = view.getUint32(at + 24, true);
  let compressedSize = view.getUint32(at + 20, true);
  let offset = view.getUint32(at + 42, true);
  let unicode: string | null = null;
  for (let field = nameEnd; field + 4 <= extraEnd;) {
    const id = view.getUint16(field, true);
    const end = Math.min(extraEnd, field + 4 + view.getUint16(field + 2, true));
    let next = field + 4;
    // ZIP64 extended information (APPNOTE 4.5.3): only the numbers that did not fit, in this order.
    const long = (): number => {
      if (next + 8 > end) throw truncated();
      next += 8;
      return Number(view.getBigUint64(next - 8, true));
    };
    if (id === 0x0001) {
      if (size === MAX32) size = long();
      if (compressedSize === MAX32) compressedSize = long();
      if (offset === MAX32) offset = long();
    } else if (id === 0x7075 && end - field > 9 && view.getUint32(field + 5, true) === engine.crc32(rawName)) {
      // Info-ZIP Unicode path (APPNOTE 4.6.9); its checksum says that it still is this name's.
      unicode = decodeUtf8(bytes.subarray(field + 9, end));
    }
    field = end;
  }
  const utf8 = unicode ?? decodeUtf8(rawName);
  const name = utf8 ?? (flags & 0x0800 ? new TextDecoder().decode(rawName) : decodeCp437(rawName));
  return {
    name,
    nameLength: rawName.length,
    rawName: unicode === null && utf8 !== null ? utf8 : decodeName(rawName),
    encoding: utf8 === null ? 'cp437' : 'utf-8',
    // As many characters as bytes: ASCII.
    saysUtf8: unicode === null && utf8 !== null && ((flags & 0x0800) !== 0 || utf8.length === rawName.length),
    flags,
    method: view.getUint16(at + 10, true),
    dosTime: view.getUint32(at + 12, true),
    crc32: view.getUint32(at + 16, true),
    compressedSize,
    size,
    offset: offset + shift,
    kind: kindOf(name, view.getUint16(at + 4, true) >> 8, view.getUint32(at + 38, true)),
  };
}

/** By the host's attributes (APPNOTE 4.4.2, 4.4.15) and by the slash at the end of folders' names. */
function kindOf(name: string, host: number, attributes: number): DirectoryRecord['kind'] {
  const unixType = (attributes >>> 28) & 0xf;
  if (host === 3 && unixType === 0xa) return 'link';
  const folder = name.endsWith('/') || name.endsWith('\\') || (host === 3 && unixType === 4);
  return folder || (host === 0 && (attributes & 0x10) !== 0) ? 'folder' : 'file';
}

const UTF8 = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });

function decodeUtf8(bytes: Uint8Array): string | null {
  try {
    return UTF8.decode(bytes);
  } catch {
    return null;
  }
}

/** The upper half of code page 437 (APPNOTE appendix D), which text decoders do not know. */
const CP437 =
  'ÇüéâäàåçêëèïîìÄÅÉæÆôöòûùÿÖÜ¢£¥₧ƒáíóúñÑªº¿⌐¬½¼¡«»░▒▓│┤╡╢╖╕╣║╗╝╜╛┐└┴┬├─┼╞╟╚╔╩╦╠═╬╧╨╤╥╙╘╒╓╫╪┘┌█▄▌▐▀αßΓπΣσµτΦΘΩδ∞φε∩≡±≥≤⌠⌡÷≈°∙·√ⁿ²■\u00a0';

/** A name's bytes read as a record without a word about them is. */
export function decodeName(bytes: Uint8Array): string {
  return decodeUtf8(bytes) ?? decodeCp437(bytes);
}

function decodeCp437(bytes: Uint8Array): string {
  return Array.from(bytes, (b) => (b < 128 ? String.fromCharCode(b) : (CP437[b - 128] ?? '\ufffd'))).join('');
}

function truncated(cause?: unknown): Refusal {
  return new Refusal(
    problem(
      'zip-truncated',
      'The file begins as a zip, but its end is missing or damaged: the download or the copy broke off.',
    ),
    { cause },
  );
}

function notAZip(cause: unknown): Refusal {
  return new Refusal(problem('not-a-zip', 'This is not a zip file.'), { cause });
}

function tooMany(limits: Limits): Refusal {
  return new Refusal(problem('zip-too-many', `The package has more than ${limits.entries} files.`));
}
