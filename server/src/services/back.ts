import { Refusal, count, courseName, problem } from '@treenail/core';
import type { BackAnswer, Person, Standing } from '../contract/index.ts';
import {
  Copy,
  Instance,
  Job,
  MoveDocument,
  MoveStepRow,
  deliveryOf,
  needsItsCopy,
  type Delivery,
  type WholeMove,
} from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import type { Services } from './context.ts';
import { thereOf } from './into.ts';
import { courseOf, moveById, noteStep, together } from './move-rows.ts';
import { canTakeBack } from './move-steps.ts';
import { audit, mustBe } from './people.ts';
import { retryJob } from './retries.ts';

/** A delivery that is taken back: what was there before it is there again. */

/**
 * `course`: the shell that was made for it is removed; `parts`: what came by it is taken out, and nothing else; `restore`: all that
 * is there is taken out, and what was there comes again from the kept copy.
 */
export type BackBy = 'course' | 'parts' | 'restore';

export interface BackPlan {
  by: BackBy;
  delivery: Delivery;
  shell: { id: string; title: string };
  standing: Standing;
  brought: readonly string[];
  /** What stood there before; `null` where nothing did. */
  copyId: number | null;
  /** What came there since by others, the destination's own names. */
  since: readonly string[];
  /** Why it can't be done; '' where it can. */
  why: string;
}

/** What taking back would do, by what is there now. */
export async function backPlan(services: Services, move: WholeMove): Promise<BackPlan> {
  const { there } = await thereOf(services, move);
  const delivery = deliveryOf(move)?.delivery;
  const shell = delivery?.shell;
  // Of one that was called off on its way nobody knows what came.
  const half = { held: [], work: 0, overwrote: true };
  const brought = delivery?.brought ?? (delivery?.deliveredAt === null ? half : null);
  if (!delivery || !shell || !brought) {
    throw new Refusal(
      problem(
        'no-way-back',
        'What came by this delivery was not written down: Treenail can not tell it from the rest.',
      ),
    );
  }
  const standing = await there.standing(shell.id);
  const by = delivery.way === null ? 'course' : needsItsCopy(delivery) ? 'restore' : 'parts';
  const came = new Set(brought.held);
  const ours = standing.workedIn.filter((id) => came.has(id)).length;
  const used = by === 'parts' ? ours : standing.work;
  const copy = delivery.beforeCopyId === null ? null : await Copy.findByPk(delivery.beforeCopyId);
  const isGone = delivery.beforeCopyId !== null && (copy === null || copy.removedAt !== null);
  const why = standing.shut
    ? `“${shell.title}” is shut: nothing in it can be changed any more.`
    : by === 'restore' && isGone
      ? 'The kept copy of what was there before was removed from the strongroom: it can not come again.'
      : used > 0
        ? `Learners have worked in it meanwhile: ${by === 'parts' ? count(ours, 'item') + ' that came' : count(standing.work, 'thing')} would be lost with what they did.`
        : '';
  const before = delivery.way === 'beside' || delivery.way === 'into' || delivery.deliveredAt === null ? null : came;
  const since = before === null ? [] : standing.held.filter((id) => !before.has(id));
  return { by, delivery, shell, standing, brought: brought.held, copyId: delivery.beforeCopyId, since, why };
}

/** What taking back would do, in words. */
export async function backOf(services: Services, moveId: number): Promise<BackAnswer> {
  const move = await moveById(moveId);
  const jobs = await Job.findAll({ where: { moveId } });
  if (!canTakeBack(move, jobs)) return { can: false, says: [whyNot(move)] };
  try {
    const plan = await backPlan(services, move);
    if (plan.why !== '') return { can: false, says: [plan.why] };
    return { can: true, says: await saysOf(plan) };
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    return { can: false, says: [`${error.problem.message} ${error.problem.action}`.trim()] };
  }
}

async function saysOf({ by, shell, standing, brought, copyId, since }: BackPlan): Promise<string[]> {
  const copy = copyId === null ? null : await Copy.findByPk(copyId);
  const others = count(since.length, 'thing');
  const said = {
    course: [
      `“${shell.title}” was made for this delivery, nobody has worked in it, and it will be removed with all that is in it.`,
      since.length > 0 ? `${others} came into it since, by others, and will be gone too.` : '',
      standing.learners + standing.tutors > 0
        ? `${count(standing.learners + standing.tutors, 'person', 'people')} in it will not be in it any more.`
        : '',
    ],
    parts: [
      `${count(brought.length, 'thing')} that came by this delivery will be taken out of “${shell.title}” by ${brought.length === 1 ? 'its identifier' : 'their identifiers'}.`,
      'What was there before, and what others put there since, stays as it is.',
    ],
    restore: [
      copy
        ? `All that is in “${shell.title}” will be taken out, and what was there before comes again from the kept copy ${copy.fileName}.`
        : `All that is in “${shell.title}” will be taken out: nothing was in it before.`,
      since.length > 0 ? `${others} came into it since, by others, and will be gone too.` : '',
      'A copy of what is there now is kept and read first. Who is in the course stays.',
    ],
  }[by];
  return said.filter((sentence) => sentence !== '');
}

function whyNot(move: WholeMove): string {
  const { deliveries } = move;
  if (deliveries.every((d) => d.deliveredAt === null || d.takenBackAt !== null))
    return 'Nothing of this move is delivered.';
  if (move.plans.some((p) => p.further !== null))
    return 'Parts that went one after another can not be taken back: of what stood between them no copy was kept.';
  return 'Something of this move is still at work.';
}

export async function takeBack(services: Services, person: Person, moveId: number): Promise<void> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  const jobs = await Job.findAll({ where: { moveId } });
  const begun = jobs.find((job) => job.kind === 'take-back' && !['done', 'called off', 'failed'].includes(job.state));
  if (begun) return;
  if (!canTakeBack(move, jobs)) throw new Refusal(problem('no-way-back', whyNot(move)));
  const { delivery, why, by } = await backPlan(services, move);
  if (why !== '') throw new Refusal(problem('no-way-back', why));
  const [course, { name }] = await Promise.all([
    courseOf(move),
    Instance.findByPk(move.destinationId, { rejectOnEmpty: true }),
  ]);
  const key = `take-back:move-${moveId}:delivery-${delivery.id}`;
  const failed = jobs.find((job) => job.requestKey === key && job.state === 'failed');
  if (failed) return retryJob(person, failed.id);
  await enqueue({
    kind: 'take-back',
    key,
    course: courseName(course),
    moveId,
    askedBy: person.id,
    input: { round: 0 },
    of: name,
  });
  await audit(person, 'delivery is to be taken back', `move ${moveId}`, { by });
}

/** What was told of a delivery is not so any more: the move stands where it is delivered. */
export async function noteTakenBack(move: WholeMove, delivery: Delivery, by: number | null): Promise<void> {
  await together(async (transaction) => {
    await delivery.update({ takenBackAt: new Date() }, { transaction });
    await MoveStepRow.destroy({ where: { moveId: move.id, step: ['deliver', 'check', 'hand-over'] }, transaction });
    const kind = ['log', 'arrived', 'pages', 'comparison', 'report', 'sent', 'further', 'theirs', 'into', 'settled'];
    await MoveDocument.destroy({ where: { moveId: move.id, kind }, transaction });
    await noteStep(move.id, 'deliver', 'ahead', 'taken back; can be delivered again', by, transaction);
  });
}
