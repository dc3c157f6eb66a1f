import { constants } from 'node:fs';
import { mkdir, open, readdir, rm, stat, truncate } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import {
  Refusal,
  labelOf,
  nameByRule,
  problem,
  readCourse,
  readWords,
  readableSize,
  shownIn,
  type Course,
} from '@treenail/core';
import { fileSource } from '@treenail/core/node';
import { Op } from 'sequelize';
import * as z from 'zod';
import { Copy, CourseRow, Instance, JobStep, Move } from '../db/models/index.ts';
import {
  ExportGone,
  PlatformTrouble,
  asTrouble,
  removeExport,
  type Connector,
  type SourceSide,
  type Part,
} from '../platforms/index.ts';
import type { Services } from '../services/context.ts';
import { formOf } from '../services/fetches.ts';
import { namingRule } from '../services/settings.ts';
import { connectorOf } from '../services/instances.ts';
import { fetchLinked } from '../services/linked.ts';
import { indexItems } from '../services/kept-items.ts';
import { withSource } from '../services/packages.ts';
import { cut } from '../services/register.ts';
import { factsOf, letGoOf, nameOfItsOwn } from '../services/strongroom.ts';
import type { InputOf } from '../jobs/definitions.ts';
import type { Handler, JobContext } from '../jobs/worker.ts';
import { noteStep } from '../services/move-rows.ts';
import { cannot } from './of-move.ts';

/** Times that an export is asked for anew when the platform lost it, or never ended it. */
const AGAIN = 2;

type Input = InputOf<'fetch'>;

interface OfFetch {
  context: JobContext;
  services: Services;
  course: CourseRow;
  source: Instance;
  sourceSide: SourceSide;
  connector: Connector;
  move: Move | null;
  input: Input;
  /** When the platform throws the finished export away. */
  until: Date | null;
}

/** Asks the platform for an export, waits in its queue, downloads before it expires, checks and keeps it. */
export const fetchCourse = (services: Services): Handler<'fetch'> => ({
  run: (context, input) => fetchAndKeep(services, context, input),
  calledOff: (context, input) => clearAway(services, context, input),
});

/** What was asked of the platform is taken back, and what had arrived of it is let go of. */
async function clearAway(services: Services, context: JobContext, input: Input): Promise<void> {
  const { scratch } = services.config;
  for (const file of await readdir(scratch).catch(() => [])) {
    if (file.startsWith(`fetch-${context.job.id}-`)) await rm(join(scratch, file), { force: true });
  }
  const askedSteps = await JobStep.findAll({ where: { jobId: context.job.id, name: { [Op.like]: 'ask-%' } } });
  if (askedSteps.length === 0) return;
  const { sourceSide } = await ofFetch(services, context, input);
  for (const { result } of askedSteps) await removeExport(sourceSide, z.string().parse(result));
  // Asked for again, it begins anew.
  await JobStep.destroy({ where: { jobId: context.job.id } });
}

async function fetchAndKeep(services: Services, context: JobContext, given: Input): Promise<void> {
  const of = await ofFetch(services, context, given);
  const { course, sourceSide, source, input } = of;
  const { round, again, options } = input;
  const key = `treenail ${context.job.requestKey} ${round}.${again}`;
  const exportId = await context.step(`ask-${round}-${again}`, z.string(), () =>
    sourceSide.startExport(course.remoteId, options, key.slice(0, 200)),
  );
  const size = await waitForExport(of, exportId);
  const kept = await context.step(`keep-${round}`, z.object({ copyId: z.number() }), () =>
    unlessGone(of, () => downloadAndKeep(of, exportId, size)),
  );
  await context.step(`linked-${round}`, z.literal(true), () => keepLinked(of, kept.copyId));
  if (options.removeAfter)
    await context.step(`remove-${round}`, z.literal(true), () => removeExport(sourceSide, exportId));
  const copy = await handToMove(of, kept.copyId);
  const words = `kept from ${source.name}: ${readWords(factsOf(copy))}`;
  await context.report({ words: words.slice(0, 290), ahead: null });
}

