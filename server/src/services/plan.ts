import { courseName } from '@treenail/core';
import type { MoveStep } from '../contract/index.ts';
import { CourseRow, Instance, Move } from '../db/models.ts';
import { enqueue } from '../jobs/queue.ts';
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

/** Begins the step at which a move stands, where nobody has to be asked. */
export async function goOn(moveId: number): Promise<void> {
  const move = await Move.findByPk(moveId, { rejectOnEmpty: true });
  const step = stepOf(move);
  if (move.calledOffAt !== null || !goesByItself(step)) return;
  const course = await CourseRow.findByPk(move.courseId, { rejectOnEmpty: true });
  const at = step === 'check' ? move.destinationId : course.instanceId;
  const { name } = await Instance.findByPk(at, { rejectOnEmpty: true });
  await enqueue({
    kind: step,
    key: `${step}:move-${move.id}`,
    course: courseName(course),
    moveId: move.id,
    input: { round: 0 },
    of: name,
  });
}
