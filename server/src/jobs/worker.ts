import { randomUUID } from 'node:crypto';
import { Refusal, problem } from '@treenail/core';
import type { Logger } from 'pino';
import type { Sequelize } from 'sequelize';
import { Job } from '../db/models/index.ts';
import { definitionOf } from './definitions.ts';
import { CalledOff, Performer, failed, type PerformerOptions } from './perform.ts';
import { claim, renew } from './queue.ts';

export * from './perform.ts';

export interface WorkerOptions extends PerformerOptions {
  sequelize: Sequelize;
  leaseMs: number;
  /** How long to rest when nothing is due. */
  restMs: number;
  log: Logger;
  /** Told of every job that is over. */
  onOver?: (job: Job) => Promise<void>;
  /** Why a job has to wait although it is due; `null` where it need not. */
  heldBy?: (job: Job) => Promise<string | null>;
  /** Where the work is done, if not here: in a process that can be ended whatever it is at. */
  perform?: (job: Job, signal: AbortSignal) => Promise<Partial<Job>>;
}

/** How often it is looked whether what held a job still holds it. */
const HELD_MS = 15_000;

/** How often a worker may go silent over one job before it is set aside: what it works on may be what silences them. */
const MOST_LOST = 2;

/** Takes jobs one at a time until it is stopped. Any number of workers can run against one database. */
export class Worker {
  readonly name = `worker-${process.pid}-${randomUUID().slice(0, 8)}`;
  private readonly options: WorkerOptions;
  private readonly stopping = new AbortController();
  private readonly performer: Performer;
  private ended: Promise<void> | null = null;

  constructor(options: WorkerOptions) {
    this.options = options;
    this.performer = new Performer(options);
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
    const { leaseMs, log } = this.options;
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
    try {
      const change = await this.outcome(job, AbortSignal.any([lost.signal, calledOff.signal, this.stopping.signal]));
      if (!lost.signal.aborted) await this.settle(job, change);
    } catch (failure) {
      // The lease runs out, and whoever takes the job then goes on from the last finished step.
      log.warn({ err: failure, job: job.id }, 'could not write down how the job ended');
    } finally {
      clearInterval(beat);
    }
  }

  private async outcome(job: Job, signal: AbortSignal): Promise<Partial<Job>> {
    if (job.lost >= MOST_LOST && !job.callOff) return failed(setAside(job).problem);
    const held = job.callOff ? null : ((await this.options.heldBy?.(job)) ?? null);
    if (held !== null) {
      return { state: 'waiting', words: held.slice(0, 290), ahead: null, runAfter: new Date(Date.now() + HELD_MS) };
    }
    return ((definitionOf(job.kind).housekeeping ? null : this.options.perform) ?? this.here)(job, signal);
  }

  private readonly here = (job: Job, signal: AbortSignal) => this.performer.perform(job, signal);

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

function setAside(job: Job): Refusal {
  return new Refusal(
    problem(
      'job-set-aside',
      `The worker that had this job went silent over it ${job.lost} times, so it was set aside.`,
    ),
  );
}
