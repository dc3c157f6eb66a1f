import { Refusal, problem } from '@treenail/core';
import type { JobKind, MoveStep, StepState } from '../api/contract.ts';
import type { Job, Move } from '../db/models.ts';

/** Where a move stands: the first step that is not done. */
export function stepOf(move: Move): MoveStep {
  if (move.copyId === null) return 'fetch';
  if (!('look' in move.results)) return 'look';
  if (move.acceptedAt === null) return 'fit';
  if (!move.built) return 'build';
  if (!move.deliveredAt) return 'deliver';
  if (!('check' in move.results)) return 'check';
  return 'hand-over';
}

/** Whether what goes can still be decided. */
export function isOpen(move: Move): boolean {
  return stepOf(move) === 'fit';
}

export function mustBeOpen(move: Move): void {
  if (isOpen(move)) return;
  throw new Refusal(
    problem(
      'tidy-closed',
      'The fit of this move is accepted: the package is built of what was decided until then.',
      'Start another move of the course to decide otherwise.',
    ),
  );
}

const JOB_OF_STEP: Partial<Record<MoveStep, JobKind>> = {
  fetch: 'fetch',
  look: 'look',
  tidy: 'tidy',
  build: 'build',
  deliver: 'deliver',
  check: 'check',
};

const ORDER: readonly MoveStep[] = ['fetch', 'look', 'tidy', 'fit', 'build', 'deliver', 'check', 'hand-over'];

export function stepsOf(move: Move, jobs: readonly Job[]): { step: MoveStep; state: StepState; result: string }[] {
  const at = ORDER.indexOf(stepOf(move));
  return ORDER.map((step, index) => {
    const job = jobs.find((j) => j.kind === JOB_OF_STEP[step]);
    const result = move.results[step] ?? '';
    if (index < at) return { step, state: 'done', result };
    if (index > at) return { step, state: 'ahead', result };
    if (job?.state === 'failed') return { step, state: 'failed', result: job.problem?.message ?? 'failed' };
    if (job && job.state !== 'done') return { step, state: 'working', result: job.words };
    return { step, state: 'here', result };
  });
}
