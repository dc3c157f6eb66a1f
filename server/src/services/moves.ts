import {
  Refusal,
  courseName,
  decided,
  missingOf,
  momentWords,
  problem,
  quietFrom,
  readWords,
  readableSize,
} from '@treenail/core';
import { Op, UniqueConstraintError } from 'sequelize';
import * as z from 'zod';
import type { BeginningsAnswer, DeliverRequest, Errand, NewMove, Person, ThereAnswer } from '../contract/index.ts';
import {
  Copy,
  CourseRow,
  Delivery,
  Instance,
  Job,
  Move,
  MovePlan,
  MoveStepRow,
  planOf,
  isBrought,
  isDelivered,
  stands,
  type WholeMove,
} from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import type { Services } from './context.ts';
import { decisionsOf } from './decided.ts';
import { documentIfAny } from './documents.ts';
import { mustBeAsSeen, mustBeFree, mustBeTyped } from './into.ts';
import { connectorOf, kindOf } from './instances.ts';
import { callOffJob, isUnfinished } from './jobs.ts';
import { canReopen, lineOf, mustNotBeCalledOff, stepOf } from './move-steps.ts';
import { audit, mustBe } from './people.ts';
import { zone } from './settings.ts';
import { callOffPart } from './further.ts';
import { goOn, ofPart } from './plan.ts';
import { asCopySummary, factsOf } from './strongroom.ts';
import { courseDecided, mustBeCurrent, planContent } from './working.ts';
import { courseOf, createMove, missing, moveById, movesBy, noteStep, together } from './move-rows.ts';

const Shell = z.object({ id: z.string() });

/**
 * Starts a move of a course and the fetch that begins it. While a move of this course to this destination is not
 * delivered, asking again gives that one, unless another is asked for: two presses of the button make one export.
 */
export async function startMove(
  person: Person,
  asked: NewMove,
  errand: Errand | null = null,
): Promise<{ moveId: number; fresh: boolean }> {
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
        {},
        'Choose a course of another instance.',
      ),
    );
  }
  if (!destination.takes) {
    throw new Refusal(problem('can-not-deliver', `Courses can't be delivered into ${destination.name}.`));
  }
  const copy = asked.copyId === undefined ? null : await Copy.findByPk(asked.copyId);
  if (copy ? copy.courseId !== course.id || copy.removedAt : kindOf(source).source === null) {
    throw missing('kept copy of this course');
  }
  const openKey = `${course.id}>${destination.id}${asked.another === undefined ? '' : ` ${asked.another}`}`;
  const { moveId, fresh } = await createOrFind(
    { courseId: course.id, destinationId: destination.id, createdBy: person.id, openKey, errand },
    copy,
  );
  await goOn(moveId);
  if (fresh)
    await audit(person, 'move started', `move ${moveId}`, {
      course: courseName(course),
      from: source.name,
      to: destination.name,
    });
  return { moveId, fresh };
}

async function createOrFind(
  values: { courseId: number; destinationId: number; createdBy: number; openKey: string; errand: Errand | null },
  copy: Copy | null,
): Promise<{ moveId: number; fresh: boolean }> {
  const { openKey } = values;
  const before = await Move.findOne({ where: { openKey } });
  if (before) return { moveId: before.id, fresh: false };
  try {
    const { id: moveId } = await createMove(
      { ...values, createdAt: new Date(), copyId: copy?.id ?? null },
      copy ? `${copy.format}, ${readableSize(copy.size)}, from the strongroom, ${readWords(factsOf(copy))}` : '',
    );
    return { moveId, fresh: true };
  } catch (error) {
    // Somebody pressed at the same moment: theirs is the move.
    if (!(error instanceof UniqueConstraintError)) throw error;
    const theirs = await Move.findOne({ where: { openKey }, rejectOnEmpty: true });
    return { moveId: theirs.id, fresh: false };
  }
}

/** What a move of the course can begin with: its platform's packages, the richest first, and what is kept of it. */
export async function beginningsOf(services: Services, courseId: number): Promise<BeginningsAnswer> {
  const course = await CourseRow.findByPk(courseId);
  if (!course) throw missing('course');
  const instance = await Instance.findByPk(course.instanceId, { rejectOnEmpty: true });
  const sourceSide = connectorOf(services.config.secret, instance).source;
  const [copies, moves] = await Promise.all([
    Copy.findAll({ where: { courseId, removedAt: null }, order: [['keptAt', 'DESC']] }),
    movesBy({ where: { courseId, calledOffAt: null }, order: [['id', 'DESC']] }),
  ]);
  return {
    forms: [...(sourceSide?.forms ?? [])]
      .sort((a, b) => a.lacks.length - b.lacks.length)
      .map((form) => ({ ...form, lacks: [...form.lacks] })),
    copies: copies.map((copy) => asCopySummary(copy, null)),
    open: moves
      .filter((move) => !isDelivered(move))
      .map((move) => ({ id: move.id, destinationId: move.destinationId, at: stepOf(move) })),
  };
}

