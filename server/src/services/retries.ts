import { Refusal, problem } from '@treenail/core';
import type { Person } from '../contract/index.ts';
import { Job } from '../db/models/index.ts';
import { AFRESH } from '../jobs/queue.ts';
import { callOffJob, isUnfinished, jobsAt } from './jobs.ts';
import { audit, mustBe } from './people.ts';
import { missing } from './move-rows.ts';

/* Jobs that are tried again, and jobs that are called off. */

/** Starts the failed job of a move again. What it had asked of the platform in its last round is asked anew. */
export async function retry(person: Person, moveId: number): Promise<void> {
  mustBe(person, 'administrator');
  const job = await Job.findOne({ where: { moveId, state: 'failed' }, order: [['id', 'DESC']] });
  if (!job) throw new Refusal(problem('nothing-failed', 'No step of this move has failed.'));
  await retryJob(person, job.id);
}

/** Starts a failed job again, of a move or not. */
export async function retryJob(person: Person, jobId: number): Promise<void> {
  mustBe(person, 'administrator');
  const job = await Job.findOne({ where: { id: jobId, state: 'failed' } });
  if (!job) throw new Refusal(problem('nothing-failed', 'This job has not failed.'));
  await again(job);
  await audit(person, 'tried again', job.moveId === null ? `job ${job.id}` : `move ${job.moveId}`, { kind: job.kind });
}

/**
 * Puts a failed job back. What it has is used: an export that is ready is downloaded, a finished step is not done again.
 * Only what the platform itself failed at, or no longer has, is asked for anew.
 */
async function again(job: Job): Promise<void> {
  const input = job.input as { round: number };
  const anew = !USED_AGAIN.has(job.problem?.code ?? '');
  await job.update({
    ...AFRESH,
    input: { ...input, round: input.round + (anew ? 1 : 0), again: 0, still: null },
    words: 'trying again',
    runAfter: new Date(),
    changedAt: new Date(),
  });
}

/** Problems that say nothing of what was asked of the platform before: it is still good. */
const USED_AGAIN = new Set([
  'platform-silent',
  'platform-credentials',
  'platform-no-right',
  'platform-full',
  'destination-full',
  'database-silent',
  'database-refused',
  'disk-full',
  'job-set-aside',
]);

/** Starts all failed jobs of an instance again. Gives how many. */
export async function retryAllOf(person: Person, instanceId: number): Promise<number> {
  mustBe(person, 'administrator');
  const failed = (await jobsAt(instanceId)).filter((job) => job.state === 'failed');
  for (const job of failed) await again(job);
  await audit(person, 'all tried again', `instance ${instanceId}`, { jobs: failed.map((j) => j.id) });
  return failed.length;
}

/** Calls off a job that is not over; one that failed is let go of. What it had begun at a platform is cleared away. */
export async function callOff(person: Person, jobId: number): Promise<void> {
  mustBe(person, 'administrator');
  const job = await Job.findByPk(jobId);
  if (!job) throw missing('job');
  if (job.state === 'called off') return;
  if (!isUnfinished(job)) {
    throw new Refusal(problem('job-over', 'This job is done: there is nothing to call off.'));
  }
  await callOffJob(job);
  await audit(person, 'job called off', `job ${job.id}`, { kind: job.kind, course: job.course });
}
