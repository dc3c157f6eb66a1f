import { randomUUID } from 'node:crypto';
import { Refusal, problem, type Problem } from '@treenail/core';
import type { Logger } from 'pino';
import type { Sequelize } from 'sequelize';
import type * as z from 'zod';
import type { JobKind } from '../api/contract.ts';
import { Job, JobStep } from '../db/models.ts';
import { PlatformTrouble } from '../platforms/index.ts';
import { isDatabaseRefusal, isDatabaseTrouble, isDiskFull, diskFull } from '../trouble.ts';
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

/** What a kind of job does; and what it clears away, here and at the platform, when a person calls it off. */
export interface Handler {
  (context: JobContext): Promise<void>;
  calledOff?: (context: JobContext) => Promise<void>;
}
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
  /** How long a job may be without getting on before it fails, in ms. Anything that gets on begins it anew. */
  patienceMs?: (job: Job) => Promise<number>;
  /** Why a job has to wait although it is due; `null` where it need not. */
  heldBy?: (job: Job) => Promise<string | null>;
}

/** How often it is looked whether what held a job still holds it. */
const HELD_MS = 15_000;

/** How often a worker may go silent over one job before it is set aside: what it works on may be what silences them. */
const MOST_LOST = 2;

/** The longest pause between two tries, in ms. */
const LONGEST_PAUSE = 60_000;

/** What is waited for where nobody says otherwise: over a night. */
export const PATIENCE_MS = 14 * 3_600_000;

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
    const calledOff = new AbortController();
    const beat = setInterval(() => {
      renew(job, this.name, leaseMs).then(
        (held) => {
          if (held === 'lost') lost.abort(new Error('another worker has this job'));
          if (held === 'called off') calledOff.abort(new CalledOff());
        },
        (error: unknown) => log.warn({ err: error, job: job.id }, 'could not renew the lease'),
      );
    }, leaseMs / 3);
    const context = new Context(job, AbortSignal.any([lost.signal, calledOff.signal, this.stopping.signal]));
    try {
      if (job.callOff) throw new CalledOff();
      if (job.lost >= MOST_LOST) throw setAside(job);
      const held = (await this.options.heldBy?.(job)) ?? null;
      if (held !== null) {
        await context.report({ words: held, ahead: null });
        context.later(HELD_MS);
      }
      await handlers[job.kind](context);
      await this.settle(job, {
        ...GOT_ON,
        state: 'done',
        finishedAt: new Date(),
        words: context.words || job.words,
        ahead: null,
        problem: null,
      });
    } catch (error) {
      if (lost.signal.aborted) return;
      const off = error instanceof CalledOff || calledOff.signal.aborted;
      const settled = off ? this.letGo(job) : this.judge(job, error, context.words);
      await settled
        .then((change) => this.settle(job, change))
        .catch((failure: unknown) => {
          // The lease runs out, and whoever takes the job then goes on from the last finished step.
          log.warn({ err: failure, job: job.id }, 'could not write down how the job ended');
        });
    } finally {
      clearInterval(beat);
    }
  }

  /** Clears away what the job had begun. What can't be cleared away now is told, and the job is called off all the same. */
  private async letGo(job: Job): Promise<Partial<Job>> {
    const over = { state: 'called off', finishedAt: new Date(), ahead: null, problem: null } as const;
    try {
      await this.options.handlers[job.kind].calledOff?.(new Context(job, this.stopping.signal));
      return { ...over, words: 'called off' };
    } catch (error) {
      this.options.log.warn({ err: error, job: job.id }, 'could not clear away what was called off');
      const why = error instanceof Refusal ? error.problem.message : error instanceof Error ? error.message : '';
      return { ...over, words: `called off; what it had begun could not be cleared away: ${why}`.slice(0, 290) };
    }
  }

  private async judge(job: Job, error: unknown, words: string): Promise<Partial<Job>> {
    // That it waits at the platform is getting on: the platform answered.
    if (error instanceof Later)
      return { state: 'waiting', runAfter: new Date(Date.now() + error.ms), attempts: 0, lost: 0, troubledSince: null };
    if (this.stopping.signal.aborted) return { state: 'queued', runAfter: new Date() };
    if (error instanceof PlatformTrouble || isDatabaseTrouble(error)) {
      const since = job.troubledSince ?? new Date();
      const patience = (await this.options.patienceMs?.(job)) ?? PATIENCE_MS;
      if (Date.now() - since.getTime() < patience) {
        this.options.log.warn({ err: error, job: job.id }, 'trying again');
        const pause = Math.min(LONGEST_PAUSE, 500 * 2 ** Math.min(job.attempts, 20));
        return {
          state: 'waiting',
          attempts: job.attempts + 1,
          troubledSince: since,
          runAfter: new Date(Date.now() + pause),
          words:
            `${(words || job.words).replace(TRYING, '')}${NO_ANSWER}, trying again until ${hourOf(since, patience)}`.slice(
              -290,
            ),
        };
      }
      const ofDatabase = isDatabaseTrouble(error);
      return this.failed(
        ofDatabase
          ? problem('database-silent', 'The database did not answer.', 'Look whether it is up, then try again.')
          : problem(
              'platform-silent',
              `${error instanceof Error ? error.message : String(error)}.`,
              'Look whether the platform is up, then try again.',
            ),
      );
    }
    if (error instanceof Refusal) return this.failed(error.problem);
    if (isDiskFull(error)) return this.failed(diskFull());
    if (isDatabaseRefusal(error)) {
      this.options.log.error({ err: error, job: job.id }, 'the database refused');
      return this.failed(
        problem(
          'database-refused',
          'The database would not take what was to be written: a text may be longer than there is room for.',
          'Look whether the course has a title or a name of unusual length; the log of the worker says more.',
        ),
      );
    }
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
    // A job that was called off while its worker was about to wait is taken up at once, to be let go of.
    const now = change.state === 'waiting' && (await Job.count({ where: { id: job.id, callOff: true } })) > 0;
    await Job.update(
      { ...change, ...(now ? { runAfter: new Date() } : {}), leasedBy: null, leaseUntil: null, changedAt: new Date() },
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

/** Thrown where a job is not gone on with because a person called it off. */
class CalledOff extends Error {
  constructor() {
    super('called off');
  }
}

const NO_ANSWER = ': no answer';
const TRYING = /: no answer, trying again.*$/;

function hourOf(since: Date, patience: number): string {
  return `${new Date(since.getTime() + patience).toISOString().replace('T', ' ').slice(0, 16)} UTC`;
}

function setAside(job: Job): Refusal {
  return new Refusal(
    problem(
      'job-set-aside',
      `The worker that had this job went silent over it ${job.lost} times, so it was set aside.`,
      'Look at what it works on: something in it may take more time or memory than there is. Then try it again.',
    ),
  );
}

const GOT_ON = { attempts: 0, lost: 0, troubledSince: null };

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
    await this.gotOn();
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
    const further = progress.done !== undefined && progress.done > (this.job.done ?? 0);
    await this.job.update({ ...progress, ...(further ? GOT_ON : {}), changedAt: new Date(now) });
  }

  /** What held it up before is over: its patience begins anew. */
  private async gotOn(): Promise<void> {
    const { attempts, lost, troubledSince } = this.job;
    if (attempts > 0 || lost > 0 || troubledSince) await this.job.update(GOT_ON);
  }

  later(ms: number): never {
    throw new Later(ms);
  }
}