/** What the destination of a move has already that a person would take for the same course. */
export async function thereAlready(moveId: number): Promise<ThereAnswer> {
  const move = await moveById(moveId);
  const [course, destination] = await Promise.all([
    courseOf(move),
    Instance.findByPk(move.destinationId, { rejectOnEmpty: true }),
  ]);
  const [rows, moves] = await Promise.all([
    CourseRow.findAll({ where: { instanceId: destination.id, code: course.code }, order: [['id', 'ASC']] }),
    movesBy({ where: { destinationId: destination.id, id: { [Op.ne]: move.id } } }),
  ]);
  const brought = moves.flatMap((m) => m.deliveries).filter((d) => d.deliveredAt !== null);
  const broughtBy = new Map(brought.map((d) => [Shell.nullable().parse(d.shell ?? null)?.id, d]));
  return {
    listedAt: destination.listedAt?.toISOString() ?? null,
    courses: rows
      .filter((row) => !move.deliveries.some((d) => d.shell?.id === row.remoteId))
      .map((row) => {
        const by = broughtBy.get(row.remoteId);
        const { title, code, section, term } = row;
        return { title, code, section, term, moveId: by?.moveId ?? null, at: by?.deliveredAt?.toISOString() ?? null };
      }),
  };
}

/** What is known to be missing of a move's course before anything is moved. */
export async function missingIn(moveId: number): Promise<string[]> {
  const copy = await Copy.findByPk((await moveById(moveId)).copyId ?? 0);
  return copy ? missingOf(factsOf(copy)) : [];
}

/** Opens the fit again: everything can be decided anew, in another version of the plan. */
export async function reopenFit(person: Person, moveId: number): Promise<void> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  const plan = planOf(move);
  if (plan.acceptedAt === null) return;
  const jobs = await Job.findAll({ where: { moveId, kind: { [Op.in]: ['build', 'deliver'] } } });
  if (!canReopen(move, jobs)) {
    throw new Refusal(problem('delivery-begun', 'The delivery has begun: what it sends can not be changed any more.'));
  }
  for (const job of jobs) if (isUnfinished(job)) await callOffJob(job);
  const { version, carriedAs, formChosen, tidyVersion, workedVersion, further } = plan;
  const next = { moveId, version: version + 1, carriedAs, formChosen, tidyVersion, workedVersion, further };
  await together(async (transaction) => {
    await MovePlan.create(next, { transaction });
    await MoveStepRow.destroy({ where: { moveId, step: 'build' }, transaction });
    await noteStep(moveId, 'fit', 'ahead', lineOf(move, 'fit'), null, transaction);
  });
  await audit(person, 'fit opened again', `move ${moveId}`);
}

/** Ends a move that is not delivered: its jobs are called off, here and at the platforms where these can. */
export async function callOffMove(person: Person, moveId: number): Promise<void> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  if (isBrought(move)) {
    throw new Refusal(problem('delivered', 'This move is delivered: there is nothing to call off.'));
  }
  if (isDelivered(move)) {
    await callOffPart(move);
    await audit(person, 'further part called off', `move ${moveId}`);
    return;
  }
  if (move.calledOffAt !== null) return;
  await move.update({ calledOffAt: new Date(), openKey: null });
  for (const job of await Job.findAll({ where: { moveId } })) if (isUnfinished(job)) await callOffJob(job);
  await audit(person, 'move called off', `move ${moveId}`);
}

/** Takes a move out of the list, or puts it back. What it did and brought stays. */
export async function putAway(person: Person, moveId: number, away: boolean): Promise<void> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  if (away && !isBrought(move) && move.calledOffAt === null) {
    throw new Refusal(problem('still-open', 'This move is not over.'));
  }
  await move.update({ putAwayAt: away ? new Date() : null });
  await audit(person, away ? 'move put away' : 'move taken out again', `move ${moveId}`);
}

function mustStandAt(move: WholeMove, step: 'fit' | 'build' | 'deliver'): void {
  const at = stepOf(move);
  if (at === step) return;
  throw new Refusal(problem('wrong-step', `The move stands at another step (${at}).`));
}

/** Records of students go nowhere unless a person said why. */
async function mustBeMeant(moveId: number): Promise<void> {
  const found = await documentIfAny(moveId, 'findings');
  const records = found?.findings.filter((f) => f.kind === 'people-records') ?? [];
  if (records.length === 0) return;
  const said = decided(records, await decisionsOf(moveId));
  const unsaid = records.find((f) => !said.has(f.key));
  if (!unsaid) return;
  throw new Refusal(problem('people-unsaid', `Records of students would go along: ${unsaid.evidence}.`));
}

