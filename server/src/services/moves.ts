import {
  Refusal,
  courseName,
  isStreamable,
  mediaTypeOf,
  previewItem,
  problem,
  readableSize,
  type Item,
  type Package,
  type PreviewView,
} from '@treenail/core';
import { nodeEngine } from '@treenail/core/node';
import { UniqueConstraintError } from 'sequelize';
import type { DeliverRequest, MoveSummary, NewMove, Person, PreviewAnswer } from '../api/contract.ts';
import { Copy, CourseRow, Instance, Job, Move } from '../db/models.ts';
import { enqueue } from '../jobs/queue.ts';
import type { Services } from './context.ts';
import { readDocument } from './documents.ts';
import { asJobSummary } from './jobs.ts';
import { stepOf, stepsOf } from './move-steps.ts';
import { withPackage } from './packages.ts';
import { audit, mustBe } from './people.ts';
import { asCopySummary } from './strongroom.ts';
import { mustBeCurrent, withWorkingCopy } from './working.ts';

function missing(what: string): Refusal {
  return new Refusal(problem('not-found', `There is no such ${what}.`, 'Go back to the list and choose again.'));
}

export async function moveById(id: number): Promise<Move> {
  const move = await Move.findByPk(id);
  if (!move) throw missing('move');
  return move;
}

export async function courseOf(move: Move): Promise<CourseRow> {
  const course = await CourseRow.findByPk(move.courseId);
  if (!course) throw missing('course');
  return course;
}

/**
 * Starts a move of a course and the fetch that begins it. While a move of this course to this destination is not
 * delivered, asking again gives that one: two presses of the button make one export.
 */
export async function startMove(person: Person, asked: NewMove): Promise<{ moveId: number; fresh: boolean }> {
  mustBe(person, 'administrator');
  const [course, destination] = await Promise.all([
    CourseRow.findByPk(asked.courseId),
    Instance.findByPk(asked.destinationId),
  ]);
  if (!course) throw missing('course');
  if (!destination) throw missing('destination');
  const source = await Instance.findByPk(course.instanceId);
  if (!source?.gives) {
    throw new Refusal(
      problem(
        'can-not-fetch',
        `Courses can't be fetched from ${source?.name ?? 'this instance'}.`,
        'Choose a course of another instance.',
      ),
    );
  }
  if (!destination.takes) {
    throw new Refusal(
      problem('can-not-deliver', `Courses can't be delivered into ${destination.name}.`, 'Choose another destination.'),
    );
  }
  const copy = asked.copyId === undefined ? null : await Copy.findByPk(asked.copyId);
  if (copy ? copy.courseId !== course.id : source.platform === 'files') throw missing('kept copy of this course');
  const openKey = `${course.id}>${destination.id}`;
  const { move, fresh } = await createOrFind(person, course.id, destination.id, openKey, copy);
  const kind = move.copyId === null ? 'fetch' : 'look';
  await enqueue({
    kind,
    key: `${kind}:move-${move.id}`,
    course: courseName(course),
    moveId: move.id,
    input: { round: 0 },
    words: kind === 'fetch' ? `fetching at ${source.name}` : 'looking inside',
  });
  if (fresh)
    await audit(person, 'move started', `move ${move.id}`, {
      course: courseName(course),
      from: source.name,
      to: destination.name,
    });
  return { moveId: move.id, fresh };
}

async function createOrFind(
  person: Person,
  courseId: number,
  destinationId: number,
  openKey: string,
  copy: Copy | null,
): Promise<{ move: Move; fresh: boolean }> {
  const before = await Move.findOne({ where: { openKey } });
  if (before) return { move: before, fresh: false };
  try {
    const move = await Move.create({
      courseId,
      destinationId,
      createdBy: person.id,
      createdAt: new Date(),
      openKey,
      copyId: copy?.id ?? null,
      results: copy ? { fetch: `${copy.format}, ${readableSize(copy.size)}, from the strongroom` } : {},
    });
    return { move, fresh: true };
  } catch (error) {
    // Somebody pressed at the same moment: theirs is the move.
    if (!(error instanceof UniqueConstraintError)) throw error;
    const theirs = await Move.findOne({ where: { openKey }, rejectOnEmpty: true });
    return { move: theirs, fresh: false };
  }
}

function mustStandAt(move: Move, step: 'fit' | 'build' | 'deliver'): void {
  const at = stepOf(move);
  if (at === step) return;
  throw new Refusal(
    problem('wrong-step', `The move stands at another step (${at}).`, 'Reload the page and look where it stands.'),
  );
}

/** The person has seen the forecast and wants the package built. */
export async function acceptFit(person: Person, moveId: number): Promise<void> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  if (move.acceptedAt === null) {
    mustStandAt(move, 'fit');
    mustBeCurrent(move);
    await move.update({
      acceptedAt: new Date(),
      results: { ...move.results, fit: `accepted; ${move.results['fit'] ?? ''}` },
    });
    await audit(person, 'fit accepted', `move ${move.id}`);
  }
  const course = await courseOf(move);
  await enqueue({
    kind: 'build',
    key: `build:move-${move.id}`,
    course: courseName(course),
    moveId: move.id,
    input: { round: 0 },
    words: 'building the package',
  });
}

