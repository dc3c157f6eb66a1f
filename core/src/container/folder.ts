import { readChunks, type ByteSource } from './byte-source.ts';
import type { Engine } from './engine.ts';
import { ZipWriter, type Sink } from './zip-writer.ts';

/** A file of a folder that lies about loose, by its path within the folder. */
export interface LooseFile {
  path: string;
  source: ByteSource;
}

/**
 * Packs a loose folder into a zip, so that it is read as any package is. Bytes are stored as they are: most of a course
 * is media that would not shrink, and nothing waits for a compression that nobody asked for.
 */
export async function packFolder(
  files: readonly LooseFile[],
  sink: Sink,
  options: { engine?: Engine; onProgress?: (at: { done: number; total: number }) => void } = {},
): Promise<void> {
  const writer = new ZipWriter(sink, options.engine);
  const total = files.reduce((sum, f) => sum + f.source.size, 0);
  let done = 0;
  for (const { path, source } of files) {
    await writer.store(path, source.size, () => readChunks(source, 0, source.size));
    done += source.size;
    options.onProgress?.({ done, total });
  }
  await writer.finish();
}
