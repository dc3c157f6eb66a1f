/**
 * Random access to bytes that are somewhere: a file, a Blob in the browser, a kept copy, an HTTP range.
 * `read` gives exactly `length` bytes or throws; it never gives fewer.
 */
export interface ByteSource {
  readonly size: number;
  read(offset: number, length: number): Promise<Uint8Array>;
  close(): Promise<void>;
}

export function blobSource(blob: Blob): ByteSource {
  return {
    size: blob.size,
    async read(offset, length) {
      if (offset < 0 || offset + length > blob.size) throw new RangeError(`read past the end: ${offset}+${length}`);
      return new Uint8Array(await blob.slice(offset, offset + length).arrayBuffer());
    },
    async close() {},
  };
}

export function bytesSource(bytes: Uint8Array): ByteSource {
  return {
    size: bytes.length,
    async read(offset, length) {
      if (offset < 0 || offset + length > bytes.length) throw new RangeError(`read past the end: ${offset}+${length}`);
      return bytes.subarray(offset, offset + length);
    },
    async close() {},
  };
}

/** A range of a source in pieces, so that no long entry is ever held whole. */
export async function* readChunks(
  source: ByteSource,
  offset: number,
  length: number,
  chunk = 1 << 20,
): AsyncGenerator<Uint8Array> {
  for (let at = offset; at < offset + length; at += chunk) {
    yield await source.read(at, Math.min(chunk, offset + length - at));
  }
}
