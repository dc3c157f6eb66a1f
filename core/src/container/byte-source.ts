/**
 * Random access to bytes that are somewhere: a file, a Blob in the browser, a kept copy, an HTTP range.
 * `read` gives exactly `length` bytes or throws; it never gives fewer.
 */
export interface ByteSource {
  readonly size: number;
  /** The file it is, where it is one: another thread can then open it too. */
  readonly file?: string;
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

/** Pieces as one. */
export function joinBytes(parts: readonly Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

/** Two sources as if they stood one behind the other. A read that spans both is put together. */
export function joinedSource(first: ByteSource, second: ByteSource): ByteSource {
  return {
    size: first.size + second.size,
    async read(offset, length) {
      if (offset + length <= first.size) return first.read(offset, length);
      if (offset >= first.size) return second.read(offset - first.size, length);
      const head = first.size - offset;
      const whole = new Uint8Array(length);
      whole.set(await first.read(offset, head));
      whole.set(await second.read(0, length - head), head);
      return whole;
    },
    async close() {
      await first.close();
      await second.close();
    },
  };
}

/**
 * Bytes at an address that gives parts (RFC 9110, 14), with whatever the caller's fetch sends along. Each read is one
 * request, so wrap it in `withReadAhead` where reads are small.
 */
export function httpSource(address: string, size: number): ByteSource {
  return {
    size,
    async read(offset, length) {
      if (offset < 0 || offset + length > size) throw new RangeError(`read past the end: ${offset}+${length}`);
      if (length === 0) return new Uint8Array();
      const answer = await fetch(address, { headers: { Range: `bytes=${offset}-${offset + length - 1}` } });
      const bytes = new Uint8Array(await answer.arrayBuffer());
      if (answer.status !== 206 || bytes.length !== length) {
        throw new RangeError(
          `${address} answered ${answer.status} with ${bytes.length} bytes where ${length} were asked for`,
        );
      }
      return bytes;
    },
    async close() {},
  };
}

/**
 * Serves small reads from a window read ahead of them. Entries lie one after another and are mostly read in that order,
 * so a package of many small files costs few calls; in a browser each call to a Blob costs more than the bytes it gives.
 * The window is wide only while reads go forward; one that jumps takes little more than was asked for.
 * What is given may share its memory with the window: copy what is to be kept for long.
 */
export function withReadAhead(source: ByteSource, wide = 1 << 18, narrow = 1 << 12): ByteSource {
  let at = 0;
  let held: Uint8Array = new Uint8Array();
  return {
    size: source.size,
    ...(source.file === undefined ? {} : { file: source.file }),
    async read(offset, length) {
      const end = at + held.length;
      if (offset >= at && offset + length <= end) return held.subarray(offset - at, offset - at + length);
      if (length > wide / 4 || offset < 0 || offset + length > source.size) return source.read(offset, length);
      const forward = offset >= at && offset <= end + narrow;
      const window = forward ? wide : length + narrow;
      const bytes = await source.read(offset, Math.min(window, source.size - offset));
      at = offset;
      held = bytes;
      return bytes.subarray(0, length);
    },
    close: () => source.close(),
  };
}

/** A range of a source in pieces, so that no long entry is ever held whole. The next piece is read while one is used. */
export async function* readChunks(
  source: ByteSource,
  offset: number,
  length: number,
  chunk = 1 << 20,
): AsyncGenerator<Uint8Array> {
  const read = (at: number) => source.read(at, Math.min(chunk, offset + length - at));
  const end = offset + length;
  let next = length > 0 ? read(offset) : null;
  for (let at = offset + chunk; next; at += chunk) {
    const part: Uint8Array = await next;
    next = at < end ? read(at) : null;
    // Whoever stops half-way need not hear of a piece that nobody will take.
    next?.catch(() => undefined);
    yield part;
  }
}
