import { DestroyRef, Injectable, computed, effect, inject, signal } from '@angular/core';
import { JobSummary } from '@treenail/server/contract';
import { Subject } from 'rxjs';
import * as z from 'zod';
import { Api } from './api';
import { SessionService } from './session';

/** The running, waiting and newly finished jobs, as the server tells them. Reconnects by itself. */
@Injectable({ providedIn: 'root' })
export class JobsService {
  private readonly api = inject(Api);
  private readonly session = inject(SessionService);
  private readonly byId = signal<ReadonlyMap<number, JobSummary>>(new Map());
  private source: EventSource | null = null;
  private readonly changes = new Subject<JobSummary>();

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

  private connect(): void {
    if (this.source) return;
    this.source = new EventSource('/api/events');
    this.source.addEventListener('jobs', (event: MessageEvent<string>) => {
      const jobs = z.array(JobSummary).parse(JSON.parse(event.data));
      this.byId.set(new Map(jobs.map((j) => [j.id, j])));
      jobs.forEach((j) => this.changes.next(j));
    });
    this.source.addEventListener('job', (event: MessageEvent<string>) =>
      this.put(JobSummary.parse(JSON.parse(event.data))),
    );
  }

  private disconnect(): void {
    this.source?.close();
    this.source = null;
    this.byId.set(new Map());
  }

  private put(job: JobSummary): void {
    this.byId.update((jobs) => new Map(jobs).set(job.id, job));
    this.changes.next(job);
  }
}
