import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { FormControl, FormGroup, ReactiveFormsModule, Validators } from '@angular/forms';
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
import { MatInputModule } from '@angular/material/input';
import { nameByRule, type Named } from '@treenail/core';

export interface KeepDialogData {
  fileName: string;
  guess: Named;
}

/** Asks what the course is called, and shows the name that its copy will bear. */
@Component({
  selector: 'tn-keep-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    MatButton,
    MatDialogActions,
    MatDialogClose,
    MatDialogContent,
    MatDialogTitle,
    MatFormFieldModule,
    MatInputModule,
    ReactiveFormsModule,
  ],
  template: `
    <form [formGroup]="form" (ngSubmit)="keep()">
      <h2 mat-dialog-title>Keep a copy of {{ data.fileName }}</h2>
      <mat-dialog-content>
        <p>
          The file is sent to the strongroom as it is, and its course stands in the register. From there it can be moved
          without its old platform.
        </p>
        <div class="fields">
          <mat-form-field appearance="outline">
            <mat-label>Code</mat-label><input matInput formControlName="code" />
          </mat-form-field>
          <mat-form-field appearance="outline">
            <mat-label>Section</mat-label><input matInput formControlName="section" />
          </mat-form-field>
          <mat-form-field appearance="outline">
            <mat-label>Term</mat-label><input matInput formControlName="term" />
          </mat-form-field>
          <mat-form-field appearance="outline" class="wide">
            <mat-label>Title</mat-label><input matInput formControlName="title" />
          </mat-form-field>
        </div>
        <p class="quiet">
          It will be named <code>{{ name() }}</code>
        </p>
      </mat-dialog-content>
      <mat-dialog-actions align="end">
        <button type="button" matButton="outlined" mat-dialog-close>Leave it</button>
        <button type="submit" matButton="filled" [disabled]="form.invalid">Keep a copy</button>
      </mat-dialog-actions>
    </form>
  `,
  styles: `
    .fields {
      display: grid;
      grid-template-columns: 1fr 1fr 1.4fr;
      gap: 0 10px;
      margin-top: 8px;
    }
    .wide {
      grid-column: 1 / -1;
    }
    code {
      overflow-wrap: anywhere;
    }
  `,
})
export class KeepDialog {
  private readonly ref = inject(MatDialogRef<KeepDialog, Named>);
  protected readonly data = inject<KeepDialogData>(MAT_DIALOG_DATA);
  protected readonly form = new FormGroup({
    code: new FormControl(this.data.guess.code, { nonNullable: true, validators: [Validators.maxLength(60)] }),
    section: new FormControl(this.data.guess.section, { nonNullable: true, validators: [Validators.maxLength(30)] }),
    term: new FormControl(this.data.guess.term, { nonNullable: true, validators: [Validators.maxLength(60)] }),
    title: new FormControl(this.data.guess.title.slice(0, 300), {
      nonNullable: true,
      validators: [Validators.required, Validators.maxLength(300)],
    }),
  });
  private readonly values = toSignal(this.form.valueChanges, { initialValue: this.form.value });
  protected readonly name = computed(() => {
    const named = { ...this.data.guess, ...this.values() };
    const extension = /\.(tar\.gz|[a-z0-9]{1,8})$/i.exec(this.data.fileName)?.[1]?.toLowerCase() ?? 'zip';
    return nameByRule(named, new Date(), extension);
  });

  protected keep(): void {
    this.ref.close(this.form.getRawValue());
  }
}