export async function deliver(person: Person, moveId: number, shell: DeliverRequest): Promise<void> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  const course = await courseOf(move);
  const key = `deliver:move-${move.id}`;
  if (!(await Job.findOne({ where: { requestKey: key } }))) {
    mustStandAt(move, 'deliver');
    await audit(person, 'delivery asked for', `move ${move.id}`, shell);
  }
  const destination = await Instance.findByPk(move.destinationId, { rejectOnEmpty: true });
  await enqueue({
    kind: 'deliver',
    key,
    course: courseName(course),
    moveId: move.id,
    input: { round: 0, shell: { code: course.code, ...shell } },
    words: `delivering to ${destination.name}`,
  });
}

/** Starts the failed job of a move again. What it had asked of the platform in its last round is asked anew. */
export async function retry(person: Person, moveId: number): Promise<void> {
  mustBe(person, 'administrator');
  const job = await Job.findOne({ where: { moveId, state: 'failed' }, order: [['id', 'DESC']] });
  if (!job) throw new Refusal(problem('nothing-failed', 'No step of this move has failed.', 'Reload the page.'));
  await retryJob(person, job.id);
}

/** Starts a failed job again, of a move or not. */
export async function retryJob(person: Person, jobId: number): Promise<void> {
  mustBe(person, 'administrator');
  const job = await Job.findOne({ where: { id: jobId, state: 'failed' } });
  if (!job) throw new Refusal(problem('nothing-failed', 'This job has not failed.', 'Reload the page.'));
  const input = job.input as { round: number };
  await job.update({
    input: { ...input, round: input.round + 1, again: 0, still: null },
    state: 'queued',
    problem: null,
    words: 'trying again',
    attempts: 0,
    runAfter: new Date(),
    changedAt: new Date(),
    finishedAt: null,
    seenAt: null,
  });
  await audit(person, 'tried again', job.moveId === null ? `job ${job.id}` : `move ${job.moveId}`, { kind: job.kind });
}

export async function moveSummary(move: Move): Promise<MoveSummary> {
  const [course, jobs, copy] = await Promise.all([
    courseOf(move),
    Job.findAll({ where: { moveId: move.id }, order: [['id', 'ASC']] }),
    move.copyId === null ? null : Copy.findByPk(move.copyId),
  ]);
  const [from, to] = await Promise.all([
    Instance.findByPk(course.instanceId, { rejectOnEmpty: true }),
    Instance.findByPk(move.destinationId, { rejectOnEmpty: true }),
  ]);
  const { id, code, section, term, title } = course;
  return {
    id: move.id,
    course: { id, code, section, term, title },
    from: { id: from.id, name: from.name, platform: from.platform },
    to: { id: to.id, name: to.name, platform: to.platform },
    steps: stepsOf(move, jobs),
    at: stepOf(move),
    createdAt: move.createdAt.toISOString(),
    copy: copy ? asCopySummary(copy, move.id) : null,
    built: move.built ?? null,
    shell: move.shell ?? null,
    jobs: jobs.map(asJobSummary),
  };
}

export async function listMoves(person: Person): Promise<MoveSummary[]> {
  mustBe(person, 'administrator');
  const moves = await Move.findAll({ order: [['id', 'DESC']] });
  return Promise.all(moves.map(moveSummary));
}

export interface AskedView extends Pick<PreviewView, 'learner' | 'words'> {
  /** As the working copy has it, with the mends in it. */
  mended?: boolean;
}

/** A preview of one item of what was fetched, or of the working copy. */
export async function previewOfItem(
  services: Services,
  moveId: number,
  itemId: string,
  view: AskedView = {},
): Promise<PreviewAnswer> {
  const { course } = await readDocument(moveId, 'look');
  const item = course.items.find((i) => i.id === itemId);
  if (!item) throw missing('item');
  if (view.mended !== true) return previewFrom(services, moveId, item, { ...view, course });
  return withWorkingCopy(services, await moveById(moveId), async ({ pkg, course: mended }) => {
    const there = mended.items.find((i) => i.id === itemId);
    if (!there) return { form: 'none', why: 'it is left out' };
    return previewItem(pkg, there, nodeEngine, { ...view, course: mended });
  });
}

/** One film, sound or picture of what was fetched or of the working copy, to be read part by part. */
export async function withFile(
  services: Services,
  moveId: number,
  path: string,
  mended: boolean,
  work: (file: { size: number; mediaType: string; bytes: () => AsyncIterable<Uint8Array> }) => Promise<void>,
): Promise<void> {
  const give = async (pkg: Package) => {
    const mediaType = mediaTypeOf(path);
    if (!pkg.entries.has(path) || !isStreamable(mediaType)) throw missing('file');
    await work({ size: pkg.entry(path).size, mediaType, bytes: () => pkg.stream(path) });
  };
  const move = await moveById(moveId);
  if (mended) return withWorkingCopy(services, move, ({ pkg }) => give(pkg));
  const copy = move.copyId === null ? null : await Copy.findByPk(move.copyId);
  if (!copy) throw missing('kept copy');
  return withPackage(services, copy.sha256, give);
}

/** A preview of one file of what was fetched. */
export async function previewOfFile(services: Services, moveId: number, path: string): Promise<PreviewAnswer> {
  const item = { kind: 'file' as const, id: path, title: path, place: path, settings: {}, file: path };
  return previewFrom(services, moveId, item, {});
}

async function previewFrom(services: Services, moveId: number, item: Item, view: PreviewView): Promise<PreviewAnswer> {
  const move = await moveById(moveId);
  const copy = move.copyId === null ? null : await Copy.findByPk(move.copyId);
  if (!copy) throw missing('kept copy');
  return withPackage(services, copy.sha256, (pkg) => previewItem(pkg, item, nodeEngine, view));
}
