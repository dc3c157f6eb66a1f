import { createHash } from 'node:crypto';
import { closeSync, openSync, read, write } from 'node:fs';
import { promisify } from 'node:util';
import { parentPort, workerData } from 'node:worker_threads';

/**
 * The thread of a file sink: it hashes, and copies ranges of files. What it is asked for is done in the order it was asked
 * for. It only hashes while it copies: the system reads the next pieces and writes the last ones meanwhile. Pieces are
 * long, since each has another thread woken twice.
 */

export type ThreadRequest =
  | { act: 'update'; at: number; length: number }
  | { act: 'copy'; from: string; ranges: readonly Range[]; to: string; position: number }
  | { act: 'reset' }
  | { act: 'digest' };

/** `sha256` in hexadecimal digits for `digest`; empty for everything else. */
export interface ThreadAnswer {
  act: ThreadRequest['act'];
  sha256: string;
}

interface Range {
  readonly offset: number;
  readonly length: number;
}

interface Piece {
  readonly bytes: Buffer;
  length: number;
  /** Settled when the piece may be filled anew. */
  free: Promise<void>;
}

const PIECE = 1 << 21;
const AHEAD = 2;
const PIECES = 6;

const readFrom = promisify(read);
const writeTo = promisify(write);
const ring = workerData as SharedArrayBuffer;
const pieces = Array.from({ length: PIECES }, (): Piece => ({
  bytes: Buffer.allocUnsafeSlow(PIECE),
  length: 0,
  free: Promise.resolve(),
}));
let hash = createHash('sha256');
let turn = Promise.resolve();

parentPort?.on('message', (request: ThreadRequest) => {
  turn = turn.then(() => take(request));
});

async function take(request: ThreadRequest): Promise<void> {
  if (request.act === 'update') hash.update(new Uint8Array(ring, request.at, request.length));
  else if (request.act === 'copy') await copy(request);
  else if (request.act === 'reset') hash = createHash('sha256');
  const sha256 = request.act === 'digest' ? hash.digest('hex') : '';
  parentPort?.postMessage({ act: request.act, sha256 } satisfies ThreadAnswer);
}

async function copy({ from, ranges, to, position }: ThreadRequest & { act: 'copy' }): Promise<void> {
  const source = openSync(from, 'r');
  const target = openSync(to, 'r+');
  const cuts = cutInto(PIECE, ranges);
  const coming: Promise<Piece>[] = [];
  let next = 0;
  const readOn = () => {
    while (coming.length < AHEAD) {
      const cut = cuts.next();
      const piece = pieces[next % pieces.length];
      if (cut.done === true || !piece) return;
      next++;
      coming.push(heardLater(fill(piece, source, cut.value)));
    }
  };
  try {
    let at = position;
    readOn();
    for (let filling = coming.shift(); filling; filling = coming.shift()) {
      const piece = await filling;
      const bytes = piece.bytes.subarray(0, piece.length);
      piece.free = heardLater(drain(target, bytes, at));
      at += bytes.length;
      readOn();
      hash.update(bytes);
    }
    await Promise.all(pieces.map((p) => p.free));
  } finally {
    await Promise.allSettled([...coming, ...pieces.map((p) => p.free)]);
    closeSync(source);
    closeSync(target);
  }
}

/** The ranges cut and gathered into what one piece of this length holds. */
function* cutInto(size: number, ranges: readonly Range[]): Generator<Range[], undefined> {
  let parts: Range[] = [];
  let room = size;
  for (const { offset, length } of ranges) {
    for (let at = 0; at < length;) {
      const here = Math.min(room, length - at);
      parts.push({ offset: offset + at, length: here });
      at += here;
      room -= here;
      if (room > 0) continue;
      yield parts;
      parts = [];
      room = size;
    }
  }
  if (parts.length > 0) yield parts;
  return undefined;
}

async function fill(piece: Piece, source: number, parts: readonly Range[]): Promise<Piece> {
  await piece.free;
  piece.length = 0;
  for (const { offset, length } of parts) {
    for (let at = 0; at < length;) {
      const { bytesRead } = await readFrom(source, piece.bytes, piece.length, length - at, offset + at);
      if (bytesRead === 0) throw new RangeError(`read past the end of the source: ${offset + at}`);
      piece.length += bytesRead;
      at += bytesRead;
    }
  }
  return piece;
}

async function drain(target: number, bytes: Uint8Array, position: number): Promise<void> {
  for (let done = 0; done < bytes.length;) {
    done += (await writeTo(target, bytes, done, bytes.length - done, position + done)).bytesWritten;
  }
}

/** A failure is heard of when it is waited for. */
function heardLater<T>(promise: Promise<T>): Promise<T> {
  promise.catch(() => undefined);
  return promise;
}
