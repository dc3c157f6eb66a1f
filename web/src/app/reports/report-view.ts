import { ChangeDetectionStrategy, Component, computed, input, signal } from '@angular/core';
import { cameOtherwise, explain, kindWords, type Outcome, type TransferReport, count } from '@treenail/core';
import { Peg } from '../parts/peg';
import { TotalsBar } from '../parts/totals';
import { HashPipe, WhenPipe } from '../parts/words';

/** A transfer report as a page: the counts, and a line for everything that is not whole. */
@Component({
  selector: 'tn-report-view',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [HashPipe, Peg, TotalsBar, WhenPipe],
  template: `
    <tn-totals [totals]="report().totals" />
    <p class="quiet">
      {{ otherwise() }} Sent from {{ report().source }} to {{ report().destination }}, checked
      {{ report().checkedAt | when: 'long' }}.
      <a [href]="report().place" target="_blank" rel="noopener">Open the course at {{ report().destination }}</a>
    </p>
    <div class="filters no-print">
      <button type="button" class="chip" [attr.aria-pressed]="only() === null" (click)="only.set(null)">
        all that is not whole
      </button>
      @for (outcome of outcomes(); track outcome) {
        <button type="button" class="chip" [attr.aria-pressed]="only() === outcome" (click)="only.set(outcome)">
          {{ outcome }}
        </button>
      }
      <button type="button" class="chip" [attr.aria-pressed]="only() === 'otherwise'" (click)="only.set('otherwise')">
        otherwise than foretold
      </button>
    </div>
    <div class="panel">
      <table class="list">
        <thead>
          <tr>
            <th>Outcome</th>
            <th>Item</th>
            <th>Kind</th>
            <th>What is not as it was</th>
          </tr>
        </thead>
        <tbody>
          @for (line of lines(); track $index) {
            <tr>
              <td class="outcome"><tn-peg [outcome]="line.outcome" /> {{ line.outcome }}</td>
              <td>
                {{ line.title }}
                @if (line.trail.length > 0) {
                  <div class="quiet">{{ line.trail.join(' › ') }}</div>
                }
              </td>
              <td class="quiet">{{ kind(line) }}</td>
              <td>
                {{ why(line) }}
                @if (line.foretold !== null && line.foretold !== line.outcome) {
                  <span class="tag due">foretold {{ line.foretold }}</span>
                }
              </td>
            </tr>
          } @empty {
            <tr>
              <td colspan="4">Everything arrived whole.</td>
            </tr>
          }
        </tbody>
      </table>
    </div>
    <p class="quiet">
      Package {{ report().packageFile }}, as delivered <code>{{ report().packageSha256 | hash }}</code>
    </p>
  `,
  styles: `
    :host {
      display: grid;
      gap: 10px;
      min-width: 0;
    }
    p {
      margin: 0;
    }
    .filters {
      display: flex;
      gap: 8px;
    }
    .list td {
      vertical-align: top;
      padding: 6px 10px;
    }
    td:nth-child(2) {
      width: 32%;
    }
    td .quiet {
      font-size: 12.5px;
    }
    .outcome {
      white-space: nowrap;
    }
  `,
})
export class ReportView {
  readonly report = input.required<TransferReport>();
  protected readonly only = signal<Outcome | 'otherwise' | null>(null);
  protected readonly why = explain;
  protected readonly kind = kindWords;
  protected readonly outcomes = computed(() => [...new Set(this.report().lines.map((l) => l.outcome))]);
  protected readonly lines = computed(() => {
    const only = this.only();
    return this.report().lines.filter((l) =>
      only === null ? true : only === 'otherwise' ? cameOtherwise(l) : l.outcome === only,
    );
  });
  protected readonly otherwise = computed(() => {
    const n = this.report().otherwise;
    return n === 0 ? 'Everything came as it was foretold.' : `${count(n, 'line')} came otherwise than foretold.`;
  });
}
