import { Refusal, problem } from '@treenail/core';
import type { MoveStep, StepState } from '../contract/index.ts';
import type { Job, Move } from '../db/models/index.ts';
import { jobOfStep } from '../jobs/definitions.ts';

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
  return stepOf(move) === 'fit' && move.calledOffAt === null;
}

/** Whether an accepted fit can be opened again: nothing is on its way to the destination, and nothing is there. */
export function canReopen(move: Move, jobs: readonly Job[]): boolean {
  return (
    move.acceptedAt !== null &&
    move.deliveredAt === null &&
    move.calledOffAt === null &&
    jobs.every((job) => job.kind !== 'deliver' || job.state === 'called off')
  );
}

export function mustNotBeCalledOff(move: Move): void {
  if (move.calledOffAt === null) return;
  throw new Refusal(
    problem('called-off', 'This move was called off.', 'Start another move of the course: its copies are kept.'),
  );
}

export function mustBeOpen(move: Move): void {
  if (isOpen(move)) return;
  throw new Refusal(
    problem(
      'tidy-closed',
      'The fit of this move is accepted: the package is built of what was decided until then.',
      'Open the fit again to decide otherwise, as long as it is not delivered; then start another move of the course.',
    ),
  );
}

const ORDER: readonly MoveStep[] = ['fetch', 'look', 'tidy', 'fit', 'build', 'deliver', 'check', 'hand-over'];

export function stepsOf(move: Move, jobs: readonly Job[]): { step: MoveStep; state: StepState; result: string }[] {
  const at = ORDER.indexOf(stepOf(move));
  return ORDER.map((step, index) => {
    // The newest: a step may have been gone through again.
    const job = jobs.findLast((j) => j.kind === jobOfStep(step)?.kind);
    const result = move.results[step] ?? '';
    // Nobody has looked at what was found: that the fit can be seen does not make it done.
    if (step === 'tidy' && index < at && (move.openFindings ?? 0) > 0) return { step, state: tidyState(job), result };
    if (index < at) return { step, state: 'done', result };
    if (index > at) return { step, state: 'ahead', result };
    if (job?.state === 'failed') return { step, state: 'failed', result: job.problem?.message ?? 'failed' };
    if (job && job.state !== 'done' && job.state !== 'called off') return { step, state: 'working', result: job.words };
    return { step, state: 'here', result };
  });
}

/** A step of which something is left to decide. */
function tidyState(job: Job | undefined): StepState {
  if (job?.state === 'failed') return 'failed';
  return job && job.state !== 'done' && job.state !== 'called off' ? 'working' : 'open';
}
