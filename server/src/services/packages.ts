import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { openCourse, type ByteSource, type Package } from '@treenail/core';
import { nodeEngine, scratchFile } from '@treenail/core/node';
import type { Services } from './context.ts';

/** Opens a kept package for as long as `work` takes. */
export async function withPackage<T>(
  services: Services,
  sha256: string,
  work: (pkg: Package) => Promise<T>,
): Promise<T> {
  return withSource(services, await services.store.open(sha256), work);
}

/** Opens whatever the bytes are (a tar is written anew beside them) and lets go of all of it afterwards. */
export async function withSource<T>(
  { config }: Services,
  source: ByteSource,
  work: (pkg: Package) => Promise<T>,
): Promise<T> {
  const scratch = join(config.scratch, `unpacked-${randomUUID()}.zip`);
  try {
    const options = { engine: nodeEngine, limits: config.limits, scratch: scratchFile(scratch) };
    const pkg = await openCourse(source, options);
    // What was written anew has a handle of its own.
    return await work(pkg).finally(() => pkg.close());
  } finally {
    await source.close();
    await rm(scratch, { force: true });
  }
}
