import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { Inflate, inflateSync } from 'fflate';
import { joinBytes } from './byte-source.ts';

/** Incremental SHA-256. */
export interface Hasher {
  update(bytes: Uint8Array): void;
  hex(): string;
}

/**
 * The byte-crunching that a platform does best itself. The portable engine runs in a browser's worker; Node's, several
 * times faster, is in `@treenail/core/node`. Both give the same bytes.
 */
export interface Engine {
  inflateRaw(chunks: AsyncIterable<Uint8Array>): AsyncIterable<Uint8Array>;
  gunzip(chunks: AsyncIterable<Uint8Array>): AsyncIterable<Uint8Array>;
  gzip(chunks: AsyncIterable<Uint8Array>): AsyncIterable<Uint8Array>;
  /** In one call, where the platform can: for small entries a stream costs far more than it saves. */
  inflateWhole?(bytes: Uint8Array, limit: number): Uint8Array;
  deflateRaw(bytes: Uint8Array): Promise<Uint8Array>;
  /** CRC-32 (ISO 3309), continued from `seed`. */
  crc32(bytes: Uint8Array, seed?: number): number;
  sha256(): Hasher;
  /** SHA-256 of what is there as a whole, in hexadecimal: for small things a hasher costs as much as its hash. Texts in UTF-8. */
  digest(whole: Uint8Array | string): string;
}

const UTF8 = new TextEncoder();
const CRC_TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n;
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  return c >>> 0;
});

function crc32(bytes: Uint8Array, seed = 0): number {
  let c = ~seed;
  for (const byte of bytes) c = (CRC_TABLE[(c ^ byte) & 0xff] ?? 0) ^ (c >>> 8);
  return ~c >>> 0;
}

async function* through(
  chunks: AsyncIterable<Uint8Array>,
  transform: GenericTransformStream,
): AsyncGenerator<Uint8Array> {
  const writer = (transform.writable as WritableStream<Uint8Array>).getWriter();
  const reader = (transform.readable as ReadableStream<Uint8Array>).getReader();
  // Fed from the side; a failure reaches the reader through the aborted stream, so nothing is swallowed here.
  const fed = (async () => {
    try {
      for await (const chunk of chunks) await writer.write(chunk);
      await writer.close();
    } catch (error) {
      await writer.abort(error).catch(() => undefined);
      throw error;
    }
  })();
  fed.catch(() => undefined);
  try {
    for (let part = await reader.read(); !part.done; part = await reader.read()) yield part.value;
    await fed;
  } finally {
    await reader.cancel().catch(() => undefined);
  }
}

export async function collect(chunks: AsyncIterable<Uint8Array>): Promise<Uint8Array> {
  const parts: Uint8Array[] = [];
  for await (const part of chunks) parts.push(part);
  return parts.length === 1 && parts[0] ? parts[0] : joinBytes(parts);
}

async function* once(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes;
}

/** Packed bytes that are inflated before it is looked how many came of them: at most a thousand times as many. */
const PIECE = 1 << 14;

/** A stream of the platform costs about half a millisecond to set up, which for ten thousand small files is seconds. */
function inflateWhole(bytes: Uint8Array, limit: number): Uint8Array {
  if (bytes.length <= PIECE) {
    // One byte more than there may be: what fills it has more to give.
    const whole = inflateSync(bytes, { out: new Uint8Array(limit + 1) });
    if (whole.length > limit) throw new RangeError(`more than ${limit} bytes came of it`);
    return whole;
  }
  const parts: Uint8Array[] = [];
  let size = 0;
  const inflater = new Inflate((part) => {
    size += part.length;
    parts.push(part);
  });
  for (let at = 0; at < bytes.length || at === 0; at += PIECE) {
    inflater.push(bytes.subarray(at, at + PIECE), at + PIECE >= bytes.length);
    if (size > limit) throw new RangeError(`more than ${limit} bytes came of it`);
  }
  return parts.length === 1 && parts[0] ? parts[0] : joinBytes(parts);
}

/** Web-standard streams and a pure-JavaScript hash: for workers in the browser, and for tests of both engines. */
export const portableEngine: Engine = {
  inflateRaw: (chunks) => through(chunks, new DecompressionStream('deflate-raw')),
  inflateWhole,
  gunzip: (chunks) => through(chunks, new DecompressionStream('gzip')),
  gzip: (chunks) => through(chunks, new CompressionStream('gzip')),
  deflateRaw: (bytes) => collect(through(once(bytes), new CompressionStream('deflate-raw'))),
  crc32,
  sha256() {
    const hash = sha256.create();
    return { update: (bytes) => void hash.update(bytes), hex: () => bytesToHex(hash.digest()) };
  },
  digest: (whole) => bytesToHex(sha256(typeof whole === 'string' ? UTF8.encode(whole) : whole)),
};
