import { Op } from 'sequelize';
import type { JobKind, JobSummary } from '../contract/index.ts';
import { CourseRow, Job, Move } from '../db/models/index.ts';
import { HOUSEKEEPING, kindsThatAsk } from '../jobs/definitions.ts';

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
    callOff: job.callOff ?? false,
  };
}

/** Jobs that a person waits for or has not looked at yet. Listings and mails are housekeeping and not among them. */
export async function listOpenJobs(): Promise<JobSummary[]> {
  const jobs = await Job.findAll({
    where: { kind: { [Op.notIn]: [...HOUSEKEEPING] }, seenAt: null },
    order: [['id', 'ASC']],
    limit: 200,
  });
  return jobs.map(asJobSummary);
}

export async function jobsChangedSince(since: Date): Promise<Job[]> {
  return Job.findAll({
    where: { kind: { [Op.notIn]: [...HOUSEKEEPING] }, changedAt: { [Op.gte]: since } },
    order: [['changedAt', 'ASC']],
    limit: 500,
  });
}

export async function markSeen(id: number): Promise<void> {
  await Job.update(
    { seenAt: new Date(), changedAt: new Date() },
    { where: { id, state: { [Op.in]: ['done', 'failed', 'called off'] } } },
  );
}

/** Whether there is something to call off: it runs, waits, or failed. */
export function isUnfinished(job: Job): boolean {
  return job.state !== 'done' && job.state !== 'called off';
}

/**
 * Asks the worker that has the job, or the next that takes it, to let go of it and to clear away what it had begun. One
 * that is running hears of it with its next heartbeat.
 */
export async function callOffJob(job: Job): Promise<void> {
  const now = new Date();
  await Job.update({ callOff: true, words: 'being called off', changedAt: now }, { where: { id: job.id } });
  await Job.update(
    { state: 'queued', runAfter: now, finishedAt: null },
    { where: { id: job.id, state: { [Op.in]: ['queued', 'waiting', 'failed'] } } },
  );
}

/** Jobs that ask an instance for something: those of its courses, and those that bring a course to it. */
export async function jobsAt(instanceId: number): Promise<Job[]> {
  const courses = await CourseRow.findAll({ where: { instanceId }, attributes: ['id'] });
  const ids = courses.map((c) => c.id);
  const moves = await Move.findAll({
    where: { [Op.or]: [{ courseId: ids }, { destinationId: instanceId }] },
    attributes: ['id', 'destinationId'],
  });
  const of = (kinds: JobKind[], moveIds: number[]) => ({ kind: { [Op.in]: kinds }, moveId: moveIds });
  return Job.findAll({
    where: {
      [Op.or]: [
        { kind: { [Op.in]: kindsThatAsk('source') }, courseId: ids },
        of(
          kindsThatAsk('source'),
          moves.filter((m) => m.destinationId !== instanceId).map((m) => m.id),
        ),
        of(
          kindsThatAsk('destination'),
          moves.filter((m) => m.destinationId === instanceId).map((m) => m.id),
        ),
      ],
    },
    order: [['id', 'ASC']],
  });
}

/** All that are over are looked at, at once. */
export async function markAllSeen(): Promise<void> {
  const now = new Date();
  await Job.update(
    { seenAt: now, changedAt: now },
    { where: { seenAt: null, state: { [Op.in]: ['done', 'called off'] } } },
  );
}
