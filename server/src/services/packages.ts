import { randomUUID } from 'node:crypto';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { openCourse, type ByteSource, type Format, type Package } from '@treenail/core';
import { nodeEngine, scratchFile } from '@treenail/core/node';
import type { Services } from './context.ts';
import { describedFormats } from './descriptions.ts';

/** What is done with an open package; with it come the formats that are known by a description. */
type Work<T> = (pkg: Package, described: readonly Format[]) => Promise<T>;

/** Opens a kept package for as long as `work` takes. */
export async function withPackage<T>(services: Services, sha256: string, work: Work<T>): Promise<T> {
  return withSource(services, await services.store.open(sha256), work);
}

/** Opens whatever the bytes are (a tar is written anew beside them) and lets go of all of it afterwards. */
export async function withSource<T>({ config }: Services, source: ByteSource, work: Work<T>): Promise<T> {
  const scratch = join(config.scratch, `unpacked-${randomUUID()}.zip`);
  try {
    await mkdir(config.scratch, { recursive: true });
    const described = await describedFormats();
    const options = { engine: nodeEngine, limits: config.limits, scratch: scratchFile(scratch), described };
    const pkg = await openCourse(source, options);
    // What was written anew has a handle of its own.
    return await work(pkg, described).finally(() => pkg.close());
  } finally {
    await source.close();
    await rm(scratch, { force: true });
  }
}
