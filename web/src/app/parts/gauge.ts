import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { JobSummary } from '@treenail/server/contract';
import { readableSize } from '@treenail/core';

/** How far a job is: a bar where that is known, a striped one where it waits. */
@Component({
  selector: 'tn-gauge',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <span
      class="bar"
      [class.waiting]="waiting()"
      role="progressbar"
      [attr.aria-label]="job().words"
      aria-valuemin="0"
      aria-valuemax="100"
      [attr.aria-valuenow]="waiting() ? null : share()"
    >
      @if (!waiting()) {
        <i [style.width.%]="share()"></i>
      }
    </span>
    <span class="words">{{ words() }}</span>
  `,
  styles: `
    :host {
      display: inline-flex;
      align-items: center;
      gap: 9px;
    }
    .bar {
      width: var(--gauge-width, 74px);
      height: 6px;
      border-radius: 3px;
      background: var(--gauge-back, #3b4a4e);
      overflow: hidden;
    }
    .bar i {
      display: block;
      height: 100%;
      background: var(--gauge-fill, #7fc4ac);
    }
    .waiting {
      background: repeating-linear-gradient(
        90deg,
        var(--gauge-stripe, #7d9095) 0 6px,
        var(--gauge-back, #3b4a4e) 6px 12px
      );
    }
    .words {
      white-space: nowrap;
    }
  `,
})
export class Gauge {
  readonly job = input.required<JobSummary>();
  protected readonly waiting = computed(() => this.job().state !== 'done' && this.job().total === 0);
  protected readonly share = computed(() => {
    const { state, done, total } = this.job();
    return state === 'done' ? 100 : total === 0 ? 0 : Math.min(100, Math.floor((100 * done) / total));
  });
  protected readonly words = computed(() => {
    const { state, ahead, done, total, unit } = this.job();
    if (state === 'done') return 'done';
    if (state === 'failed') return 'failed';
    if (ahead !== null) return ahead === 0 ? 'next' : `${ahead} ahead`;
    if (total === 0) return state === 'queued' ? 'queued' : '';
    if (unit === 'bytes') return `${readableSize(done)} of ${readableSize(total)}`;
    return unit === '%' ? `${done} %` : `${done} of ${total}`;
  });
}
