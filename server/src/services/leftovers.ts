import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Config } from '../config.ts';
import { DiskStore } from '../store/blob-store.ts';

/** What is unfinished for so long is nobody's any more, in ms: the longest job is waited for over a night and a day. */
const LEFT_MS = 3 * 86_400_000;

/** Removes what processes that were killed left behind. Gives how many files. */
export async function sweepLeftovers(config: Pick<Config, 'scratch' | 'blobs'>, now = Date.now()): Promise<number> {
  let removed = await new DiskStore(config.blobs).sweep();
  for (const name of await readdir(config.scratch).catch(() => [])) {
    const path = join(config.scratch, name);
    const { mtimeMs } = await stat(path);
    if (now - mtimeMs < LEFT_MS) continue;
    await rm(path, { recursive: true, force: true });
    removed++;
  }
  return removed;
}
