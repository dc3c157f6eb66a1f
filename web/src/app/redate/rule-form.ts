import { ChangeDetectionStrategy, Component, computed, input, model } from '@angular/core';
import { MatButtonToggleModule } from '@angular/material/button-toggle';
import { MatOption } from '@angular/material/core';
import { MatFormField, MatPrefix } from '@angular/material/form-field';
import { MatSelect } from '@angular/material/select';
import type { DateRule, Term } from '@treenail/core';
import { DayField } from '../parts/day-field';

const WAYS: readonly { is: DateRule['is']; words: string }[] = [
  { is: 'term', words: 'Week for week' },
  { is: 'stretch', words: 'Fitted to the length' },
  { is: 'days', words: 'As many days on' },
  { is: 'away', words: 'Taken away' },
  { is: 'keep', words: 'As they were' },
];

const ENDS = [
  { of: 'from', words: 'from', label: 'From the term' },
  { of: 'to', words: 'into', label: 'Into the term' },
] as const;

/** Where dates go: the way, and from where to where. */
@Component({
  selector: 'tn-date-rule',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [DayField, MatButtonToggleModule, MatFormField, MatOption, MatPrefix, MatSelect],
  template: `
    <mat-button-toggle-group
      hideSingleSelectionIndicator
      aria-label="Where the dates go"
      [disabled]="disabled()"
      [value]="rule().is"
      (change)="turnTo($event.value)"
    >
      @for (way of ways(); track way.is) {
        <mat-button-toggle [value]="way.is">{{ way.words }}</mat-button-toggle>
      }
    </mat-button-toggle-group>
    @if (termed(); as termed) {
      @for (end of ends; track end.of) {
        <mat-form-field class="slim" appearance="outline" subscriptSizing="dynamic">
          <span matTextPrefix class="quiet">{{ end.words }}&nbsp;</span>
          <mat-select
            [aria-label]="end.label"
            [disabled]="disabled()"
            [value]="termed[end.of].name"
            (selectionChange)="setTerm(end.of, $event.value)"
          >
            @for (term of choicesOf(termed[end.of]); track term.name) {
              <mat-option [value]="term.name">{{ term.name }}</mat-option>
            }
          </mat-select>
        </mat-form-field>
      }
    }
    @if (byDays(); as days) {
      <span class="quiet">first day</span>
      <tn-day-field
        label="First day as it was"
        [disabled]="disabled()"
        [day]="days.from"
        (dayChange)="setDay('from', $event)"
      />
      <span class="quiet">becomes</span>
      <tn-day-field
        label="First day as it will be"
        [disabled]="disabled()"
        [day]="days.to"
        (dayChange)="setDay('to', $event)"
      />
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 8px;
    }
    mat-form-field {
      width: 190px;
    }
  `,
})
export class DateRuleForm {
  readonly rule = model.required<DateRule>();
  readonly terms = input.required<readonly Term[]>();
  /** The terms that are taken where none was chosen yet. */
  readonly suggested = input.required<{ from: Term | null; to: Term | null }>();
  /** The first day on which something is dated, for rules by days. */
  readonly firstDay = input.required<string>();
  readonly disabled = input(false);
  protected readonly ends = ENDS;
  protected readonly ways = computed(() =>
    this.suggested().from && this.suggested().to ? WAYS : WAYS.filter((w) => w.is !== 'term' && w.is !== 'stretch'),
  );
  protected readonly termed = computed(() => {
    const rule = this.rule();
    return rule.is === 'term' || rule.is === 'stretch' ? rule : null;
  });
  protected readonly byDays = computed(() => {
    const rule = this.rule();
    return rule.is === 'days' ? rule : null;
  });

  /** A term that was taken away from the calendar since it was chosen is still what was chosen. */
  protected choicesOf(chosen: Term): readonly Term[] {
    return this.terms().some((t) => t.name === chosen.name) ? this.terms() : [...this.terms(), chosen];
  }

  protected turnTo(is: DateRule['is']): void {
    const { from, to } = this.termed() ?? this.suggested();
    if (is === 'term' || is === 'stretch') {
      if (from && to) this.rule.set({ is, from, to });
    } else if (is === 'days') {
      const first = from?.from ?? this.firstDay();
      this.rule.set({ is, from: first, to: to?.from ?? first });
    } else this.rule.set({ is });
  }

  protected setTerm(end: 'from' | 'to', name: string): void {
    const rule = this.termed();
    const term = rule && this.choicesOf(rule[end]).find((t) => t.name === name);
    if (term) this.rule.set({ ...rule, [end]: term });
  }

  protected setDay(end: 'from' | 'to', day: string): void {
    const rule = this.byDays();
    if (rule && day !== '') this.rule.set({ ...rule, [end]: day });
  }
}
