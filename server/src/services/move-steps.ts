import { Refusal, problem } from '@treenail/core';
import { MOVE_STEPS as ORDER, type MoveStep, type StepState } from '../contract/index.ts';
import { type Job, planOf, isBrought, isDone, stands, type WholeMove } from '../db/models/index.ts';
import type { DestinationSide, TakenForm } from '../platforms/index.ts';
import { jobOfStep } from '../jobs/definitions.ts';

/** Where a move stands: the first step that is not done. */
export function stepOf(move: WholeMove): MoveStep {
  return ORDER.find((step) => !mayBePassed(step) && !isDone(move, step)) ?? 'hand-over';
}

/** Findings and dates hold nothing up: a person may go past them. */
export function mayBePassed(step: MoveStep): boolean {
  return PASSED.includes(step);
}
export const PASSED: readonly MoveStep[] = ['tidy', 're-date'];

/** Whether what goes can still be decided. */
export function isOpen(move: WholeMove): boolean {
  return stepOf(move) === 'fit' && move.calledOffAt === null;
}

/** Whether an accepted fit can be opened again: nothing is on its way to the destination, and nothing is there. */
export function canReopen(move: WholeMove, jobs: readonly Job[]): boolean {
  // Deliveries of parts that went before are over.
  const before = new Set(move.deliveries.flatMap((d) => (d.deliveredAt === null ? [] : [d.requestKey])));
  return (
    planOf(move).acceptedAt !== null &&
    !isBrought(move) &&
    move.calledOffAt === null &&
    jobs.every((job) => job.kind !== 'deliver' || job.state === 'called off' || before.has(job.requestKey))
  );
}

/** The format that a move is carried in. */
export function carriedAs(move: WholeMove, destinationSide: DestinationSide): TakenForm {
  return destinationSide.takes.find((t) => t.target === planOf(move).carriedAs) ?? destinationSide.takes[0];
}

/** Whether a further part can be begun: what was to go is there, and was looked at there. */
export function canSendMore(move: WholeMove): boolean {
  return isBrought(move) && isDone(move, 'check') && move.calledOffAt === null;
}

/**
 * Whether its delivery can be taken back: the only one that stands, or one that was called off when a copy of what stood there was
 * kept, so that something of that may be gone. Parts that went one after another stay: of what stood between them no copy is kept.
 */
export function canTakeBack(move: WholeMove, jobs: readonly Job[]): boolean {
  const over = jobs.every((job) => !(['queued', 'running', 'waiting'] as string[]).includes(job.state));
  if (!over || planOf(move).further !== null) return false;
  return (isBrought(move) && move.deliveries.filter(stands).length === 1) || brokenOff(move, jobs);
}

/** Whether a delivery into a course that is there was called off on its way, after what stood there was kept. */
export function brokenOff(move: WholeMove, jobs: readonly Job[]): boolean {
  const last = move.deliveries.findLast((d) => d.takenBackAt === null);
  const job = jobs.find((one) => one.requestKey === last?.requestKey);
  return last?.deliveredAt === null && last.beforeCopyId !== null && job?.state === 'called off';
}

/** Which part of the course it is that is moved: the first, or one that goes where others went. */
export function partNumber(move: WholeMove): number {
  // A fit that was opened again has the same part in another version.
  const before = new Set(move.deliveries.flatMap((d) => (stands(d) ? [d.planVersion] : [])));
  return before.size + (isBrought(move) ? 0 : 1);
}

export function mustNotBeCalledOff(move: WholeMove): void {
  if (move.calledOffAt === null) return;
  throw new Refusal(problem('called-off', 'This move was called off.'));
}

export function mustBeOpen(move: WholeMove): void {
  if (isOpen(move)) return;
  throw new Refusal(
    problem('tidy-closed', 'The fit of this move is accepted: the package is built of what was decided until then.'),
  );
}

/** A step as it is told; `by` is the identifier of who decided it. */
export interface ToldStep {
  step: MoveStep;
  state: StepState;
  result: string;
  by: number | null;
  at: string | null;
}

export function stepsOf(move: WholeMove, jobs: readonly Job[]): ToldStep[] {
  const at = ORDER.indexOf(stepOf(move));
  return ORDER.map((step, index): ToldStep => {
    // The newest: a step may have been gone through again.
    const job = jobs.findLast((j) => j.kind === jobOfStep(step)?.kind);
    const row = move.steps.find((s) => s.step === step);
    const lines = {
      step,
      result: step === 'fit' && row?.state === 'done' ? `accepted; ${row.result}` : (row?.result ?? ''),
      by: row?.decidedBy ?? null,
      at: row?.changedAt.toISOString() ?? null,
    };
    // Nobody has looked at what was found: that the fit can be seen does not make it done.
    if (mayBePassed(step) && index < at && row?.state === 'open') return { ...lines, state: tidyState(job) };
    if (index < at) return { ...lines, state: 'done' };
    if (index > at) return { ...lines, state: 'ahead' };
    if (job?.state === 'failed') return { ...lines, state: 'failed', result: job.problem?.message ?? 'failed' };
    if (job && job.state !== 'done' && job.state !== 'called off')
      return { ...lines, state: 'working', result: job.words };
    return { ...lines, state: 'here' };
  });
}

/** What the spine says of a step. */
export function lineOf(move: WholeMove, step: MoveStep): string {
  return move.steps.find((s) => s.step === step)?.result ?? '';
}

/** A step of which something is left to decide. */
function tidyState(job: Job | undefined): StepState {
  if (job?.state === 'failed') return 'failed';
  return job && job.state !== 'done' && job.state !== 'called off' ? 'working' : 'open';
}