/** What the course only links to of the platform's shared repository is kept beside it, where that was asked for. */
async function keepLinked(
  { services, context, course, source, sourceSide, input }: OfFetch,
  copyId: number,
): Promise<true> {
  const { sharedFile } = sourceSide;
  if (!sharedFile || !input.options.copyLinked) return true;
  const copy = await Copy.findByPk(copyId, { rejectOnEmpty: true });
  const linked = await fetchLinked(services, copy, {
    sharedFile,
    sourceSide,
    remoteId: course.remoteId,
    onProgress: (done, total) =>
      context.report({ words: `copying in linked files from ${source.name}`, ahead: null, done, total, unit: 'files' }),
  });
  await copy.update({ linked });
  return true;
}

async function ofFetch(services: Services, context: JobContext, input: Input): Promise<OfFetch> {
  const { job } = context;
  const move = job.moveId === null ? null : await Move.findByPk(job.moveId, { rejectOnEmpty: true });
  const course = await CourseRow.findByPk(move?.courseId ?? job.courseId ?? 0, { rejectOnEmpty: true });
  const source = await Instance.findByPk(course.instanceId, { rejectOnEmpty: true });
  const connector = connectorOf(services.config.secret, source);
  const { source: sourceSide } = connector;
  if (!sourceSide) throw cannot('export courses', source);
  const { id: form } = formOf(sourceSide, input.options.form);
  return {
    context,
    services,
    course,
    source,
    sourceSide,
    connector,
    move,
    input: { ...input, options: { ...input.options, form } },
    until: null,
  };
}

async function setInput({ context, input }: OfFetch, change: Partial<Input>): Promise<void> {
  await context.job.update({ input: { ...input, ...change } });
}

/** Asks anew for an export that will not come, a few times; then a person has to look. */
async function askAnew(of: OfFetch, why: string, action: string): Promise<never> {
  const { context, input, source } = of;
  if (input.again >= AGAIN) {
    throw new Refusal(problem('export-lost', `${why} It was asked for ${AGAIN + 1} times.`, {}, action));
  }
  await setInput(of, { again: input.again + 1, still: null });
  await context.report({ words: `asked ${source.name} again: ${why}`.slice(0, 290), ahead: null, done: 0, total: 0 });
  return context.later(of.services.config.pollMs);
}

async function unlessGone<T>(of: OfFetch, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof ExportGone)) throw error;
    return askAnew(of, `${of.source.name} had thrown the export away before it was fetched.`, 'Try again.');
  }
}

async function waitForExport(of: OfFetch, exportId: string): Promise<number | null> {
  const { services, context, sourceSide, source, input } = of;
  const { name } = source;
  const state = await sourceSide.exportState(exportId);
  switch (state.state) {
    case 'waiting':
      await context.report({ words: `waiting at ${name}`, ahead: state.ahead, done: 0, total: 0, unit: '' });
      return context.later(services.config.pollMs);
    case 'working': {
      const { done, total, unit } = state;
      await context.report({ words: `being built at ${name}`, ahead: null, done, total, unit });
      const since = input.still?.done === done ? input.still.since : Date.now();
      if (Date.now() - since > services.config.hangMs) {
        await removeExport(sourceSide, exportId);
        return askAnew(
          of,
          `${name} began to build the export and did not get on with it.`,
          `Look at the export queue of ${name}; then try again.`,
        );
      }
      if (input.still?.done !== done) await setInput(of, { still: { done, since } });
      return context.later(services.config.pollMs);
    }
    case 'failed':
      throw new Refusal(problem('export-failed', state.why));
    case 'gone':
      return askAnew(of, `${name} had thrown the export away before it was fetched.`, 'Try again.');
    case 'ready':
      of.until = state.expiresAt ?? null;
      return state.size;
  }
}

async function downloadAndKeep(of: OfFetch, exportId: string, size: number | null): Promise<{ copyId: number }> {
  const { services, context, course, source, sourceSide, input } = of;
  const { options } = input;
  const sourceKey = `${context.job.requestKey} ${exportId}`.slice(0, 190);
  const before = await Copy.findOne({ where: { sourceKey } });
  if (before) return { copyId: before.id };
  await mkdir(services.config.scratch, { recursive: true });
  const part = join(services.config.scratch, `fetch-${context.job.id}-${exportId.replace(/\W/g, '_')}.part`);
  await download(of, exportId, part, size);
  try {
    const read = await judge(services, part, course.title);
    const kept = await services.store.putFile(part);
    const now = new Date();
    const { format, version } = read.origin;
    const { extension, lacks } = formOf(sourceSide, options.form);
    const shown = shownIn(read);
    const counted = options.parts === null ? await countOf(of, shown) : null;
    const [copy] = await Copy.findOrCreate({
      where: { sourceKey },
      defaults: {
        courseId: course.id,
        fileName: await nameOfItsOwn(nameByRule(course, now, extension, await namingRule()), {
          partial: options.parts !== null,
          personal: options.personal,
        }),
        code: course.code,
        section: course.section,
        term: course.term,
        title: course.title,
        instanceName: source.name,
        format: labelOf(format, version),
        size: kept.size,
        sha256: kept.sha256,
        items: read.items.length,
        keptAt: now,
        sourceKey,
        form: options.form,
        partial: options.parts !== null,
        personal: options.personal,
        counted,
        shown,
        lacks: [...lacks],
      },
    }).catch(async (error: unknown) => {
      // What no row speaks of is not kept.
      await letGoOf(services, kept.sha256);
      throw error;
    });
    await indexItems(copy, read);
    return { copyId: copy.id };
  } catch (error) {
    // What can't be read is not kept, and nothing of it stays behind.
    if (error instanceof Refusal) await rm(part, { force: true });
    throw error;
  }
}

