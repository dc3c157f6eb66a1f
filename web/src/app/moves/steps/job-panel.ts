import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import type { JobSummary } from '@treenail/server/contract';
import { Api, wordsOf } from '../../data/api';
import { Gauge } from '../../parts/gauge';

/** The wait, answered: what is being done, how far, and that nobody need stay. */
@Component({
  selector: 'tn-job-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Gauge, MatButton],
  template: `
    @if (job(); as job) {
      @if (job.state !== 'done' && job.state !== 'failed' && job.state !== 'called off') {
        <div class="panel" role="status">
          <h2>{{ sentence() }}</h2>
          <tn-gauge [job]="job" />
          <p class="quiet">
            This goes on without the browser. Leave whenever you like; the line at the bottom of every screen shows how
            far it is.
          </p>
          <div>
            <button matButton="outlined" [disabled]="job.callOff || busy()" (click)="callOff(job)">
              {{ job.callOff ? 'Being called off' : 'Call this off' }}
            </button>
          </div>
          @if (error()) {
            <p class="error" role="alert">{{ error() }}</p>
          }
        </div>
      }
    }
  `,
  styles: `
    :host {
      display: contents;
    }
    .panel {
      display: grid;
      gap: 8px;
      padding: 16px;
      --gauge-width: 360px;
      --gauge-back: var(--sunk);
      --gauge-fill: var(--spruce);
      --gauge-stripe: var(--timber);
    }
    p {
      margin: 0;
    }
  `,
})
export class JobPanel {
  private readonly api = inject(Api);
  readonly job = input.required<JobSummary | null>();
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  protected readonly sentence = computed(() => {
    const job = this.job();
    if (!job) return '';
    const words = job.words.charAt(0).toUpperCase() + job.words.slice(1);
    if (job.ahead === null) return words;
    return `${words}: ${job.ahead === 0 ? 'next in the queue' : `${job.ahead} other ${job.ahead === 1 ? 'job' : 'jobs'} ahead in its queue`}`;
  });

  /** What it had begun at the platform is cleared away too, where the platform can. */
  protected callOff(job: JobSummary): void {
    this.busy.set(true);
    this.api.callOffJob(job.id).subscribe({
      next: () => this.busy.set(false),
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
