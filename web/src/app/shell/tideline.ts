import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { RouterLink } from '@angular/router';
import type { JobSummary } from '@treenail/server/contract';
import { JobsService } from '../data/jobs';
import { KeepingService, type Keeping } from '../data/keeping';
import { Gauge } from '../parts/gauge';
import { WhenPipe } from '../parts/words';
import { MatButton } from '@angular/material/button';

/** The row along the bottom of every screen: what runs, waits and is newly done. Opens upward into the full list. */
@Component({
  selector: 'tn-tideline',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Gauge, MatButton, RouterLink, WhenPipe],
  template: `
    @if (open()) {
      <section class="all" aria-label="All jobs">
        @if (over() > 1) {
          <div class="row sum">
            <span>{{ over() }} are over</span>
            <span></span>
            <button matButton type="button" class="small" (click)="service.markAllSeen()">All seen</button>
          </div>
        }
        @if (service.trouble(); as why) {
          <p role="alert">{{ why }}</p>
        }
        @for (job of jobs(); track job.id) {
          <div class="row">
            <a [routerLink]="linkOf(job)" (click)="open.set(false)"
              ><b>{{ job.course }}</b> {{ job.words }}</a
            >
            <tn-gauge [job]="job" />
            @if (isOver(job)) {
              <button matButton type="button" class="small" (click)="service.markSeen(job)">Seen</button>
            } @else {
              <button matButton type="button" class="small" [disabled]="job.callOff" (click)="service.callOff(job)">
                {{ job.callOff ? 'ending' : 'Call off' }}
              </button>
            }
          </div>
        } @empty {
          <p>Fetches, builds, deliveries and checks show here while they run.</p>
        }
      </section>
    }
    <div class="tide" role="status" aria-label="Jobs">
      @if (service.lost(); as since) {
        <span class="job failed"
          ><span>No word from Treenail since {{ since.toISOString() | when }}: this is how it stood then</span></span
        >
      }
      @for (file of keeping.sending(); track file.fileName) {
        <a class="job" routerLink="/bench"
          ><b>sending</b> <span class="words">{{ file.fileName }}, {{ share(file) }} %</span></a
        >
      }
      @for (job of shown(); track job.id) {
        <a class="job" [class.failed]="job.state === 'failed'" [routerLink]="linkOf(job)">
          <b>{{ job.course }}</b> <span class="words">{{ job.words }}</span>
          @if (!isOver(job)) {
            <tn-gauge [job]="job" />
          }
        </a>
      }
      <button matButton type="button" class="toggle small" [attr.aria-expanded]="open()" (click)="open.set(!open())">
        {{ sums() }} <span aria-hidden="true">{{ open() ? '▾' : '▴' }}</span>
      </button>
    </div>
  `,
  styles: `
    :host {
      position: relative;
      display: block;
      min-width: 0;
      background: var(--tide);
      color: #e6ecea;
      font-size: 12.5px;
    }
    a {
      color: inherit;
      text-decoration: none;
    }
    .tide {
      display: flex;
      align-items: center;
      min-width: 0;
      height: 36px;
      padding: 0 20px;
      overflow: hidden;
    }
    .job {
      flex: 0 1 auto;
      min-width: 0;
      overflow: hidden;
      display: flex;
      align-items: center;
      gap: 9px;
      height: 20px;
      padding-right: 22px;
      margin-right: 22px;
      border-right: 1px solid #3b4a4e;
      white-space: nowrap;
    }
    .job .words {
      min-width: 0;
      max-width: 34ch;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .failed span {
      color: #f0a090;
    }
    .job b {
      flex: none;
      max-width: 18ch;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .toggle {
      flex: none;
      margin-left: auto;
    }
    button {
      --mat-button-text-label-text-color: #b9c6c3;
      white-space: nowrap;
    }
    :focus-visible {
      outline-color: #7fc4ac;
    }
    .all {
      position: absolute;
      bottom: 36px;
      right: 0;
      z-index: 10;
      width: min(640px, 100vw);
      max-height: 60vh;
      overflow: auto;
      padding: 8px 20px;
      background: var(--tide);
      border-top: 1px solid #3b4a4e;
      box-shadow: var(--shadow);
    }
    .row {
      display: grid;
      grid-template-columns: minmax(0, 1fr) auto 62px;
      align-items: center;
      gap: 12px;
      min-height: 32px;
    }
  `,
})
export class Tideline {
  protected readonly service = inject(JobsService);
  protected readonly keeping = inject(KeepingService);
  protected readonly open = signal(false);
  protected readonly jobs = this.service.jobs;
  /** Of each move the newest job; what runs before what is done. */
  protected readonly shown = computed(() => {
    const newest = new Map<number, JobSummary>();
    for (const job of this.jobs()) newest.set(job.moveId ?? -job.id, job);
    const rank = (j: JobSummary) => (j.state === 'failed' ? 0 : this.isOver(j) ? 2 : 1);
    return [...newest.values()].sort((a, b) => rank(a) - rank(b)).slice(0, 3);
  });
  /** Over without a fault: what failed waits for a person, one by one. */
  protected readonly over = computed(
    () => this.jobs().filter((j) => j.state === 'done' || j.state === 'called off').length,
  );

  protected isOver({ state }: JobSummary): boolean {
    return state === 'done' || state === 'failed' || state === 'called off';
  }

  protected linkOf(job: JobSummary): unknown[] {
    if (job.moveId !== null) return ['/moves', job.moveId];
    return [job.state === 'done' ? '/strongroom' : '/bench'];
  }

  protected share(file: Keeping): number {
    return file.state === 'sending' && file.total > 0 ? Math.floor((100 * file.done) / file.total) : 0;
  }

  protected readonly sums = computed(() => {
    const jobs = this.jobs();
    const waiting = jobs.filter((j) => j.state === 'queued' || j.state === 'waiting').length;
    const running = jobs.filter((j) => j.state === 'running').length;
    const failed = jobs.filter((j) => j.state === 'failed').length;
    const done = jobs.filter((j) => j.state === 'done').length;
    if (jobs.length === 0) return 'Nothing runs or waits';
    return [
      running && `${running} at work`,
      waiting && `${waiting} waiting`,
      failed && `${failed} failed`,
      done && `${done} newly done`,
    ]
      .filter(Boolean)
      .join(', ');
  });
}
