import type { Response } from 'express';
import type { Logger } from 'pino';
import { openSessions } from '../services/people.ts';
import { asJobSummary, jobsChangedSince, listOpenJobs } from '../services/jobs.ts';

/**
 * Server-sent events: on connecting, the jobs as they stand; then each job that changes, and that nothing did. The
 * database is looked at for all listeners at once, so that any number of servers and workers tell the same.
 */
export class JobEvents {
  /** Each with the session that it is told to. */
  private readonly listeners = new Map<Response, string>();
  private lookedAt = 0;
  private timer: NodeJS.Timeout | null = null;
  private since = new Date();
  private saidAt = 0;
  private readonly told = new Map<number, number>();
  private readonly everyMs: number;
  private readonly log: Logger;
  private readonly silenceMs: number;

  constructor(everyMs: number, log: Logger, silenceMs = SILENCE_MS) {
    this.everyMs = everyMs;
    this.silenceMs = silenceMs;
    this.log = log;
  }

  async listen(res: Response, session: string): Promise<void> {
    res.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' });
    res.write(`event: jobs\ndata: ${JSON.stringify(await listOpenJobs())}\n\n`);
    this.listeners.set(res, session);
    res.on('close', () => {
      this.listeners.delete(res);
      if (this.listeners.size === 0) this.rest();
    });
    if (!this.timer) {
      this.since = new Date();
      this.timer = setInterval(() => void this.look(), this.everyMs);
    }
  }

  /** A session is over: nothing more is told to it. */
  endFor(session: string): void {
    for (const [res, of] of this.listeners) if (of === session) res.end();
  }

  /** Sessions that ended at another server, or by their time, hear no more either. */
  private async endOver(): Promise<void> {
    if (Date.now() - this.lookedAt < SESSIONS_MS) return;
    this.lookedAt = Date.now();
    const open = await openSessions([...new Set(this.listeners.values())]);
    for (const session of new Set(this.listeners.values())) if (!open.has(session)) this.endFor(session);
  }

  close(): void {
    this.rest();
    for (const res of this.listeners.keys()) res.end();
    this.listeners.clear();
  }

  private rest(): void {
    if (this.timer) clearInterval(this.timer);
    this.timer = null;
    this.told.clear();
  }

  private async look(): Promise<void> {
    try {
      // A little back in time: a change may be committed after a later one was seen.
      const jobs = await jobsChangedSince(new Date(this.since.getTime() - 2000));
      for (const job of jobs) {
        const changed = job.changedAt.getTime();
        if (this.told.get(job.id) === changed) continue;
        this.told.set(job.id, changed);
        if (changed > this.since.getTime()) this.since = job.changedAt;
        this.tell('job', asJobSummary(job));
      }
      await this.endOver();
      if (Date.now() - this.saidAt >= this.silenceMs) this.tell('quiet', { at: new Date().toISOString() });
    } catch (error) {
      this.log.warn({ err: error }, 'could not look for changed jobs');
    }
  }

  private tell(event: string, what: object): void {
    this.saidAt = Date.now();
    for (const res of this.listeners.keys()) res.write(`event: ${event}\ndata: ${JSON.stringify(what)}\n\n`);
  }
}

/** How often it is looked which sessions are over. */
const SESSIONS_MS = 10_000;

/** How long nothing is told before it is said that nothing changed: a browser can't tell a dead line from a still one. */
const SILENCE_MS = 15_000;
