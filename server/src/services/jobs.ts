import { Op } from 'sequelize';
import type { JobKind, JobSummary } from '../api/contract.ts';
import { Job } from '../db/models.ts';

export function asJobSummary(job: Job): JobSummary {
  return {
    id: job.id,
    kind: job.kind,
    moveId: job.moveId,
    courseId: job.courseId ?? null,
    course: job.course,
    state: job.state,
    words: job.words,
    // A row that was just made has only what it was made with.
    ahead: job.ahead ?? null,
    done: job.done,
    total: job.total,
    unit: job.unit,
    problem: job.problem ?? null,
    createdAt: job.createdAt.toISOString(),
    finishedAt: job.finishedAt?.toISOString() ?? null,
    seen: (job.seenAt ?? null) !== null,
  };
}

const HOUSEKEEPING: JobKind[] = ['register', 'mail'];

/** Jobs that a person waits for or has not looked at yet. Listings and mails are housekeeping and not among them. */
export async function listOpenJobs(): Promise<JobSummary[]> {
  const jobs = await Job.findAll({
    where: { kind: { [Op.notIn]: HOUSEKEEPING }, seenAt: null },
    order: [['id', 'ASC']],
    limit: 200,
  });
  return jobs.map(asJobSummary);
}

export async function jobsChangedSince(since: Date): Promise<Job[]> {
  return Job.findAll({
    where: { kind: { [Op.notIn]: HOUSEKEEPING }, changedAt: { [Op.gte]: since } },
    order: [['changedAt', 'ASC']],
    limit: 500,
  });
}

export async function markSeen(id: number): Promise<void> {
  await Job.update(
    { seenAt: new Date(), changedAt: new Date() },
    { where: { id, state: { [Op.in]: ['done', 'failed'] } } },
  );
}
