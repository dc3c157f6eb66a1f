import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { Outcome } from '@treenail/core';

export const OUTCOME_COLOURS: Record<Outcome, string> = {
  whole: 'var(--spruce)',
  reworked: 'var(--ochre)',
  'left behind': 'var(--lead)',
  extra: 'var(--slate)',
  unsure: 'var(--quiet)',
};

/** The mark of an outcome. Shape and colour; the word stands beside it or in its label. */
@Component({
  selector: 'tn-peg',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<svg viewBox="0 0 14 14" role="img" [attr.aria-label]="outcome()" [style.color]="colour()">
    @switch (outcome()) {
      @case ('whole') {
        <circle cx="7" cy="7" r="5.5" fill="currentColor" />
      }
      @case ('reworked') {
        <circle cx="7" cy="7" r="4.75" fill="none" stroke="currentColor" stroke-width="1.5" />
        <path d="M7 2.2a4.8 4.8 0 0 0 0 9.6z" fill="currentColor" />
      }
      @case ('left behind') {
        <path d="M9.6 3a4.75 4.75 0 1 1-5.2 0" fill="none" stroke="currentColor" stroke-width="2" />
      }
      @case ('extra') {
        <path d="M7 1.2 12.8 7 7 12.8 1.2 7z" fill="currentColor" />
      }
      @case ('unsure') {
        <circle cx="7" cy="7" r="4.75" fill="none" stroke="currentColor" stroke-width="1.5" stroke-dasharray="2 2" />
      }
    }
  </svg>`,
  styles: `
    svg {
      width: 14px;
      height: 14px;
      vertical-align: -2px;
      flex: none;
    }
  `,
})
export class Peg {
  readonly outcome = input.required<Outcome>();
  protected readonly colour = computed(() => OUTCOME_COLOURS[this.outcome()]);
}
