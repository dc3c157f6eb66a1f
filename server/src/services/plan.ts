import { courseName } from '@treenail/core';
import type { MoveStep } from '../contract/index.ts';
import { CourseRow, Instance, Job, planOf, type WholeMove } from '../db/models/index.ts';
import { enqueue, type NewJob } from '../jobs/queue.ts';
import { moveById } from './move-rows.ts';
import { stepOf } from './move-steps.ts';

/**
 * What follows in a move: steps that go on by themselves, one after the other, until a person is needed. Asked twice it
 * asks for nothing twice.
 */
const BY_ITSELF = ['fetch', 'look', 'check'] as const satisfies readonly MoveStep[];
type ByItself = (typeof BY_ITSELF)[number];

function goesByItself(step: MoveStep): step is ByItself {
  return (BY_ITSELF as readonly MoveStep[]).includes(step);
}

/** Begins the step at which a move stands, where nobody has to be asked; one that failed begins again. */
export async function goOn(moveId: number): Promise<void> {
  const job = await jobToCome(moveId);
  if (job) await enqueue(job);
}

/** What comes after a job of a move that is done. A step that failed, or was called off, waits for a person. */
export async function followUp(moveId: number): Promise<void> {
  const job = await jobToCome(moveId);
  if (job && (await Job.count({ where: { requestKey: job.key } })) === 0) await enqueue(job);
}

/** What a job's key bears of a part that follows others, and of a delivery after one that was taken back; the first has nothing of it. */
export function ofPart(move: WholeMove): string {
  const { further } = planOf(move);
  const again = move.deliveries.filter((d) => d.takenBackAt !== null).length;
  return `${further === null ? '' : `:part-${further.key}`}${again === 0 ? '' : `:again-${again}`}`;
}

async function jobToCome(moveId: number): Promise<NewJob<ByItself> | null> {
  const move = await moveById(moveId);
  const step = stepOf(move);
  if (move.calledOffAt !== null || !goesByItself(step)) return null;
  const course = await CourseRow.findByPk(move.courseId, { rejectOnEmpty: true });
  const at = step === 'check' ? move.destinationId : course.instanceId;
  const { name } = await Instance.findByPk(at, { rejectOnEmpty: true });
  return {
    kind: step,
    // A further part is fetched, looked into and checked once more.
    key: `${step}:move-${move.id}${ofPart(move)}`,
    course: courseName(course),
    moveId: move.id,
    input: { round: 0 },
    of: name,
  };
}
