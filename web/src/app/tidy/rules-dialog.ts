import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule } from '@angular/material/dialog';
import type { RuleSummary } from '@treenail/server/contract';
import { wordsOf } from '../data/api';
import { RuleUses, ruleWords } from './rule-uses';
import type { RuleSource } from './source';

export interface RulesDialogData {
  rules: RuleSource;
  kept: readonly RuleSummary[];
}

/** All rules that are kept: what each does, where it fits, and the way to be rid of it. */
@Component({
  selector: 'tn-rules-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatDialogModule, RuleUses],
  template: `
    <h2 mat-dialog-title>Rules that are kept</h2>
    <mat-dialog-content>
      @for (one of kept(); track one.id) {
        <section [attr.aria-label]="one.rule.name">
          <div class="rule">
            <span>
              <b>{{ one.rule.name }}</b>
              <small>{{ words(one.rule) }}</small>
            </span>
            <button
              matButton="outlined"
              [attr.aria-expanded]="using() === one.id"
              (click)="using.set(using() === one.id ? null : one.id)"
            >
              Use it
            </button>
            <button matButton="outlined" [disabled]="busy()" (click)="remove(one)">Remove</button>
          </div>
          @if (using() === one.id) {
            <tn-rule-uses [rules]="data.rules" [rule]="one" (applied)="using.set(null); said.set(applied(one))" />
          }
        </section>
      } @empty {
        <p>
          None yet. Decide a finding for all that are alike, or for all of its kind: that can be kept as a rule and used
          for other courses.
        </p>
      }
      @if (said()) {
        <p role="status">{{ said() }}</p>
      }
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton mat-dialog-close>Close</button>
    </mat-dialog-actions>
  `,
  styles: `
    section + section {
      border-top: 1px solid var(--line);
    }
    .rule {
      display: flex;
      align-items: center;
      gap: 8px;
      padding: 8px 0;
    }
    .rule span {
      flex: 1;
    }
    small {
      display: block;
      color: var(--quiet);
    }
  `,
})
export class RulesDialog {
  protected readonly data = inject<RulesDialogData>(MAT_DIALOG_DATA);
  protected readonly kept = signal(this.data.kept);
  protected readonly using = signal<number | null>(null);
  protected readonly busy = signal(false);
  protected readonly said = signal('');
  protected readonly error = signal('');
  protected readonly words = ruleWords;

  protected applied(one: RuleSummary): string {
    return `“${one.rule.name}” is put into the working copies. The bar at the bottom says when it is done.`;
  }

  protected remove(one: RuleSummary): void {
    this.busy.set(true);
    this.error.set('');
    this.data.rules.remove(one.id).subscribe({
      next: (left) => {
        this.busy.set(false);
        this.kept.set(left);
        this.said.set(`“${one.rule.name}” is removed. What it mended stays mended.`);
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
