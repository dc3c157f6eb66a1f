import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { access, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Identity, Refusal, labelOf, problem, readCourse, shownIn } from '@treenail/core';
import { fileSource } from '@treenail/core/node';
import * as z from 'zod';
import { Copy } from '../db/models/index.ts';
import { PLATFORMS } from '../platforms/index.ts';
import type { Services } from '../services/context.ts';
import { keepFile } from '../services/intake.ts';
import { indexItems } from '../services/kept-items.ts';
import { withPackage, withSource } from '../services/packages.ts';
import type { Handler, JobContext } from '../jobs/worker.ts';

const Judged = z.object({
  sha256: z.string(),
  size: z.number(),
  title: z.string(),
  format: z.string(),
  items: z.number(),
  shown: z.number(),
  own: z.boolean(),
  personal: z.boolean(),
  platform: z.string(),
  identity: Identity.optional(),
});

/** Reads an uploaded file and keeps it as it came; what can't be read is refused and nothing of it stays behind. */
export const intake = (services: Services): Handler<'intake'> => ({
  run: async (context, { uploadId, owner, asked }) => {
    const path = join(services.config.uploads, uploadId);
    try {
      const judged = await context.step('judge', Judged, () => judge(services, context, path));
      // A worker may have been killed between moving the file and writing that down.
      if (await isThere(path)) await services.store.putFile(path, judged);
      else if (!(await services.store.has(judged.sha256))) throw gone();
      const { id } = await keepFile(asked, owner, judged);
      const copy = await Copy.findByPk(id, { rejectOnEmpty: true });
      await withPackage(services, judged.sha256, async (pkg, described) =>
        indexItems(copy, (await readCourse(pkg, described)).course),
      );
      await rm(`${path}.json`, { force: true });
      await context.report({ words: 'kept in the strongroom', done: judged.size, total: judged.size, unit: 'bytes' });
    } catch (error) {
      if (error instanceof Refusal) await Promise.all([path, `${path}.json`].map((p) => rm(p, { force: true })));
      throw error;
    }
  },
});

async function judge(services: Services, context: JobContext, path: string): Promise<z.infer<typeof Judged>> {
  if (!(await isThere(path))) throw gone();
  const { course } = await withSource(services, await fileSource(path), readCourse);
  const { format, version } = course.origin;
  const digest = await hashed(context, path);
  return {
    ...digest,
    title: course.title,
    format: labelOf(format, version),
    items: course.items.length,
    shown: shownIn(course),
    own: PLATFORMS.some((p) => p.id === format),
    personal: course.personal !== undefined,
    platform: format,
    ...(course.identity ? { identity: course.identity } : {}),
  };
}

async function hashed(context: JobContext, path: string): Promise<{ sha256: string; size: number }> {
  const hash = createHash('sha256');
  let size = 0;
  for await (const part of createReadStream(path, { highWaterMark: 1 << 20, signal: context.signal })) {
    hash.update(part as Buffer);
    size += (part as Buffer).length;
  }
  return { sha256: hash.digest('hex'), size };
}

function isThere(path: string): Promise<boolean> {
  return access(path).then(
    () => true,
    () => false,
  );
}

function gone(): Refusal {
  return new Refusal(problem('upload-gone', 'The uploaded file is not there any more.'));
}
