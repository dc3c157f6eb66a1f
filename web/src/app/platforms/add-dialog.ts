import { ChangeDetectionStrategy, Component, effect, inject, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { FormControl, FormGroup, ReactiveFormsModule, Validators } from '@angular/forms';
import { MatButton } from '@angular/material/button';
import {
  MatDialogActions,
  MatDialogClose,
  MatDialogContent,
  MatDialogRef,
  MatDialogTitle,
} from '@angular/material/dialog';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInputModule } from '@angular/material/input';
import { MatSelectModule } from '@angular/material/select';
import { count } from '@treenail/core';
import type { PlatformTest } from '@treenail/server/contract';
import type { Observable } from 'rxjs';
import { Api, wordsOf } from '../data/api';
import { Awaited, lastOf } from '../parts/awaited';

/** Connects an instance: its address and token are tried before anything is kept. Gives its identifier. */
@Component({
  selector: 'tn-add-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    MatButton,
    MatDialogActions,
    MatDialogClose,
    MatDialogContent,
    MatDialogTitle,
    MatFormFieldModule,
    MatInputModule,
    MatSelectModule,
    ReactiveFormsModule,
  ],
  template: `
    <form [formGroup]="form" (ngSubmit)="add()">
      <h2 mat-dialog-title>Connect an instance</h2>
      <mat-dialog-content>
        <tn-awaited [of]="[loaded]" />
        <mat-form-field appearance="outline">
          <mat-label>Platform</mat-label>
          <mat-select formControlName="platform">
            @for (kind of kinds() ?? []; track kind.id) {
              <mat-option [value]="kind.id">{{ kind.label }}</mat-option>
            }
          </mat-select>
        </mat-form-field>
        <mat-form-field appearance="outline">
          <mat-label>What you call it</mat-label><input matInput formControlName="name" />
        </mat-form-field>
        <mat-form-field appearance="outline">
          <mat-label>Address</mat-label>
          <input matInput formControlName="baseUrl" placeholder="https://…" />
        </mat-form-field>
        <mat-form-field appearance="outline">
          <mat-label>Token</mat-label>
          <input matInput type="password" autocomplete="off" formControlName="credential" />
        </mat-form-field>
        @if (tested(); as tested) {
          <p role="status">
            @if (tested.health.ok) {
              It answers in {{ tested.health.took }} ms and lists {{ words(tested) }}.
            } @else {
              <span class="error">{{ tested.health.problem }}</span>
            }
          </p>
        }
        @if (error()) {
          <p class="error" role="alert">{{ error() }}</p>
        }
      </mat-dialog-content>
      <mat-dialog-actions align="end">
        <button type="button" matButton="outlined" mat-dialog-close>Leave it</button>
        <button type="button" matButton="outlined" [disabled]="!ready() || busy()" (click)="test()">Try it</button>
        <button type="submit" matButton="filled" [disabled]="!ready() || busy()">Connect it</button>
      </mat-dialog-actions>
    </form>
  `,
  styles: `
    mat-form-field {
      width: 100%;
      margin-top: 4px;
    }
    p {
      margin: 0;
    }
  `,
})
export class AddDialog {
  private readonly api = inject(Api);
  private readonly ref = inject(MatDialogRef<AddDialog, number>);
  protected readonly loaded = rxResource({ stream: () => this.api.platformKinds() });
  protected readonly kinds = lastOf(this.loaded);
  protected readonly form = new FormGroup({
    // An open list without a choice in it would be a press that does nothing.
    platform: new FormControl({ value: '', disabled: true }, { nonNullable: true, validators: [Validators.required] }),
    name: new FormControl('', { nonNullable: true, validators: [Validators.required] }),
    baseUrl: new FormControl('', {
      nonNullable: true,
      validators: [Validators.required, Validators.pattern(/^https?:\/\/\S+$/)],
    }),
    credential: new FormControl('', { nonNullable: true, validators: [Validators.required] }),
  });
  protected readonly busy = signal(false);
  protected readonly tested = signal<PlatformTest | null>(null);
  protected readonly error = signal('');

  constructor() {
    effect(() => {
      if (this.kinds()) this.form.controls.platform.enable();
    });
  }

  /** A field that is switched off asks for nothing, so an instance without a kind would pass for complete. */
  protected ready(): boolean {
    return this.form.valid && this.form.controls.platform.enabled;
  }

  protected words({ courses }: PlatformTest): string {
    return courses === null ? 'no courses' : count(courses, 'course');
  }

  protected test(): void {
    this.during(this.api.testPlatform(this.form.getRawValue()), (tested) => this.tested.set(tested));
  }

  protected add(): void {
    this.during(this.api.addPlatform(this.form.getRawValue()), ({ id }) => this.ref.close(id));
  }

  private during<T>(work: Observable<T>, done: (answer: T) => void): void {
    this.busy.set(true);
    this.error.set('');
    this.tested.set(null);
    work.subscribe({
      next: (answer) => {
        this.busy.set(false);
        done(answer);
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
