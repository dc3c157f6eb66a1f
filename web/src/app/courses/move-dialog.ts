import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { FormControl, ReactiveFormsModule, Validators } from '@angular/forms';
import { MatButton } from '@angular/material/button';
import {
  MAT_DIALOG_DATA,
  MatDialogActions,
  MatDialogClose,
  MatDialogContent,
  MatDialogRef,
  MatDialogTitle,
} from '@angular/material/dialog';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatSelectModule } from '@angular/material/select';
import type { CourseSummary, InstanceSummary } from '@treenail/server/contract';
import { Api, wordsOf } from '../data/api';

export interface MoveDialogData {
  course: CourseSummary;
  destinations: readonly InstanceSummary[];
}

/** Asks where to, and starts the move. Gives the move's identifier. */
@Component({
  selector: 'tn-move-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    MatButton,
    MatDialogActions,
    MatDialogClose,
    MatDialogContent,
    MatDialogTitle,
    MatFormFieldModule,
    MatSelectModule,
    ReactiveFormsModule,
  ],
  template: `
    <h2 mat-dialog-title>Move {{ data.course.code }}-{{ data.course.section }} {{ data.course.title }}</h2>
    <mat-dialog-content>
      <p>
        The course is fetched from {{ data.course.instance.name }} and a copy is kept. Nothing is changed there. You see
        what will fit before anything is delivered.
      </p>
      <mat-form-field appearance="outline">
        <mat-label>Destination</mat-label>
        <mat-select [formControl]="destination">
          @for (instance of data.destinations; track instance.id) {
            <mat-option [value]="instance.id">{{ instance.name }}</mat-option>
          }
        </mat-select>
      </mat-form-field>
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton="outlined" mat-dialog-close>Leave it</button>
      <button matButton="filled" [disabled]="destination.invalid || busy()" (click)="start()">Start by fetching</button>
    </mat-dialog-actions>
  `,
  styles: `
    mat-form-field {
      width: 100%;
      margin-top: 8px;
    }
  `,
})
export class MoveDialog {
  private readonly api = inject(Api);
  private readonly ref = inject(MatDialogRef<MoveDialog, number>);
  protected readonly data = inject<MoveDialogData>(MAT_DIALOG_DATA);
  protected readonly destination = new FormControl<number | null>(
    this.data.destinations[0]?.id ?? null,
    Validators.required,
  );
  protected readonly busy = signal(false);
  protected readonly error = signal('');

  protected start(): void {
    const destinationId = this.destination.value;
    if (destinationId === null) return;
    this.busy.set(true);
    this.api.startMove({ courseId: this.data.course.id, destinationId }).subscribe({
      next: (move) => this.ref.close(move.id),
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
