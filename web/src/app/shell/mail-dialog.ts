import { ChangeDetectionStrategy, Component, inject, linkedSignal, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import {
  MatDialogActions,
  MatDialogClose,
  MatDialogContent,
  MatDialogRef,
  MatDialogTitle,
} from '@angular/material/dialog';
import { Api, wordsOf } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';

/** What a person wants to be told by mail. */
@Component({
  selector: 'tn-mail-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Awaited, MatButton, MatCheckbox, MatDialogActions, MatDialogClose, MatDialogContent, MatDialogTitle],
  template: `
    <h2 mat-dialog-title>What you are told by mail</h2>
    <mat-dialog-content>
      <p>Of jobs that you asked for and that took over a minute:</p>
      <tn-awaited [of]="[loaded]" />
      @if (choice(); as choice) {
        <mat-checkbox [checked]="choice.done" (change)="set({ done: $event.checked })">when they are done</mat-checkbox>
        <mat-checkbox [checked]="choice.failed" (change)="set({ failed: $event.checked })"
          >when they failed</mat-checkbox
        >
      }
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton="outlined" mat-dialog-close>Leave it</button>
      <button matButton="filled" [disabled]="!choice()" (click)="save()">Keep the choice</button>
    </mat-dialog-actions>
  `,
  styles: `
    mat-checkbox {
      display: block;
    }
  `,
})
export class MailDialog {
  private readonly api = inject(Api);
  private readonly ref = inject(MatDialogRef<MailDialog>);
  protected readonly loaded = rxResource({ stream: () => this.api.mailChoice() });
  private readonly last = lastOf(this.loaded);
  protected readonly choice = linkedSignal(() => this.last());
  protected readonly error = signal('');

  protected set(change: { done?: boolean; failed?: boolean }): void {
    this.choice.update((choice) => choice && { ...choice, ...change });
  }

  protected save(): void {
    const choice = this.choice();
    if (!choice) return;
    this.api.setMailChoice(choice).subscribe({
      next: () => this.ref.close(),
      error: (error: unknown) => this.error.set(wordsOf(error)),
    });
  }
}
