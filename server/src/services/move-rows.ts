import { Refusal, problem } from '@treenail/core';
import type { FindOptions, InferAttributes, Transaction } from 'sequelize';
import type { Errand, MoveStep } from '../contract/index.ts';
import { CourseRow, Move, MovePlan, MoveStepRow, type StepRowState, type WholeMove } from '../db/models/index.ts';

/** Moves as they are found in the database. */

export function missing(what: string): Refusal {
  return new Refusal(problem('not-found', `There is no such ${what}.`));
}

/** With its steps, its plans and its deliveries: each by one query, however many moves there are. */
const WHOLE = [
  { association: 'steps', separate: true },
  { association: 'plans', separate: true, order: [['version', 'ASC'] as [string, string]] },
  { association: 'deliveries', separate: true, order: [['id', 'ASC'] as [string, string]] },
];

export async function moveById(id: number): Promise<WholeMove> {
  const move = await Move.findByPk(id, { include: WHOLE });
  if (!move) throw missing('move');
  // The associations are there, since they were asked for.
  return move as WholeMove;
}

export async function movesBy(
  options: Pick<FindOptions<InferAttributes<Move>>, 'where' | 'order' | 'limit'>,
): Promise<WholeMove[]> {
  return (await Move.findAll({ ...options, include: WHOLE })) as WholeMove[];
}

/**
 * A move with the first version of its plan. `fetched` is what is told of the copy that it begins with.
 * @throws UniqueConstraintError where there is one of this key
 */
export async function createMove(
  values: Pick<Move, 'courseId' | 'destinationId' | 'createdBy' | 'createdAt' | 'openKey'> & {
    copyId: number | null;
    errand?: Errand | null;
  },
  fetched = '',
): Promise<WholeMove> {
  const id = await together(async (transaction) => {
    const move = await Move.create(values, { transaction });
    await MovePlan.create({ moveId: move.id, version: 1 }, { transaction });
    if (values.copyId !== null) await noteStep(move.id, 'fetch', 'done', fetched, null, transaction);
    return move.id;
  });
  return moveById(id);
}

/** What is written all or not at all: a server that dies in its middle leaves no move between two steps. */
export function together<T>(work: (transaction: Transaction) => Promise<T>): Promise<T> {
  const { sequelize } = Move;
  if (!sequelize) throw new Error('the models are not bound to a database');
  return sequelize.transaction(work);
}

/** Writes down how far a step is, and one line of it for the spine. */
export async function noteStep(
  moveId: number,
  step: MoveStep,
  state: StepRowState,
  result: string,
  decidedBy: number | null = null,
  transaction: Transaction | null = null,
): Promise<void> {
  await MoveStepRow.upsert({ moveId, step, state, result, decidedBy, changedAt: new Date() }, { transaction });
}

export async function courseOf(move: Move): Promise<CourseRow> {
  const course = await CourseRow.findByPk(move.courseId);
  if (!course) throw missing('course');
  return course;
}
