import { QueryTypes, Transaction, type Sequelize } from 'sequelize';
import type { JobKind } from '../contract/index.ts';
import { Job } from '../db/models/index.ts';
import { definitionOf, type GivenTo } from './definitions.ts';

export interface NewJob<K extends JobKind = JobKind> {
  kind: K;
  /** The same key gives the same job. */
  key: string;
  course: string;
  moveId: number | null;
  courseId?: number | null;
  askedBy?: number | null;
  /** The same for all that one act asked for. */
  batch?: string | null;
  input: GivenTo<K>;
  /** Not begun before, and what is said of it until then. */
  after?: { at: Date; words: string } | null;
  /** Of whom or what it is said, before it says what it does. */
  of?: string;
}

/** What a job that is over begins anew with; the results of its steps stay. */
export const AFRESH = {
  state: 'queued',
  problem: null,
  attempts: 0,
  lost: 0,
  troubledSince: null,
  callOff: false,
  finishedAt: null,
  seenAt: null,
} as const;

/**
 * Puts a job into the queue, or gives the one that was put there under this key. One that failed or was
 * called off starts again.
 */
export async function enqueue<K extends JobKind>(job: NewJob<K>, transaction?: Transaction): Promise<Job> {
  const now = new Date();
  const words = (job.after?.words ?? definitionOf(job.kind).words(job.of ?? '')).slice(0, 290);
  const runAfter = job.after?.at ?? now;
  const [row, fresh] = await Job.findOrCreate({
    where: { requestKey: job.key },
    defaults: {
      kind: job.kind,
      requestKey: job.key,
      moveId: job.moveId,
      courseId: job.courseId ?? null,
      askedBy: job.askedBy ?? null,
      batch: job.batch ?? null,
      course: job.course,
      input: job.input,
      state: 'queued',
      words,
      runAfter,
      createdAt: now,
      changedAt: now,
    },
    ...(transaction ? { transaction } : {}),
  });
  if (!fresh && (row.state === 'failed' || row.state === 'called off')) {
    await row.update({ ...AFRESH, words, runAfter, changedAt: now }, transaction ? { transaction } : {});
  }
  return row;
}

const DUE = `((state IN ('queued', 'waiting') AND run_after <= UTC_TIMESTAMP(3))
     OR (state = 'running' AND lease_until < UTC_TIMESTAMP(3)))`;

/**
 * Locks one due job and steps over those that others are just taking. Candidates are looked for without a lock and
 * locked by their key: a sorted query would lock every row it sorts, and workers would find nothing beside one another.
 */
export async function lockNext(sequelize: Sequelize, transaction: Transaction): Promise<number | null> {
  const candidates = await sequelize.query<{ id: number }>(
    `SELECT id FROM jobs WHERE ${DUE} ORDER BY run_after, id LIMIT 16`,
    { transaction, type: QueryTypes.SELECT },
  );
  for (const { id } of candidates) {
    const [locked] = await sequelize.query<{ id: number }>(
      `SELECT id FROM jobs WHERE id = :id AND ${DUE} FOR UPDATE SKIP LOCKED`,
      { transaction, type: QueryTypes.SELECT, replacements: { id } },
    );
    if (locked) return locked.id;
  }
  return null;
}

/** Takes the next job that is due, or one whose worker went silent, which is counted. */
export async function claim(sequelize: Sequelize, worker: string, leaseMs: number): Promise<Job | null> {
  return sequelize.transaction({ isolationLevel: Transaction.ISOLATION_LEVELS.READ_COMMITTED }, async (transaction) => {
    const id = await lockNext(sequelize, transaction);
    if (id === null) return null;
    const job = await Job.findByPk(id, { transaction, rejectOnEmpty: true });
    await job.update(
      {
        lost: job.lost + (job.state === 'running' ? 1 : 0),
        state: 'running',
        leasedBy: worker,
        leaseUntil: new Date(Date.now() + leaseMs),
        changedAt: new Date(),
      },
      { transaction },
    );
    return job;
  });
}

/** Holds on to a job: whether it is still this worker's, and whether a person has called it off. */
export async function renew(job: Job, worker: string, leaseMs: number): Promise<'held' | 'lost' | 'called off'> {
  const [held] = await Job.update(
    { leaseUntil: new Date(Date.now() + leaseMs) },
    { where: { id: job.id, leasedBy: worker, state: 'running' } },
  );
  if (held === 0) return 'lost';
  const calledOff = await Job.count({ where: { id: job.id, callOff: true } });
  return calledOff > 0 ? 'called off' : 'held';
}
