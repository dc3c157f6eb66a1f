import { ChangeDetectionStrategy, Component, computed, effect, input, output, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { LEAVE, count, findingKind, mendKind, type Rule } from '@treenail/core';
import type { RuleSummary } from '@treenail/server/contract';
import { wordsOf } from '../data/api';
import type { RuleSource } from './source';
import { MatCheckbox } from '@angular/material/checkbox';

/** `Links that lead nowhere: Take the link off, keep its words, wherever there are any.` */
export function ruleWords({ match, mend, reason }: Omit<Rule, 'name'>): string {
  const what =
    mend === LEAVE ? `Leave it as it is${reason === '' ? '' : `, because ${reason}`}` : mendKind(mend)?.label;
  const where = match.groupKey === null ? 'wherever there are any' : `where it is ${match.groupKey}`;
  return `${findingKind(match.kind)?.label ?? match.kind}: ${what ?? mend}, ${where}.`;
}

/** The courses that a kept rule fits, to be ticked and mended. */
@Component({
  selector: 'tn-rule-uses',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatCheckbox],
  template: `
    @if (uses(); as uses) {
      @if (uses.length === 0) {
        <p class="quiet">No course that waits to be tidied has anything that it fits.</p>
      } @else {
        <ul>
          @for (use of uses; track use.moveId) {
            <li>
              <mat-checkbox [checked]="picked().has(use.moveId)" (change)="pick(use.moveId)">
                <span>
                  <b>{{ use.course }}</b> {{ use.title }}
                </span>
                <span class="quiet">{{ count(use.findings, 'finding') }}</span>
              </mat-checkbox>
            </li>
          }
        </ul>
        <div class="acts">
          <button matButton="filled" [disabled]="picked().size === 0 || busy()" (click)="apply()">
            Mend in {{ count(picked().size, 'course') }}
          </button>
        </div>
      }
    } @else if (!error()) {
      <p class="quiet" role="status">Looking where it fits</p>
    }
    @if (error()) {
      <p class="error" role="alert">{{ error() }}</p>
    }
  `,
  styles: `
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
    }
    label {
      display: flex;
      gap: 10px;
      padding: 5px 0;
    }
    label span:nth-of-type(1) {
      flex: 1;
    }
    p {
      margin: 6px 0;
    }
    .acts {
      display: flex;
      justify-content: flex-end;
      padding: 6px 0;
    }
  `,
})
export class RuleUses {
  readonly rules = input.required<RuleSource>();
  readonly rule = input.required<RuleSummary>();
  /** The rule was put to use. */
  readonly applied = output();
  protected readonly count = count;
  private readonly found = rxResource({
    params: () => this.rule().id,
    stream: ({ params }) => this.rules().uses(params),
  });
  protected readonly uses = computed(() => (this.found.hasValue() ? this.found.value() : null));
  protected readonly picked = signal<ReadonlySet<number>>(new Set());
  protected readonly busy = signal(false);
  private readonly failure = signal('');
  protected readonly error = computed(() => (this.found.error() ? wordsOf(this.found.error()) : this.failure()));

  constructor() {
    effect(() => this.picked.set(new Set((this.uses() ?? []).map((u) => u.moveId))));
  }

  protected pick(moveId: number): void {
    this.picked.update((before) => {
      const after = new Set(before);
      if (!after.delete(moveId)) after.add(moveId);
      return after;
    });
  }

  protected apply(): void {
    this.busy.set(true);
    this.rules()
      .apply(this.rule().id, [...this.picked()])
      .subscribe({
        next: () => this.applied.emit(),
        error: (error: unknown) => {
          this.busy.set(false);
          this.failure.set(wordsOf(error));
        },
      });
  }
}
