import { Refusal, problem } from '@treenail/core';
import { CourseRow, Move } from '../db/models/index.ts';

/** Moves as they are found in the database. */

export function missing(what: string): Refusal {
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
