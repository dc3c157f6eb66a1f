import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatFormField, MatLabel } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import type { LogAnswer, MoveSummary } from '@treenail/server/contract';
import { Api, wordsOf } from '../../data/api';

export interface LogWordsData {
  move: MoveSummary;
  entry: LogAnswer['log'][number];
}

/** What a line of a platform's log means, said by a person who found out. */
@Component({
  selector: 'tn-log-words-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatDialogModule, MatFormField, MatInput, MatLabel],
  template: `
    <h2 mat-dialog-title>What a line of {{ data.move.to.name }}’s log means</h2>
    <mat-dialog-content>
      <p>
        <code>{{ data.entry.line }}</code>
      </p>
      <mat-form-field appearance="outline">
        <mat-label>In plain words</mat-label>
        <input #words matInput maxlength="300" [value]="said()" (input)="said.set(words.value)" />
      </mat-form-field>
      <p class="quiet">
        It holds for all lines of the form <code>{{ data.entry.form }}</code>, at all platforms of this kind, in the
        logs that there are and those to come.
      </p>
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton mat-dialog-close>Close</button>
      @if (data.entry.given) {
        <button matButton="outlined" [disabled]="busy()" (click)="give('')">Take the words away</button>
      }
      <button matButton="filled" [disabled]="busy() || said().trim() === ''" (click)="give(said())">
        Keep these words
      </button>
    </mat-dialog-actions>
  `,
  styles: `
    mat-dialog-content {
      display: grid;
      gap: 10px;
    }
    p {
      margin: 0;
    }
    code {
      overflow-wrap: anywhere;
    }
  `,
})
export class LogWordsDialog {
  private readonly api = inject(Api);
  private readonly ref = inject<MatDialogRef<LogWordsDialog, LogAnswer>>(MatDialogRef);
  protected readonly data = inject<LogWordsData>(MAT_DIALOG_DATA);
  protected readonly said = signal(this.data.entry.given ? (this.data.entry.words ?? '') : '');
  protected readonly busy = signal(false);
  protected readonly error = signal('');

  protected give(words: string): void {
    this.busy.set(true);
    this.api.giveWords(this.data.move.id, { line: this.data.entry.line, words }).subscribe({
      next: (log) => this.ref.close(log),
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
