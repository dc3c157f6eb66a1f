import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatFormField, MatLabel } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import {
  DATE_NAME_LABELS,
  cellOf,
  clockWords,
  momentFromCell,
  type Moment,
  type RedateRow,
  type TextChoice,
} from '@treenail/core';

export interface HandDialogData {
  row: RedateRow;
  zone: string;
}

/** What a person decided of one date. */
export type HandChoice = { is: 'date'; to: Moment | null } | { is: 'text'; to: TextChoice } | { is: 'rule' };

/** Sets one date by hand, or what is to stand in a text. */
@Component({
  selector: 'tn-hand-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatDialogModule, MatFormField, MatInput, MatLabel],
  template: `
    <h2 mat-dialog-title>{{ row.title }}: {{ label }}</h2>
    <mat-dialog-content>
      @if (row.words; as words) {
        <p class="sentence">{{ words.sentence }}</p>
        <p>“{{ words.phrase }}” is to read:</p>
        <mat-form-field appearance="outline" subscriptSizing="dynamic">
          <mat-label>What is to stand there</mat-label>
          <input
            #field
            matInput
            cdkFocusInitial
            maxlength="200"
            [value]="written()"
            (input)="written.set(field.value)"
          />
        </mat-form-field>
      } @else {
        <p>It was {{ was }}. Set by hand it keeps its place when the rule changes.</p>
        <mat-form-field appearance="outline" subscriptSizing="dynamic">
          <mat-label>Day and time, by the clock of {{ data.zone }}</mat-label>
          <input
            #field
            matInput
            cdkFocusInitial
            placeholder="22 Jan 2027 17:00"
            [value]="written()"
            (input)="written.set(field.value)"
            (keydown.enter)="set()"
          />
        </mat-form-field>
      }
      <p role="status" [class.error]="wrong() !== ''">{{ wrong() || read() }}</p>
      @for (note of row.notes; track note.code) {
        <p class="quiet">{{ note.words }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton mat-dialog-close>Cancel</button>
      @if (row.words) {
        <button matButton="outlined" (click)="close({ is: 'text', to: { is: 'left' } })">Leave the words</button>
        <button matButton="filled" [disabled]="wrong() !== ''" (click)="set()">Write this</button>
      } @else {
        @if (row.byHand) {
          <button matButton="outlined" (click)="close({ is: 'rule' })">Back to the rule</button>
        }
        <button matButton="outlined" (click)="close({ is: 'date', to: null })">Take it away</button>
        <button matButton="filled" [disabled]="wrong() !== ''" (click)="set()">Set it</button>
      }
    </mat-dialog-actions>
  `,
  styles: `
    mat-form-field {
      width: 100%;
    }
    .sentence {
      padding-left: 10px;
      border-left: 3px solid var(--timber);
    }
  `,
})
export class HandDialog {
  protected readonly data = inject<HandDialogData>(MAT_DIALOG_DATA);
  private readonly ref = inject<MatDialogRef<HandDialog, HandChoice>>(MatDialogRef);
  protected readonly row = this.data.row;
  protected readonly label = DATE_NAME_LABELS[this.row.name];
  protected readonly was = this.row.was ? clockWords(this.row.was, this.data.zone) : '';
  protected readonly written = signal(
    this.row.words ? (this.row.words.becomes ?? this.row.words.phrase) : cellOf(this.row.will, this.data.zone),
  );
  private readonly made = computed(() => momentFromCell(this.written(), this.row.was, this.data.zone));
  protected readonly wrong = computed(() => {
    if (this.row.words) return this.written().trim() === '' ? 'Words can’t be taken away here.' : '';
    const made = this.made();
    return typeof made === 'string' ? `${made.charAt(0).toUpperCase()}${made.slice(1)}` : '';
  });
  protected readonly read = computed(() => {
    const made = this.made();
    return this.row.words || typeof made === 'string' ? '' : clockWords(made, this.data.zone);
  });

  protected set(): void {
    if (this.wrong() !== '') return;
    const made = this.made();
    if (this.row.words) this.close({ is: 'text', to: { is: 'words', words: this.written().trim() } });
    else if (typeof made !== 'string') this.close({ is: 'date', to: made });
  }

  protected close(choice: HandChoice): void {
    this.ref.close(choice);
  }
}
