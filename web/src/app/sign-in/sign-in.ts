import { ChangeDetectionStrategy, Component, inject, input, signal } from '@angular/core';
import { NonNullableFormBuilder, ReactiveFormsModule, Validators } from '@angular/forms';
import { MatButton } from '@angular/material/button';
import { MatFormFieldModule } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import { Router } from '@angular/router';
import { wordsOf } from '../data/api';
import { SessionService } from '../data/session';

@Component({
  selector: 'tn-sign-in',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatFormFieldModule, MatInput, ReactiveFormsModule],
  template: `
    <form class="panel" [formGroup]="form" (ngSubmit)="submit()">
      <h1><img src="mark.svg" alt="" width="28" height="28" /> Treenail</h1>
      <p class="quiet">
        Takes a course out of one system, says before anything moves what will fit in the other, moves it, then goes and
        looks whether it arrived.
      </p>
      <mat-form-field appearance="outline"
        ><mat-label>Mail address</mat-label
        ><input matInput type="email" autocomplete="username" formControlName="email"
      /></mat-form-field>
      <mat-form-field appearance="outline"
        ><mat-label>Password</mat-label
        ><input matInput type="password" autocomplete="current-password" formControlName="password"
      /></mat-form-field>
      @if (error()) {
        <p class="error" role="alert">{{ error() }}</p>
      }
      <button matButton="filled" type="submit" [disabled]="busy()">Sign in</button>
    </form>
  `,
  styles: `
    :host {
      display: grid;
      place-items: center;
      min-height: 100vh;
    }
    form {
      display: grid;
      gap: 8px;
      width: 380px;
      padding: 28px;
    }
    h1 {
      display: flex;
      align-items: center;
      gap: 10px;
    }
  `,
})
export class SignInPage {
  private readonly session = inject(SessionService);
  private readonly router = inject(Router);
  readonly back = input<string>();
  protected readonly error = signal('');
  protected readonly busy = signal(false);
  protected readonly form = inject(NonNullableFormBuilder).group({
    email: ['', [Validators.required, Validators.email]],
    password: ['', Validators.required],
  });

  protected submit(): void {
    if (this.form.invalid) {
      this.error.set('Enter your mail address and your password.');
      return;
    }
    this.busy.set(true);
    this.session.signIn(this.form.getRawValue()).subscribe({
      next: () => void this.router.navigateByUrl(this.back() ?? '/'),
      error: (error: unknown) => {
        this.busy.set(false);
        this.error.set(wordsOf(error));
      },
    });
  }
}
