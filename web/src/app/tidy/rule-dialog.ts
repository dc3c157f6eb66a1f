import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatButton } from '@angular/material/button';
import type { NewDecision, RuleSummary } from '@treenail/server/contract';
import { wordsOf } from '../data/api';
import { RuleUses, ruleWords } from './rule-uses';
import type { RuleSource } from './source';
import { MatFormField, MatLabel } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';

export interface RuleDialogData {
  decision: NewDecision;
  kind: string;
  rules: RuleSource;
}

/** Keeps a decision under a name, and uses it for other courses that wait to be tidied. */
@Component({
  selector: 'tn-rule-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatDialogModule, MatFormField, MatInput, MatLabel, RuleUses],
  template: `
    <h2 mat-dialog-title>{{ kept() ? 'Use the rule for other courses' : 'Keep as a rule' }}</h2>
    <mat-dialog-content>
      @if (kept(); as kept) {
        <p>“{{ kept.rule.name }}” is kept.</p>
        <tn-rule-uses [rules]="data.rules" [rule]="kept" (applied)="ref.close()" />
      } @else {
        <p>{{ sentence }}</p>
        <mat-form-field appearance="outline" subscriptSizing="dynamic">
          <mat-label>Name of the rule</mat-label>
          <input #written matInput cdkFocusInitial maxlength="80" [value]="name()" (input)="name.set(written.value)" />
        </mat-form-field>
      }
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton mat-dialog-close>{{ kept() ? 'Close' : 'Cancel' }}</button>
      @if (!kept()) {
        <button matButton="filled" [disabled]="name().trim() === '' || busy()" (click)="save()">Keep the rule</button>
      }
    </mat-dialog-actions>
  `,
  styles: `
    mat-form-field {
      width: 100%;
    }
  `,
})
export class RuleDialog {
  protected readonly data = inject<RuleDialogData>(MAT_DIALOG_DATA);
  protected readonly ref = inject<MatDialogRef<RuleDialog>>(MatDialogRef);
  protected readonly name = signal(this.data.kind);
  protected readonly kept = signal<RuleSummary | null>(null);
  protected readonly busy = signal(false);
  protected readonly error = signal('');
  private readonly rule = computed(() => {
    const { match, mend, params, reason } = this.data.decision;
    return { name: this.name().trim(), match: { ...match, key: null }, mend, params, reason };
  });
  protected readonly sentence = ruleWords(this.rule());

  protected save(): void {
    this.busy.set(true);
    this.data.rules.save(this.rule()).subscribe({
      next: (all) => {
        this.busy.set(false);
        this.kept.set(all.find((r) => r.rule.name === this.rule().name) ?? null);
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
