import {
  Refusal,
  blobSource,
  httpSource,
  packFolder,
  portableEngine,
  problem,
  withReadAhead,
  type ByteSource,
  type Problem,
  type Scratch,
} from '@treenail/core';
import type { Source } from './messages';

/* What the workers that read a source have in common. */

export function bytesOf(source: Source, blob: Blob | null): ByteSource {
  if ('address' in source) return withReadAhead(httpSource(source.address, source.size), 1 << 20, 1 << 16);
  return blobSource(blob ?? new Blob());
}

/** Folders that were packed, so that one that was glanced at is not packed again when it is opened. */
const packed = new Map<string, Blob>();

/** The file as it was dropped, or what a loose folder is packed into; none of a copy that is kept elsewhere. */
export async function blobOf(
  source: Source,
  onProgress: (done: number, total: number) => void = () => undefined,
): Promise<Blob | null> {
  if ('address' in source) return null;
  if ('file' in source) return source.file;
  const key = `${source.name} ${source.size} ${source.files.length}`;
  const before = packed.get(key);
  if (before) return before;
  const parts: Blob[] = [];
  await packFolder(
    source.files.map(({ path, file }) => ({ path, source: blobSource(file) })),
    { write: async (bytes) => void parts.push(new Blob([new Uint8Array(bytes)])) },
    { engine: portableEngine, onProgress: ({ done, total }) => onProgress(done, total) },
  );
  const blob = new Blob(parts);
  packed.set(key, blob);
  return blob;
}

/** The browser keeps the parts of a blob outside the heap. */
export async function inBlob(): Promise<Scratch> {
  const parts: Blob[] = [];
  return {
    sink: { write: async (bytes) => void parts.push(new Blob([new Uint8Array(bytes)])) },
    source: async () => blobSource(new Blob(parts)),
  };
}

export function refusalOf(error: unknown): Problem {
  if (error instanceof Refusal) return error.problem;
  const why = error instanceof Error ? error.message : String(error);
  return problem('unexpected', `The file could not be read: ${why}`, {}, 'Try the file as the platform exported it.');
}
