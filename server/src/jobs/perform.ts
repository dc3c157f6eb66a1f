import { Refusal, problem, type Problem } from '@treenail/core';
import type { Logger } from 'pino';
import type * as z from 'zod';
import type { JobKind } from '../contract/index.ts';
import { Job, JobStep } from '../db/models/index.ts';
import { PlatformTrouble } from '../platforms/index.ts';
import { definitionOf, type InputOf } from './definitions.ts';
import { diskFull, isDatabaseRefusal, isDatabaseTrouble, isDiskFull } from '../trouble.ts';

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
export interface Handler<K extends JobKind = JobKind> {
  run: (context: JobContext, input: InputOf<K>) => Promise<void>;
  calledOff?: (context: JobContext, input: InputOf<K>) => Promise<void>;
}
export type Handlers = { readonly [K in JobKind]: Handler<K> };

/** The longest pause between two tries, in ms. */
const LONGEST_PAUSE = 60_000;

/** What is waited for where nobody says otherwise: over a night. */
export const PATIENCE_MS = 14 * 3_600_000;

export interface PerformerOptions {
  handlers: Handlers;
  log: Logger;
  /** How long a job may be without getting on before it fails, in ms. Anything that gets on begins it anew. */
  patienceMs?: (job: Job) => Promise<number>;
}

/** Does the work of one job, and judges how it ended: gives what is to be written down of it. Never throws. */
export class Performer {
  private readonly options: PerformerOptions;

  constructor(options: PerformerOptions) {
    this.options = options;
  }

  /** `signal` is aborted with a `CalledOff` where a person called the job off, with anything else where it is let go of. */
  async perform(job: Job, signal: AbortSignal): Promise<Partial<Job>> {
    const context = new Context(job, signal);
    try {
      if (job.callOff) throw new CalledOff();
      const { run } = this.handlerOf(job);
      await run(context, inputOf(job));
      return {
        ...GOT_ON,
        state: 'done',
        finishedAt: new Date(),
        words: context.words || job.words,
        ahead: null,
        problem: null,
      };
    } catch (error) {
      if (error instanceof CalledOff || signal.reason instanceof CalledOff) return this.letGo(job);
      return this.judge(job, error, context.words, signal);
    }
  }

  private handlerOf({ kind }: Job): Handler {
    return this.options.handlers[kind];
  }

  /** Clears away what the job had begun. What can't be cleared away now is told, and the job is called off all the same. */
  private async letGo(job: Job): Promise<Partial<Job>> {
    const over = { state: 'called off', finishedAt: new Date(), ahead: null, problem: null } as const;
    try {
      const { calledOff } = this.handlerOf(job);
      await calledOff?.(new Context(job, new AbortController().signal), inputOf(job));
      return { ...over, words: 'called off' };
    } catch (error) {
      this.options.log.warn({ err: error, job: job.id }, 'could not clear away what was called off');
      const why = error instanceof Refusal ? error.problem.message : error instanceof Error ? error.message : '';
      return { ...over, words: `called off; what it had begun could not be cleared away: ${why}`.slice(0, 290) };
    }
  }

  private async judge(job: Job, error: unknown, words: string, signal: AbortSignal): Promise<Partial<Job>> {
    // That it waits at the platform is getting on: the platform answered.
    if (error instanceof Later)
      return { state: 'waiting', runAfter: new Date(Date.now() + error.ms), attempts: 0, lost: 0, troubledSince: null };
    if (signal.aborted) return { state: 'queued', runAfter: new Date() };
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
      return failed(
        ofDatabase
          ? problem('database-silent', 'The database did not answer.')
          : problem('platform-silent', `${error instanceof Error ? error.message : String(error)}.`),
      );
    }
    if (error instanceof Refusal) return failed(error.problem);
    if (isDiskFull(error)) return failed(diskFull());
    if (isDatabaseRefusal(error)) {
      this.options.log.error({ err: error, job: job.id }, 'the database refused');
      return failed(
        problem(
          'database-refused',
          'The database would not take what was to be written: a text may be longer than there is room for.',
        ),
      );
    }
    this.options.log.error({ err: error, job: job.id }, 'job failed');
    return failed(problem('unexpected', 'Something went wrong inside Treenail; the log of the worker says what.'));
  }
}

/** A job that ended with something a person has to act on. */
export function failed(why: Problem): Partial<Job> {
  return { state: 'failed', finishedAt: new Date(), problem: why, words: why.message.slice(0, 290) };
}

function inputOf(job: Job): InputOf<JobKind> {
  return definitionOf(job.kind).input.parse(job.input) as InputOf<JobKind>;
}

/** Thrown where a job is not gone on with because a person called it off. */
export class CalledOff extends Error {
  constructor() {
    super('called off');
  }
}

const NO_ANSWER = ': no answer';
const TRYING = /: no answer, trying again.*$/;

function hourOf(since: Date, patience: number): string {
  return `${new Date(since.getTime() + patience).toISOString().replace('T', ' ').slice(0, 16)} UTC`;
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
    const wordsChanged = progress.words !== undefined && progress.words !== this.words;
    if (!wordsChanged && now - this.writtenAt < 250 && progress.done !== progress.total) return;
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
