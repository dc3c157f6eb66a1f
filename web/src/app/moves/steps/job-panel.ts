import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { JobSummary } from '@treenail/server/contract';
import { Gauge } from '../../parts/gauge';

/** The wait, answered: what is being done, how far, and that nobody need stay. */
@Component({
  selector: 'tn-job-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Gauge],
  template: `
    @if (job(); as job) {
      @if (job.state !== 'done' && job.state !== 'failed') {
        <div class="panel" role="status">
          <h2>{{ sentence() }}</h2>
          <tn-gauge [job]="job" />
          <p class="quiet">
            This goes on without the browser. Leave whenever you like; the line at the bottom of every screen shows how
            far it is.
          </p>
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
  readonly job = input.required<JobSummary | null>();
  protected readonly sentence = computed(() => {
    const job = this.job();
    if (!job) return '';
    const words = job.words.charAt(0).toUpperCase() + job.words.slice(1);
    if (job.ahead === null) return words;
    return `${words}: ${job.ahead === 0 ? 'next in the queue' : `${job.ahead} other ${job.ahead === 1 ? 'job' : 'jobs'} ahead in its queue`}`;
  });
}
