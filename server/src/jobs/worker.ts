import { randomUUID } from 'node:crypto';
import { Refusal, problem, type Problem } from '@treenail/core';
import type { Logger } from 'pino';
import type { Sequelize } from 'sequelize';
import type * as z from 'zod';
import type { JobKind } from '../api/contract.ts';
import { Job, JobStep } from '../db/models.ts';
import { PlatformTrouble } from '../platforms/index.ts';
import { claim, renew } from './queue.ts';

/** Thrown by a handler to be called again later: the job waits in the database, and no worker waits with it. */
class Later extends Error {
  readonly ms: number;
  constructor(ms: number) {
    super('later');
    this.ms = ms;
  }
}

export interface Progress {
  words?: string;
  ahead?: number | null;
  done?: number;
  total?: number;
  unit?: string;
}

/** What a handler works with. */
export interface JobContext {
  readonly job: Job;
  /** Aborted when the worker stops or has lost the job. */
  readonly signal: AbortSignal;
  /** Runs `work` once in the life of the job: its result is kept, and given again when the job is continued. */
  step<S extends z.ZodType>(name: string, result: S, work: () => Promise<z.infer<S>>): Promise<z.infer<S>>;
  report(progress: Progress): Promise<void>;
  /** Never returns. */
  later(ms: number): never;
}

export type Handler = (context: JobContext) => Promise<void>;
export type Handlers = Record<JobKind, Handler>;

export interface WorkerOptions {
  sequelize: Sequelize;
  handlers: Handlers;
  leaseMs: number;
  /** How long to rest when nothing is due. */
  restMs: number;
  log: Logger;
  /** Told of every job that is over. */
  onOver?: (job: Job) => Promise<void>;
}

const MAX_ATTEMPTS = 8;

/** Takes jobs one at a time until it is stopped. Any number of workers can run against one database. */
export class Worker {
  readonly name = `worker-${process.pid}-${randomUUID().slice(0, 8)}`;
  private readonly options: WorkerOptions;
  private readonly stopping = new AbortController();
  private ended: Promise<void> | null = null;

  constructor(options: WorkerOptions) {
    this.options = options;
  }

  start(): void {
    this.ended ??= this.loop();
  }

  /** Lets go of the job at hand, which another worker continues from its last finished step. */
  async stop(): Promise<void> {
    this.stopping.abort(new Error('the worker is stopping'));
    await this.ended;
  }

  private async loop(): Promise<void> {
    while (!this.stopping.signal.aborted) {
      const job = await claim(this.options.sequelize, this.name, this.options.leaseMs).catch((error: unknown) => {
        // The database may be restarting: rest and ask again.
        this.options.log.warn({ err: error }, 'could not look for work');
        return null;
      });
      if (job) await this.run(job);
      else await this.rest();
    }
  }

  private rest(): Promise<void> {
    const { signal } = this.stopping;
    return new Promise((done) => {
      const end = () => {
        clearTimeout(timer);
        signal.removeEventListener('abort', end);
        done();
      };
      const timer = setTimeout(end, this.options.restMs);
      signal.addEventListener('abort', end);
    });
  }

  private async run(job: Job): Promise<void> {
    const { leaseMs, log, handlers } = this.options;
    const lost = new AbortController();
    const beat = setInterval(() => {
      renew(job, this.name, leaseMs).then(
        (held) => {
          if (!held) lost.abort(new Error('another worker has this job'));
        },
        (error: unknown) => log.warn({ err: error, job: job.id }, 'could not renew the lease'),
      );
    }, leaseMs / 3);
    const context = new Context(job, AbortSignal.any([lost.signal, this.stopping.signal]));
    try {
      if (job.attempts > MAX_ATTEMPTS)
        throw new Refusal(problem('job-given-up', 'The job broke off too many times.', 'Try it again by hand.'));
      await handlers[job.kind](context);
      await this.settle(job, {
        state: 'done',
        finishedAt: new Date(),
        words: context.words || job.words,
        ahead: null,
        problem: null,
      });
    } catch (error) {
      if (lost.signal.aborted) return;
      await this.settle(job, this.judge(job, error, context.words)).catch((failure: unknown) => {
        // The lease runs out, and whoever takes the job then goes on from the last finished step.
        log.warn({ err: failure, job: job.id }, 'could not write down how the job ended');
      });
    } finally {
      clearInterval(beat);
    }
  }

