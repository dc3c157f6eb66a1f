import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import {
  MAT_DIALOG_DATA,
  MatDialogActions,
  MatDialogClose,
  MatDialogContent,
  MatDialogRef,
  MatDialogTitle,
} from '@angular/material/dialog';
import type { MoveSummary } from '@treenail/server/contract';
import { Api, wordsOf } from '../../data/api';
import { Awaited, lastOf } from '../../parts/awaited';

/** What taking a delivery back will do, by what is there now; or why it can't be done. */
@Component({
  selector: 'tn-take-back-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, MatButton, MatDialogActions, MatDialogClose, MatDialogContent, MatDialogTitle],
  template: `
    <h2 mat-dialog-title>Take this delivery back</h2>
    <mat-dialog-content>
      <tn-awaited [of]="[loaded]" />
      @if (back(); as back) {
        @if (!back.can) {
          <p><b>It can not be taken back.</b></p>
        }
        @for (sentence of back.says; track sentence) {
          <p>{{ sentence }}</p>
        }
        @if (back.can) {
          <p class="quiet">The package stays as it was built: the move can be delivered again, there or elsewhere.</p>
        }
      }
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton mat-dialog-close>Close</button>
      <button matButton="filled" [disabled]="busy() || !back()?.can" (click)="takeBack()">Take it back</button>
    </mat-dialog-actions>
  `,
  styles: `
    p {
      margin: 0 0 8px;
    }
  `,
})
export class TakeBackDialog {
  private readonly api = inject(Api);
  private readonly ref = inject<MatDialogRef<TakeBackDialog, MoveSummary>>(MatDialogRef);
  protected readonly move = inject<MoveSummary>(MAT_DIALOG_DATA);
  protected readonly loaded = rxResource({ stream: () => this.api.back(this.move.id) });
  protected readonly back = lastOf(this.loaded);
  protected readonly busy = signal(false);
  protected readonly error = signal('');

  protected takeBack(): void {
    this.busy.set(true);
    this.error.set('');
    this.api.takeBack(this.move.id).subscribe({
      next: (move) => this.ref.close(move),
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
