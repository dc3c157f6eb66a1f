import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatOptgroup, MatOption } from '@angular/material/core';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatFormField, MatLabel } from '@angular/material/form-field';
import { MatIcon } from '@angular/material/icon';
import { MatSelect } from '@angular/material/select';
import {
  DATE_NAME_LABELS,
  KIND_LABELS,
  type DateRule,
  type KnownDate,
  type RedatePlan,
  type RuleScope,
  type Term,
} from '@treenail/core';
import { DateRuleForm } from './rule-form';

export interface OthersDialogData {
  plan: RedatePlan;
  dates: readonly KnownDate[];
  folders: readonly { id: string; title: string }[];
  terms: readonly Term[];
  suggested: { from: Term | null; to: Term | null };
  firstDay: string;
}

interface Scoped {
  key: string;
  words: string;
  scope: RuleScope;
}

/** Rules for some of the dates: of a name, of a kind, below a folder, of one item. */
@Component({
  selector: 'tn-others-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    DateRuleForm,
    MatButton,
    MatDialogModule,
    MatFormField,
    MatIcon,
    MatIconButton,
    MatLabel,
    MatOptgroup,
    MatOption,
    MatSelect,
  ],
  template: `
    <h2 mat-dialog-title>Rules for some of the dates</h2>
    <mat-dialog-content>
      <p class="quiet">
        The narrowest counts: that of an item before that of its folder, that before one of what the date says, that
        before one of its kind. What is set by hand goes before all.
      </p>
      @for (other of others(); track keyOf(other.scope); let i = $index) {
        <section [attr.aria-label]="wordsOf(other.scope)">
          <b>{{ wordsOf(other.scope) }}</b>
          <button
            matIconButton
            class="tiny"
            [attr.aria-label]="'Remove the rule for ' + wordsOf(other.scope)"
            (click)="remove(i)"
          >
            <mat-icon svgIcon="close" />
          </button>
          <tn-date-rule
            [terms]="data.terms"
            [suggested]="data.suggested"
            [firstDay]="data.firstDay"
            [rule]="other.rule"
            (ruleChange)="set(i, $event)"
          />
        </section>
      }
      <mat-form-field appearance="outline" subscriptSizing="dynamic">
        <mat-label>Another rule, for</mat-label>
        <mat-select [value]="null" (selectionChange)="add($event.value)">
          @for (group of groups(); track group.words) {
            <mat-optgroup [label]="group.words">
              @for (one of group.all; track one.key) {
                <mat-option [value]="one.key">{{ one.words }}</mat-option>
              }
            </mat-optgroup>
          }
        </mat-select>
      </mat-form-field>
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton mat-dialog-close>Cancel</button>
      <button matButton="filled" (click)="ref.close(others())">Use these rules</button>
    </mat-dialog-actions>
  `,
  styles: `
    section {
      display: grid;
      grid-template-columns: 1fr auto;
      align-items: center;
      gap: 4px 8px;
      padding: 8px 0;
      border-bottom: 1px solid var(--line);
    }
    tn-date-rule {
      grid-column: 1 / -1;
    }
    mat-form-field {
      width: 100%;
      margin-top: 14px;
    }
  `,
})
export class OthersDialog {
  protected readonly data = inject<OthersDialogData>(MAT_DIALOG_DATA);
  protected readonly ref = inject<MatDialogRef<OthersDialog, RedatePlan['others']>>(MatDialogRef);
  protected readonly others = signal<RedatePlan['others']>(this.data.plan.others);
  private readonly all = this.scopes();
  protected readonly groups = computed(() => {
    const taken = new Set(this.others().map(({ scope }) => this.keyOf(scope)));
    return this.all
      .map(({ words, all }) => ({ words, all: all.filter((one) => !taken.has(one.key)) }))
      .filter(({ all }) => all.length > 0);
  });

  private scopes(): { words: string; all: Scoped[] }[] {
    const { dates, folders } = this.data;
    const scoped = (scope: RuleScope, words: string): Scoped => ({ key: this.keyOf(scope), words, scope });
    const once = <T>(list: readonly T[]) => [...new Set(list)];
    const dated = new Set(dates.flatMap((d) => d.folders));
    const items = new Map(dates.flatMap((d) => (d.item === null ? [] : [[d.item, d.title] as const])));
    return [
      {
        words: 'What the date says',
        all: once(dates.map((d) => d.name)).map((name) => scoped({ is: 'name', name }, DATE_NAME_LABELS[name])),
      },
      {
        words: 'Kinds',
        all: once(dates.map((d) => d.kind)).map((kind) => scoped({ is: 'kind', kind }, KIND_LABELS[kind])),
      },
      {
        words: 'Folders',
        all: folders.filter((f) => dated.has(f.id)).map((f) => scoped({ is: 'folder', folder: f.id }, f.title)),
      },
      { words: 'Items', all: [...items].map(([item, title]) => scoped({ is: 'item', item }, title)) },
    ];
  }

  protected keyOf(scope: RuleScope): string {
    return Object.values(scope).join(' ');
  }

  protected wordsOf(scope: RuleScope): string {
    const key = this.keyOf(scope);
    return this.all.flatMap((group) => group.all).find((one) => one.key === key)?.words ?? key;
  }

  protected add(key: string): void {
    const found = this.all.flatMap((group) => group.all).find((one) => one.key === key);
    if (found) this.others.update((all) => [...all, { scope: found.scope, rule: { is: 'keep' } }]);
  }

  protected set(at: number, rule: DateRule): void {
    this.others.update((all) => all.map((other, i) => (i === at ? { ...other, rule } : other)));
  }

  protected remove(at: number): void {
    this.others.update((all) => all.filter((_, i) => i !== at));
  }
}
