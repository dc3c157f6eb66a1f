import { rm } from 'node:fs/promises';
import { fileSink } from '../container/node.ts';

/** Writes a file, or leaves none behind. */
export async function writing<T>(
  out: string,
  work: (sink: Awaited<ReturnType<typeof fileSink>>) => Promise<T>,
): Promise<{ size: number; sha256: string; made: T }> {
  const sink = await fileSink(out);
  try {
    const made = await work(sink);
    return { ...(await sink.close()), made };
  } catch (error) {
    await sink.abandon();
    await rm(out, { force: true });
    throw error;
  }
}