/** The person has seen the forecast and wants the package built. */
export async function acceptFit(person: Person, moveId: number): Promise<void> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  mustNotBeCalledOff(move);
  const plan = planOf(move);
  if (plan.acceptedAt === null) {
    mustStandAt(move, 'fit');
    mustBeCurrent(move);
    if (plan.further !== null && (await courseDecided(moveId)).items.length === 0)
      throw new Refusal(
        problem('part-empty', 'Nothing goes by this part.', {}, 'Tick what goes, or call this part off.'),
      );
    await mustBeMeant(moveId);
    const accepted = await planContent(move);
    await together(async (transaction) => {
      await plan.update({ acceptedAt: new Date(), acceptedBy: person.id, accepted }, { transaction });
      await noteStep(moveId, 'fit', 'done', lineOf(move, 'fit'), person.id, transaction);
    });
    await audit(person, 'fit accepted', `move ${move.id}`);
  }
  const course = await courseOf(move);
  const underWay = await Job.count({
    where: { moveId, kind: 'build', state: { [Op.in]: ['queued', 'running', 'waiting'] } },
  });
  if (plan.built || underWay > 0) return;
  // Each version of the plan has a package of its own; two presses have one.
  await enqueue({
    kind: 'build',
    key: `build:move-${move.id}:plan-${plan.version}`,
    course: courseName(course),
    moveId: move.id,
    input: { round: 0 },
  });
}

/**
 * What was changed at its source after it was fetched would be missing at the destination. Of a further part, and of what is
 * restored or given, a person said what it is taken from.
 */
async function mustBeNewest(move: WholeMove, { changedAt, title, instanceId }: CourseRow): Promise<void> {
  const isSaid = planOf(move).further !== null || move.errand;
  const copy = !isSaid && move.copyId !== null ? await Copy.findByPk(move.copyId) : null;
  const source = await Instance.findByPk(instanceId, { rejectOnEmpty: true });
  if (!copy || changedAt <= copy.keptAt || kindOf(source).source === null) return;
  const when = (at: Date) => momentWords({ is: 'instant', at: at.toISOString(), zone: 'UTC' });
  throw new Refusal(
    problem(
      'source-newer',
      `“${title}” was changed at ${source.name} on ${when(changedAt)}; what would be sent was fetched on ${when(copy.keptAt)}. Nothing was sent.`,
    ),
  );
}

export async function deliver(
  services: Services,
  person: Person,
  moveId: number,
  { typed, asKept, quiet, ...shell }: DeliverRequest,
): Promise<void> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  const course = await courseOf(move);
  mustNotBeCalledOff(move);
  if (isBrought(move)) {
    throw new Refusal(problem('delivered-already', 'This move is delivered already: nothing was sent again.'));
  }
  // One that was called off is not gone on with: its shell and upload were its own.
  const off = await Job.count({ where: { moveId, kind: 'deliver', state: 'called off' } });
  const key = `deliver:move-${move.id}${ofPart(move)}${off === 0 ? '' : `:${off}`}`;
  const into = planOf(move).further === null ? await documentIfAny(moveId, 'into') : null;
  if (!(await Job.findOne({ where: { requestKey: key } }))) {
    mustStandAt(move, 'deliver');
    if (!asKept) await mustBeNewest(move, course);
    if (into) {
      await mustBeFree(move, into);
      await mustBeAsSeen(services, move, into);
      mustBeTyped(into, typed);
    }
    const how = into ? { into: into.title, way: into.way, standing: { ...into.standing, held: [] } } : shell;
    await audit(person, 'delivery asked for', `move ${move.id}`, how);
    await Delivery.findOrCreate({
      where: { requestKey: key },
      defaults: {
        moveId,
        planVersion: planOf(move).version,
        requestKey: key,
        asked: shell,
        askedBy: person.id,
        askedAt: new Date(),
        way: into?.way ?? null,
      },
    });
  }
  const destination = await Instance.findByPk(move.destinationId, { rejectOnEmpty: true });
  // A further part goes to where the others went.
  const earlier = move.deliveries.findLast(stands)?.shell ?? null;
  const there = into && { id: into.id, title: into.title, url: into.url };
  await enqueue({
    kind: 'deliver',
    key,
    course: courseName(course),
    moveId: move.id,
    input: { round: 0, shell: { code: course.code, ...shell }, into: earlier ?? there, way: into?.way ?? null },
    of: destination.name,
    after: quiet ? await quietOf(services, destination) : null,
  });
}

/** When the quiet hours of an instance begin; `null` where it has none, or they last. */
async function quietOf(services: Services, { name, quiet }: Instance): Promise<{ at: Date; words: string } | null> {
  const at = quiet ? quietFrom(new Date(), quiet, await zone(services)) : null;
  return at && quiet ? { at, words: `waiting for the quiet hours of ${name}, from ${quiet.from}` } : null;
}

export * from './move-files.ts';
export { listMoves, moveSummary } from './move-list.ts';
export { courseOf, moveById } from './move-rows.ts';
