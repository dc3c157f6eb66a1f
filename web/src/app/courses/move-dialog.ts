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
import { MatRadioModule } from '@angular/material/radio';
import { MatSelectModule } from '@angular/material/select';
import type { CourseSummary, InstanceSummary } from '@treenail/server/contract';
import { Api, wordsOf } from '../data/api';
import { CourseNamePipe, WhenPipe } from '../parts/words';

export interface MoveDialogData {
  course: CourseSummary;
  destinations: readonly InstanceSummary[];
}

/** Asks where to, and starts the move. Gives the move's identifier. */
@Component({
  selector: 'tn-move-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    CourseNamePipe,
    MatButton,
    MatDialogActions,
    MatDialogClose,
    MatDialogContent,
    MatDialogTitle,
    MatFormFieldModule,
    MatRadioModule,
    MatSelectModule,
    ReactiveFormsModule,
    WhenPipe,
  ],
  template: `
    <h2 mat-dialog-title>Move {{ data.course | courseName }} {{ data.course.title }}</h2>
    <mat-dialog-content>
      @if (canFetch && data.course.newestCopy; as copy) {
        <mat-radio-group [formControl]="from" aria-label="Where the move begins">
          <mat-radio-button value="fetch">
            Fetch it from {{ data.course.instance.name }} and keep a copy; nothing is changed there
          </mat-radio-button>
          <mat-radio-button value="copy">Begin with the copy kept {{ copy.keptAt | when }}</mat-radio-button>
        </mat-radio-group>
      } @else if (canFetch) {
        <p>The course is fetched from {{ data.course.instance.name }} and a copy is kept. Nothing is changed there.</p>
      } @else if (data.course.newestCopy; as copy) {
        <p>The move begins with the copy kept {{ copy.keptAt | when }}.</p>
      }
      <p>You see what will fit before anything is delivered.</p>
      <mat-form-field appearance="outline">
        <mat-label>Destination</mat-label>
        <mat-select [formControl]="destination">
          @for (instance of data.destinations; track instance.id) {
            <mat-option [value]="instance.id"
              >{{ instance.name }}{{ instance.leaving ? ', which will be switched off' : '' }}</mat-option
            >
          }
        </mat-select>
      </mat-form-field>
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button matButton="outlined" mat-dialog-close>Leave it</button>
      <button matButton="filled" [disabled]="destination.invalid || busy()" (click)="start()">
        {{ from.value === 'fetch' ? 'Start by fetching' : 'Start with the copy' }}
      </button>
    </mat-dialog-actions>
  `,
  styles: `
    mat-radio-button {
      display: block;
    }
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
  protected readonly canFetch = this.data.course.instance.platform !== 'files';
  protected readonly from = new FormControl<'fetch' | 'copy'>(this.canFetch ? 'fetch' : 'copy', { nonNullable: true });
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
    const copyId = this.from.value === 'copy' ? this.data.course.newestCopy?.id : undefined;
    const asked = { courseId: this.data.course.id, destinationId, ...(copyId === undefined ? {} : { copyId }) };
    this.api.startMove(asked).subscribe({
      next: (move) => this.ref.close(move.id),
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
