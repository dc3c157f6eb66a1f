import { DestroyRef, Injectable, computed, effect, inject, signal } from '@angular/core';
import { JobSummary } from '@treenail/server/contract';
import { Observable, Subject, retry, tap, timeout, type Subscription } from 'rxjs';
import * as z from 'zod';
import { ADDRESSES, Api, wordsOf } from './api';
import { Reach } from './reach';
import { SessionService } from './session';

/** The server says something at least every fifteen seconds. */
const SILENCE_MS = 40_000;
/** After how long it is asked again. */
const AGAIN_MS = 3000;

/** What the server tells of jobs, until the line is cut. */
function told(): Observable<MessageEvent<string>> {
  return new Observable((listener) => {
    const source = new EventSource(ADDRESSES.events());
    for (const type of ['jobs', 'job', 'quiet']) {
      source.addEventListener(type, (event: MessageEvent<string>) => listener.next(event));
    }
    source.onerror = () => listener.error(new Error('the line to the server is cut'));
    return () => source.close();
  });
}

/** The running, waiting and newly finished jobs, as the server tells them. */
@Injectable({ providedIn: 'root' })
export class JobsService {
  private readonly api = inject(Api);
  private readonly session = inject(SessionService);
  private readonly reach = inject(Reach);
  private readonly byId = signal<ReadonlyMap<number, JobSummary>>(new Map());
  private listening: Subscription | null = null;
  private readonly changes = new Subject<JobSummary>();

  /** Since when nothing was heard of the server; `null` while it tells. */
  readonly lost = this.reach.lost;
  /** Why the last thing that was asked of a job was not done. */
  readonly trouble = signal('');
  readonly changed$ = this.changes.asObservable();
  readonly jobs = computed(() => [...this.byId().values()].filter((j) => !j.seen).sort((a, b) => a.id - b.id));

  constructor() {
    effect(() => {
      if (this.session.person()?.role === 'administrator') this.connect();
      else this.disconnect();
    });
    inject(DestroyRef).onDestroy(() => this.disconnect());
  }

  markSeen(job: JobSummary): void {
    this.put({ ...job, seen: true });
    this.api.seen(job.id).subscribe({ error: () => this.put(job) });
  }

  /** Everything that is over without a fault is looked at. */
  markAllSeen(): void {
    const over = this.jobs().filter((j) => j.state === 'done' || j.state === 'called off');
    this.byId.update((jobs) => new Map([...jobs, ...over.map((j) => [j.id, { ...j, seen: true }] as const)]));
    this.api.allSeen().subscribe({
      next: () => this.trouble.set(''),
      error: (error: unknown) => {
        over.forEach((job) => this.put(job));
        this.trouble.set(wordsOf(error));
      },
    });
  }

  callOff(job: JobSummary): void {
    this.put({ ...job, callOff: true });
    this.api.callOffJob(job.id).subscribe({
      next: () => this.trouble.set(''),
      error: (error: unknown) => {
        this.put(job);
        this.trouble.set(wordsOf(error));
      },
    });
  }

  /** Goes on asking as long as the person is signed in: Treenail may be started anew, a line may be cut. */
  private connect(): void {
    this.listening ??= told()
      .pipe(
        timeout({ each: SILENCE_MS }),
        tap({ next: () => this.reach.heard(), error: () => this.reach.missed() }),
        retry({ delay: AGAIN_MS }),
      )
      .subscribe(({ type, data }) => {
        if (type === 'job') this.put(JobSummary.parse(JSON.parse(data)));
        if (type !== 'jobs') return;
        const jobs = z.array(JobSummary).parse(JSON.parse(data));
        this.byId.set(new Map(jobs.map((j) => [j.id, j])));
        jobs.forEach((j) => this.changes.next(j));
      });
  }

  private disconnect(): void {
    this.listening?.unsubscribe();
    this.listening = null;
    this.reach.forget();
    this.byId.set(new Map());
  }

  private put(job: JobSummary): void {
    this.byId.update((jobs) => new Map(jobs).set(job.id, job));
    this.changes.next(job);
  }
}