  private judge(job: Job, error: unknown, words: string): Partial<Job> {
    if (error instanceof Later) return { state: 'waiting', runAfter: new Date(Date.now() + error.ms) };
    if (this.stopping.signal.aborted) return { state: 'queued', runAfter: new Date() };
    if (error instanceof PlatformTrouble || isDatabaseTrouble(error)) {
      if (job.attempts < MAX_ATTEMPTS) {
        this.options.log.warn({ err: error, job: job.id }, 'trying again');
        return {
          state: 'waiting',
          attempts: job.attempts + 1,
          runAfter: new Date(Date.now() + Math.min(60_000, 500 * 2 ** job.attempts)),
          words: `${words || job.words}: no answer, trying again`,
        };
      }
      return this.failed(
        problem('platform-silent', `${error.message}.`, 'Look whether the platform is up, then try again.'),
      );
    }
    if (error instanceof Refusal) return this.failed(error.problem);
    this.options.log.error({ err: error, job: job.id }, 'job failed');
    return this.failed(
      problem(
        'unexpected',
        'Something went wrong inside Treenail; the log of the worker says what.',
        'Try it again; if it fails again, tell whoever runs Treenail.',
      ),
    );
  }

  private failed(why: Problem): Partial<Job> {
    return { state: 'failed', finishedAt: new Date(), problem: why, words: why.message.slice(0, 290) };
  }

  private async settle(job: Job, change: Partial<Job>): Promise<void> {
    await Job.update(
      { ...change, leasedBy: null, leaseUntil: null, changedAt: new Date() },
      { where: { id: job.id, leasedBy: this.name } },
    );
    if (change.state !== 'done' && change.state !== 'failed') return;
    await this.options
      .onOver?.(await Job.findByPk(job.id, { rejectOnEmpty: true }))
      .catch((error: unknown) =>
        this.options.log.warn({ err: error, job: job.id }, 'could not tell that a job is over'),
      );
  }
}

function isDatabaseTrouble(error: unknown): error is Error {
  return error instanceof Error && /^Sequelize(Connection|Database|Timeout)/.test(error.name);
}

class Context implements JobContext {
  words = '';
  readonly job: Job;
  readonly signal: AbortSignal;
  private writtenAt = 0;

  constructor(job: Job, signal: AbortSignal) {
    this.job = job;
    this.signal = signal;
  }

  async step<S extends z.ZodType>(name: string, result: S, work: () => Promise<z.infer<S>>): Promise<z.infer<S>> {
    this.signal.throwIfAborted();
    const before = await JobStep.findOne({ where: { jobId: this.job.id, name } });
    if (before) return result.parse(before.result);
    const made = result.parse(await work());
    this.signal.throwIfAborted();
    await JobStep.upsert({ jobId: this.job.id, name, result: made ?? null, finishedAt: new Date() });
    return made;
  }

  /** Written at most four times a second, but for changes of words. */
  async report(progress: Progress): Promise<void> {
    this.signal.throwIfAborted();
    const now = Date.now();
    const said = progress.words !== undefined && progress.words !== this.words;
    if (!said && now - this.writtenAt < 250 && progress.done !== progress.total) return;
    if (progress.words !== undefined) this.words = progress.words;
    this.writtenAt = now;
    await this.job.update({ ...progress, changedAt: new Date(now) });
  }

  later(ms: number): never {
    throw new Later(ms);
  }
}
