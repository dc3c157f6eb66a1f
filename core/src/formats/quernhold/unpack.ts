import { decodeFirst } from 'cborg';
import type { Unpacker } from '../../container/index.ts';
import { Refusal, problem, remark } from '../../model/index.ts';

/** The record by which the archive is known, and its version. */
export const MAGIC = 'quern/4';
/** Where the records that are no files stand once the archive is unpacked, as a JSON array. */
export const RECORDS = 'quern-records.json';

/**
 * Quernhold's archive: a gzipped sequence of CBOR items (RFC 8742). Files come as their head and their pieces; all other
 * records are gathered into one JSON document.
 */
export const quernholdUnpacker: Unpacker = {
  id: 'quernhold',
  ofBytes: {
    fits(head) {
      // A map whose first pair is "k": MAGIC.
      const text = new TextDecoder('latin1').decode(head.subarray(0, 64));
      return text.includes(MAGIC) && (head[0] ?? 0) >> 5 === 5;
    },
    async unpack(chunks, writer, notes, limits) {
      const records: unknown[] = [];
      let entries = 0;
      let total = 0;
      let ended = false;
      let bytes = 0;
      const sequence = items(chunks);
      let next = await sequence.next();
      const grown = (by: number) => {
        total += by;
        if (entries > limits.entries || total > limits.totalBytes) throw tooMuch();
      };
      while (!next.done) {
        const record = next.value;
        if (record.k === 'file' && typeof record['at'] === 'string') {
          entries++;
          const state: { after: IteratorResult<CborRecord> | null } = { after: null };
          const pieces = (async function* () {
            for (let piece = await sequence.next(); ; piece = await sequence.next()) {
              const d: unknown = piece.done ? null : piece.value['d'];
              if (piece.done || piece.value.k !== 'piece' || !(d instanceof Uint8Array)) {
                state.after = piece;
                return;
              }
              grown(d.length);
              yield d;
            }
          })();
          await writer.stream(record['at'], pieces);
          next = state.after ?? { done: true, value: undefined };
          continue;
        }
        if (record.k === 'end') ended = true;
        else {
          bytes += JSON.stringify(record).length;
          if (bytes > limits.textBytes) throw tooMuch();
          records.push(record);
        }
        next = await sequence.next();
      }
      if (!ended) throw damaged('it ends before its last record');
      await writer.add(RECORDS, new TextEncoder().encode(JSON.stringify(records)));
      notes.push(remark('archive', 'The package is an archive of Quernhold, not a zip.'));
    },
  },
};

interface CborRecord {
  k: string;
  [field: string]: unknown;
}

function damaged(how: string, cause?: unknown): Refusal {
  return new Refusal(
    problem('archive-damaged', `The archive can not be read: ${how}.`, {}, 'Download or export it again.'),
    { cause },
  );
}

function tooMuch(): Refusal {
  return new Refusal(problem('zip-bomb', 'The package would unpack to more than the limit.'));
}

/** The longest item there may be: a piece of a file, or one record. */
const ITEM_BYTES = 16 * 2 ** 20;

/** CBOR items one after another; what is not whole yet waits for more bytes. */
async function* items(chunks: AsyncIterable<Uint8Array>): AsyncGenerator<CborRecord, undefined> {
  let held = new Uint8Array();
  try {
    for await (const chunk of chunks) {
      held = joined(held, chunk);
      for (;;) {
        const found = first(held);
        if (!found) break;
        held = new Uint8Array(found[1]);
        yield asRecord(found[0]);
      }
      if (held.length > ITEM_BYTES) throw damaged('a record has no end');
    }
  } catch (error) {
    if (error instanceof Refusal) throw error;
    throw damaged(error instanceof Error ? error.message : String(error), error);
  }
  if (held.length > 0) throw damaged('it ends in the middle of a record');
  return undefined;
}

function first(bytes: Uint8Array): [unknown, Uint8Array] | null {
  if (bytes.length === 0) return null;
  try {
    // Records become JSON: a number it can't hold is damage, found here.
    return decodeFirst(bytes, { rejectDuplicateMapKeys: true, allowBigInt: false });
  } catch (error) {
    if (error instanceof Error && /unexpected end|not enough/i.test(error.message)) return null;
    throw error;
  }
}

function asRecord(value: unknown): CborRecord {
  if (typeof value !== 'object' || value === null || !('k' in value) || typeof value.k !== 'string') {
    throw damaged('one of its records is none');
  }
  return value as CborRecord;
}

function joined(a: Uint8Array, b: Uint8Array): Uint8Array<ArrayBuffer> {
  const whole = new Uint8Array(a.length + b.length);
  whole.set(a);
  whole.set(b, a.length);
  return whole;
}
