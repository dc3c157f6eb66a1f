import { createWriteStream } from 'node:fs';
import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { courseName, Refusal, labelOf, nameByRule, problem, readCourse, readableSize } from '@treenail/core';
import { fileSource } from '@treenail/core/node';
import * as z from 'zod';
import { Copy } from '../../db/models.ts';
import type { Giver } from '../../platforms/index.ts';
import type { Services } from '../../services/context.ts';
import { withSource } from '../../services/packages.ts';
import { enqueue } from '../queue.ts';
import type { Handler, JobContext } from '../worker.ts';
import { cannot, noteResult, ofMove, type OfMove } from './of-move.ts';

/** Asks the platform for an export, waits in its queue, downloads, checks and keeps it. */
export const fetchCourse =
  (services: Services): Handler =>
  async (context) => {
    const of = await ofMove(services, context.job);
    const { move, course, source, from, round } = of;
    const giver = from?.giver;
    if (!giver) throw cannot('export courses', source);
    const exportId = await context.step(`ask-${round}`, z.string(), () =>
      giver.startExport(course.remoteId, `treenail ${context.job.requestKey} ${round}`),
    );
    const size = await waitForExport(services, context, giver, exportId, source.name);
    const { copyId } = await context.step(`keep-${round}`, z.object({ copyId: z.number() }), () =>
      downloadAndKeep(services, context, of, giver, exportId, size),
    );
    const copy = await Copy.findByPk(copyId, { rejectOnEmpty: true });
    await move.update({ copyId });
    await noteResult(move, 'fetch', `${copy.format}, ${readableSize(copy.size)}, kept in the strongroom`);
    await enqueue({
      kind: 'look',
      key: `look:move-${move.id}`,
      course: courseName(course),
      moveId: move.id,
      input: { round: 0 },
      words: 'looking inside',
    });
    await context.report({ words: `fetched from ${source.name}`, ahead: null });
  };

async function waitForExport(
  services: Services,
  context: JobContext,
  giver: Giver,
  exportId: string,
  name: string,
): Promise<number | null> {
  const state = await giver.exportState(exportId);
  switch (state.state) {
    case 'waiting':
      await context.report({ words: `waiting at ${name}`, ahead: state.ahead, done: 0, total: 0, unit: '' });
      return context.later(services.config.pollMs);
    case 'working':
      await context.report({
        words: `being built at ${name}`,
        ahead: null,
        done: state.done,
        total: state.total,
        unit: state.unit,
      });
      return context.later(services.config.pollMs);
    case 'failed':
      throw new Refusal(problem('export-failed', state.why, 'Try again; if it fails again, look at the course there.'));
    case 'ready':
      return state.size;
  }
}

async function downloadAndKeep(
  services: Services,
  context: JobContext,
  { course, source }: OfMove,
  giver: Giver,
  exportId: string,
  size: number | null,
): Promise<{ copyId: number }> {
  const sourceKey = `${context.job.requestKey} ${exportId}`;
  const before = await Copy.findOne({ where: { sourceKey } });
  if (before) return { copyId: before.id };
  await mkdir(services.config.scratch, { recursive: true });
  const part = join(services.config.scratch, `fetch-${context.job.id}-${exportId.replace(/\W/g, '_')}.part`);
  await download(context, giver, exportId, part, size, source.name);
  try {
    const { items, format } = await judge(services, part, course.title);
    const kept = await services.store.putFile(part);
    const now = new Date();
    const [copy] = await Copy.findOrCreate({
      where: { sourceKey },
      defaults: {
        courseId: course.id,
        fileName: nameByRule(course, now, 'imscc'),
        code: course.code,
        section: course.section,
        term: course.term,
        title: course.title,
        instanceName: source.name,
        format,
        size: kept.size,
        sha256: kept.sha256,
        items,
        keptAt: now,
        sourceKey,
      },
    });
    return { copyId: copy.id };
  } catch (error) {
    // What can't be read is not kept, and nothing of it stays behind.
    if (error instanceof Refusal) await rm(part, { force: true });
    throw error;
  }
}

/** Goes on where an earlier download stopped. */
async function download(
  context: JobContext,
  giver: Giver,
  exportId: string,
  part: string,
  size: number | null,
  name: string,
): Promise<void> {
  const got = await stat(part).then(
    (s) => s.size,
    () => 0,
  );
  if (size !== null && got === size) return;
  const resume = size !== null && got < size ? got : 0;
  let done = resume;
  const body = await giver.download(exportId, resume, context.signal);
  await pipeline(
    body,
    async function* (chunks) {
      for await (const chunk of chunks) {
        done += chunk.length;
        await context.report({ words: `downloading from ${name}`, ahead: null, done, total: size ?? 0, unit: 'bytes' });
        yield chunk;
      }
    },
    createWriteStream(part, { flags: resume > 0 ? 'a' : 'w' }),
  );
}

/** Complete, readable, and the course that was asked for. */
async function judge(services: Services, path: string, title: string): Promise<{ items: number; format: string }> {
  const { course } = await withSource(services, await fileSource(path), (pkg) => readCourse(pkg));
  if (course.title !== title) {
    throw new Refusal(
      problem(
        'another-course',
        `The platform sent “${course.title}” where “${title}” was asked for.`,
        'Try again; if it does so again, refresh the register.',
      ),
    );
  }
  const { format, version } = course.origin;
  return { items: course.items.length, format: labelOf(format, version) };
}
