import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { Outcome, Totals } from '@treenail/core';
import { OUTCOME_COLOURS, Peg } from './peg';

const SHOWN: readonly Outcome[] = ['whole', 'reworked', 'left behind', 'extra', 'unsure'];

/** The answer first: how many of each outcome, and the same as one bar. */
@Component({
  selector: 'tn-totals',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Peg],
  template: `
    @for (part of parts(); track part.outcome) {
      <span class="part"
        ><tn-peg [outcome]="part.outcome" /> <b>{{ part.count }}</b> {{ part.outcome }}
      </span>
    }
    <span class="bar" aria-hidden="true">
      @for (part of parts(); track part.outcome) {
        @if (part.count > 0) {
          <i [style.flex-grow]="part.count" [style.background]="part.colour"></i>
        }
      }
    </span>
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 22px;
      min-width: 0;
    }
    .part {
      white-space: nowrap;
    }
    b {
      font: 600 25px/30px var(--slab);
      font-variant-numeric: lining-nums;
      margin: 0 2px 0 4px;
    }
    .bar {
      display: flex;
      gap: 2px;
      flex: 1;
      max-width: 380px;
      height: 12px;
      border-radius: 3px;
      overflow: hidden;
    }
    .bar i {
      min-width: 3px;
    }
  `,
})
export class TotalsBar {
  readonly totals = input.required<Totals>();
  protected readonly parts = computed(() =>
    SHOWN.flatMap((outcome) => {
      const count = this.totals()[outcome] ?? 0;
      // Nothing left behind is an answer too; extras and doubts are only spoken of when there are any.
      return count > 0 || outcome === 'whole' || outcome === 'reworked' || outcome === 'left behind'
        ? [{ outcome, count, colour: OUTCOME_COLOURS[outcome] }]
        : [];
    }),
  );
}
