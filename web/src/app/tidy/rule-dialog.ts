import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatButton } from '@angular/material/button';
import { count, mendKind } from '@treenail/core';
import type { NewDecision, RuleSummary, RuleUse } from '@treenail/server/contract';
import { switchMap } from 'rxjs';
import { wordsOf } from '../data/api';
import type { RuleSource } from './source';

export interface RuleDialogData {
  decision: NewDecision;
  kind: string;
  rules: RuleSource;
}

/** Keeps a decision under a name, and uses it for other courses that wait to be tidied. */
@Component({
  selector: 'tn-rule-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatDialogModule],
  template: `
    <h2 mat-dialog-title>{{ kept() ? 'Use the rule for other courses' : 'Keep as a rule' }}</h2>
    <mat-dialog-content>
      @if (!kept()) {
        <p>{{ sentence }}</p>
        <label>
          Name of the rule
          <input
            type="text"
            class="field"
            cdkFocusInitial
            maxlength="80"
            [value]="name()"
            (input)="name.set($any($event.target).value)"
          />
        </label>
      } @else if (uses(); as uses) {
        @if (uses.length === 0) {
          <p>“{{ name() }}” is kept. No other course that waits to be tidied has anything that it fits.</p>
        } @else {
          <p>“{{ name() }}” is kept. It fits in:</p>
          <ul>
            @for (use of uses; track use.moveId) {
              <li>
                <label class="pick">
                  <input type="checkbox" [checked]="picked().has(use.moveId)" (change)="pick(use.moveId)" />
                  <span>
                    <b>{{ use.course }}</b> {{ use.title }}
                  </span>
                  <span class="quiet">{{ count(use.findings, 'finding') }}</span>
                </label>
              </li>
            }
          </ul>
        }
      }
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton mat-dialog-close>{{ kept() ? 'Close' : 'Cancel' }}</button>
      @if (!kept()) {
        <button matButton="filled" [disabled]="name().trim() === '' || busy()" (click)="save()">Keep the rule</button>
      } @else if (uses()?.length) {
        <button matButton="filled" [disabled]="picked().size === 0 || busy()" (click)="apply()">
          Mend in {{ count(picked().size, 'course') }}
        </button>
      }
    </mat-dialog-actions>
  `,
  styles: `
    label:not(.pick) {
      display: grid;
      gap: 4px;
    }
    ul {
      margin: 0;
      padding: 0;
      list-style: none;
    }
    .pick {
      display: flex;
      gap: 10px;
      padding: 5px 0;
    }
    .pick span:nth-of-type(1) {
      flex: 1;
    }
  `,
})
export class RuleDialog {
  private readonly data = inject<RuleDialogData>(MAT_DIALOG_DATA);
  private readonly ref = inject<MatDialogRef<RuleDialog>>(MatDialogRef);
  protected readonly count = count;
  protected readonly name = signal(this.data.kind);
  protected readonly kept = signal<RuleSummary | null>(null);
  protected readonly uses = signal<RuleUse[] | null>(null);
  protected readonly picked = signal<ReadonlySet<number>>(new Set());
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  protected readonly sentence = `${this.data.kind}: ${mendKind(this.data.decision.mend)?.label ?? 'Leave as it is'}${
    this.data.decision.match.like === null
      ? ', wherever there are any'
      : `, where it is ${this.data.decision.match.like}`
  }.`;
  private readonly rule = computed(() => {
    const { match, mend, params, reason } = this.data.decision;
    return { name: this.name().trim(), match: { ...match, key: null }, mend, params, reason };
  });

  protected pick(moveId: number): void {
    this.picked.update((before) => {
      const after = new Set(before);
      if (!after.delete(moveId)) after.add(moveId);
      return after;
    });
  }

  protected save(): void {
    this.busy.set(true);
    this.data.rules
      .save(this.rule())
      .pipe(
        switchMap((all) => {
          const kept = all.find((r) => r.rule.name === this.rule().name);
          if (!kept) throw new Error('the rule that was kept is not among the rules');
          this.kept.set(kept);
          return this.data.rules.uses(kept.id);
        }),
      )
      .subscribe({
        next: (uses) => {
          this.busy.set(false);
          this.uses.set(uses);
          this.picked.set(new Set(uses.map((u) => u.moveId)));
        },
        error: (error: unknown) => this.fail(error),
      });
  }

  protected apply(): void {
    const kept = this.kept();
    if (!kept) return;
    this.busy.set(true);
    this.data.rules.apply(kept.id, [...this.picked()]).subscribe({
      next: () => this.ref.close(),
      error: (error: unknown) => this.fail(error),
    });
  }

  private fail(error: unknown): void {
    this.busy.set(false);
    this.error.set(wordsOf(error));
  }
}