/**
 * How many things the platform says there are. Where that is not how many were read, it is asked again: the listing may
 * be older than the export. A platform that lists no number may still tell the parts of a course.
 */
async function countOf(of: OfFetch, shown: number): Promise<number | null> {
  const { course, sourceSide, connector } = of;
  if (course.parts === shown) return shown;
  try {
    if (course.parts === null) return countedParts(await sourceSide.parts(course.remoteId));
    return (await connector.listCourses()).find((c) => c.remoteId === course.remoteId)?.parts ?? course.parts;
  } catch (error) {
    if (error instanceof PlatformTrouble || error instanceof Refusal) return course.parts;
    throw error;
  }
}

function countedParts(parts: readonly Part[]): number {
  return parts.reduce(
    (sum, part) => sum + (part.kind === 'folder' ? countedParts(part.inside) : part.kind === 'bank' ? 0 : 1),
    0,
  );
}

/** Said for as long as the file is not here: what breaks off is gone on with before then, or asked for again. */
function untilWords(until: Date | null): string {
  if (!until) return '';
  const at = until.toISOString().replace('T', ' ').slice(0, 16);
  return `, thrown away there after ${at} UTC`;
}

/**
 * Goes on where an earlier download stopped. Every byte is written to its own place: a worker that stalled and has lost
 * the job to another may still be writing, and then both write the same.
 */
async function download(of: OfFetch, exportId: string, part: string, size: number | null): Promise<void> {
  const { context, sourceSide, source } = of;
  const got = await stat(part).then(
    (s) => s.size,
    () => 0,
  );
  if (size !== null && got === size) return;
  const resume = size !== null && got < size ? got : 0;
  let done = resume;
  const body = await sourceSide.download(exportId, resume, context.signal);
  const target = await open(part, constants.O_WRONLY | constants.O_CREAT);
  try {
    await pipeline(
      body,
      async function* (chunks) {
        for await (const chunk of chunks) {
          done += chunk.length;
          const words = `downloading from ${source.name}${untilWords(of.until)}`;
          await context.report({ words, ahead: null, done, total: size ?? 0, unit: 'bytes' });
          yield chunk;
        }
      },
      target.createWriteStream({ start: resume }),
    );
  } catch (error) {
    // The line broke: what has arrived stays, and the next try goes on from there.
    context.signal.throwIfAborted();
    throw asTrouble(error, source.name);
  }
  if (size !== null && done !== size) throw asTrouble(new Error(`${done} of ${size} bytes arrived`), source.name);
  // An earlier try may have left a longer file.
  await truncate(part, done);
}

/** Complete, readable, and the course that was asked for. */
async function judge(services: Services, path: string, title: string): Promise<Course> {
  const { course } = await withSource(services, await fileSource(path), readCourse);
  // The register may have had no room for all of it.
  if (cut(course.title) !== title) {
    throw new Refusal(problem('another-course', `The platform sent “${course.title}” where “${title}” was asked for.`));
  }
  return course;
}

/** A move that waited for the copy has it. */
async function handToMove({ move }: OfFetch, copyId: number): Promise<Copy> {
  const copy = await Copy.findByPk(copyId, { rejectOnEmpty: true });
  if (!move) return copy;
  await move.update({ copyId });
  await noteStep(move.id, 'fetch', 'done', `${copy.format}, ${readableSize(copy.size)}, ${readWords(factsOf(copy))}`);
  return copy;
}
