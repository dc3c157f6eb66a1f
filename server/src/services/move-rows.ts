import { Refusal, problem } from '@treenail/core';
import type { FindOptions, InferAttributes } from 'sequelize';
import type { MoveStep } from '../contract/index.ts';
import { CourseRow, Move, MovePlan, MoveStepRow, type StepRowState } from '../db/models/index.ts';

/** Moves as they are found in the database. */

export function missing(what: string): Refusal {
  return new Refusal(problem('not-found', `There is no such ${what}.`, 'Go back to the list and choose again.'));
}

/** With its steps, its plans and its deliveries: each by one query, however many moves there are. */
const WHOLE = [
  { association: 'steps', separate: true },
  { association: 'plans', separate: true, order: [['version', 'ASC'] as [string, string]] },
  { association: 'deliveries', separate: true, order: [['id', 'ASC'] as [string, string]] },
];

export async function moveById(id: number): Promise<Move> {
  const move = await Move.findByPk(id, { include: WHOLE });
  if (!move) throw missing('move');
  return move;
}

export function movesBy(
  options: Pick<FindOptions<InferAttributes<Move>>, 'where' | 'order' | 'limit'>,
): Promise<Move[]> {
  return Move.findAll({ ...options, include: WHOLE });
}

/**
 * A move with the first version of its plan. `fetched` is what is told of the copy that it begins with.
 * @throws UniqueConstraintError where there is one of this key
 */
export async function createMove(
  values: Pick<Move, 'courseId' | 'destinationId' | 'createdBy' | 'createdAt' | 'openKey'> & { copyId: number | null },
  fetched = '',
): Promise<Move> {
  const { sequelize } = Move;
  if (!sequelize) throw new Error('the models are not bound to a database');
  const id = await sequelize.transaction(async (transaction) => {
    const move = await Move.create(values, { transaction });
    await MovePlan.create({ moveId: move.id, version: 1 }, { transaction });
    return move.id;
  });
  if (values.copyId !== null) await noteStep(id, 'fetch', 'done', fetched);
  return moveById(id);
}

/** Writes down how far a step is, and one line of it for the spine. */
export async function noteStep(
  moveId: number,
  step: MoveStep,
  state: StepRowState,
  result: string,
  decidedBy: number | null = null,
): Promise<void> {
  await MoveStepRow.upsert({ moveId, step, state, result, decidedBy, changedAt: new Date() });
}

export async function courseOf(move: Move): Promise<CourseRow> {
  const course = await CourseRow.findByPk(move.courseId);
  if (!course) throw missing('course');
  return course;
}
