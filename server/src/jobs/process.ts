import { fork, type ChildProcess } from 'node:child_process';
import { problem } from '@treenail/core';
import type { Logger } from 'pino';
import * as z from 'zod';
import { Job } from '../db/models/index.ts';
import { CalledOff, failed } from './perform.ts';

/** What a worker says to the process that does its work, and what that says back. Dates cross as they are. */
export const ToProcess = z.discriminatedUnion('say', [
  z.object({ say: z.literal('do'), job: z.number() }),
  z.object({ say: z.literal('stop'), calledOff: z.boolean() }),
]);
export type ToProcess = z.infer<typeof ToProcess>;
export const FromProcess = z.object({ job: z.number(), change: z.record(z.string(), z.unknown()) });
export type FromProcess = z.infer<typeof FromProcess>;

export interface JobProcessOptions {
  /** The script of the process. */
  script: string | URL;
  log: Logger;
  /** How long one turn of a job may take, in ms; waiting at a platform is no turn. */
  limitMs: number;
  /** How long a process that was told to stop may take before it is ended. */
  graceMs?: number;
  execArgv?: string[];
  /** What runs the script, if not what runs the worker. */
  execPath?: string;
}

const GRACE_MS = 5000;

/** Jobs that one process does before a fresh one takes its place. */
const TURNS = 200;

/**
 * Does jobs in a process beside the worker, which so keeps its lease, hears signals, and can end what does not end by
 * itself: a package may be made to keep a reader busy for ever.
 */
export class JobProcess {
  private child: ChildProcess | null = null;
  private turns = 0;
  private readonly options: JobProcessOptions;

  constructor(options: JobProcessOptions) {
    this.options = options;
  }

  readonly perform = async (job: Job, signal: AbortSignal): Promise<Partial<Job>> => {
    const child = this.ready();
    const { limitMs, graceMs = GRACE_MS, log } = this.options;
    return new Promise((done) => {
      let grace: NodeJS.Timeout | undefined;
      let outOfTime = false;
      const kill = () => void child.kill('SIGKILL');
      const stop = (calledOff: boolean) => {
        if (child.connected) child.send({ say: 'stop', calledOff } satisfies ToProcess);
        grace ??= setTimeout(kill, graceMs);
      };
      const limit = setTimeout(() => {
        outOfTime = true;
        kill();
      }, limitMs);
      const aborted = () => stop(signal.reason instanceof CalledOff);
      const ended = (change: Partial<Job>) => {
        clearTimeout(limit);
        clearTimeout(grace);
        signal.removeEventListener('abort', aborted);
        child.off('message', heard);
        child.off('exit', gone);
        child.off('error', neverThere);
        done(change);
      };
      const heard = (message: unknown) => {
        const parsed = FromProcess.safeParse(message);
        if (parsed.success && parsed.data.job === job.id) ended(parsed.data.change);
      };
      const gone = (code: number | null, by: string | null) => {
        if (this.child === child) this.child = null;
        log.warn({ job: job.id, code, by }, 'the process at work on a job ended');
        ended(afterEnd(job, signal, outOfTime, limitMs));
      };
      // It could not be begun, or ended before it could be spoken to; it is no fault of the job's.
      const neverThere = (why: Error) => {
        if (this.child === child) this.child = null;
        kill();
        log.warn({ job: job.id, err: why }, 'the process at work on a job can not be spoken to');
        ended({ state: 'queued', runAfter: new Date(Date.now() + 1000), words: 'no process for it; again' });
      };
      child.on('message', heard);
      child.once('exit', gone);
      child.once('error', neverThere);
      if (signal.aborted) aborted();
      else signal.addEventListener('abort', aborted);
      child.send({ say: 'do', job: job.id } satisfies ToProcess);
    });
  };

  /** Ends the process, if there is one. */
  async close(): Promise<void> {
    const { child } = this;
    this.child = null;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const gone = new Promise((done) => child.once('exit', done));
    child.kill('SIGKILL');
    await gone;
  }

  private ready(): ChildProcess {
    if (this.child?.connected === true && this.turns < TURNS) {
      this.turns++;
      return this.child;
    }
    this.child?.kill('SIGKILL');
    this.turns = 1;
    const { script, execArgv, execPath } = this.options;
    const child = fork(script, [], {
      serialization: 'advanced',
      ...(execArgv && { execArgv }),
      ...(execPath && { execPath }),
    });
    // Between jobs nobody waits for it; without a listener its error would end the worker.
    child.on('error', (why) => this.options.log.debug({ err: why }, 'the process that does jobs'));
    return (this.child = child);
  }
}

/** What is written down where the process ended in the middle of a job. */
function afterEnd(job: Job, signal: AbortSignal, outOfTime: boolean, limitMs: number): Partial<Job> {
  if (outOfTime) {
    return failed(
      problem('job-too-long', `It was not done after ${Math.round(limitMs / 60_000)} minutes, and was ended.`),
    );
  }
  // What is left to be cleared away is cleared away by whoever takes it next.
  if (signal.reason instanceof CalledOff) return { state: 'queued', callOff: true, runAfter: new Date() };
  if (signal.aborted) return { state: 'queued', runAfter: new Date() };
  return {
    state: 'queued',
    lost: job.lost + 1,
    runAfter: new Date(Date.now() + 1000),
    words: 'its process ended; again',
  };
}
