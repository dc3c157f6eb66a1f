import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { RedateRow } from '@treenail/core';
import { isToLookAt } from './wording';

/** What became of a date, as a shape: a disc that went well, half a disc of which something is said, a ring to look at. */
@Component({
  selector: 'tn-date-mark',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<svg viewBox="0 0 14 14" role="img" [attr.aria-label]="mark().words" [style.color]="mark().colour">
    @switch (mark().shape) {
      @case ('disc') {
        <circle cx="7" cy="7" r="5" fill="currentColor" />
      }
      @case ('half') {
        <circle cx="7" cy="7" r="4.5" fill="none" stroke="currentColor" stroke-width="1.5" />
        <path d="M7 2.5a4.5 4.5 0 0 0 0 9z" fill="currentColor" />
      }
      @case ('ring') {
        <circle cx="7" cy="7" r="4.25" fill="none" stroke="currentColor" stroke-width="2.5" />
      }
      @case ('square') {
        <path d="M2.5 2.5h9v9h-9z" fill="currentColor" />
      }
      @case ('dash') {
        <path d="M2 7h10" stroke="currentColor" stroke-width="2" />
      }
    }
  </svg>`,
  styles: `
    svg {
      width: 14px;
      height: 14px;
      vertical-align: -2px;
    }
  `,
})
export class DateMark {
  readonly row = input.required<RedateRow>();
  protected readonly mark = computed((): { shape: string; words: string; colour: string } => {
    const row = this.row();
    if (isToLookAt(row)) return { shape: row.words ? 'square' : 'ring', words: 'to look at', colour: 'var(--lead)' };
    if (row.words) return { shape: 'square', words: 'in a text', colour: 'var(--slate)' };
    if (row.state === 'away') return { shape: 'dash', words: 'taken away', colour: 'var(--quiet)' };
    if (row.notes.length > 0) return { shape: 'half', words: 'moved, with a remark', colour: 'var(--ochre)' };
    return { shape: 'disc', words: row.state === 'holds' ? 'as it was' : 'moved', colour: 'var(--spruce)' };
  });
}
