import { ChangeDetectionStrategy, Component, computed, effect, inject, input, model } from '@angular/core';
import { FormControl, ReactiveFormsModule } from '@angular/forms';
import { MatDatepicker, MatDatepickerInput, MatDatepickerToggle } from '@angular/material/datepicker';
import { MatFormField, MatSuffix } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import { DateTime } from 'luxon';
import { House } from '../data/house';
import { HOUSE_DATES } from './dates';
import { clockOn } from './days';

/** A day without a time, written or picked; what is no day changes nothing, and is marked. */
@Component({
  selector: 'tn-day-field',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    MatDatepicker,
    MatDatepickerInput,
    MatDatepickerToggle,
    MatFormField,
    MatInput,
    MatSuffix,
    ReactiveFormsModule,
  ],
  providers: [HOUSE_DATES],
  template: `
    <mat-form-field class="slim" appearance="outline" subscriptSizing="dynamic">
      <input
        matInput
        placeholder="14 Sep 2026"
        [attr.aria-label]="label()"
        [matDatepicker]="picker"
        [formControl]="date"
        (dateChange)="take()"
      />
      @if (clock(); as name) {
        <span matTextSuffix class="quiet" [title]="'A day of ' + house.zone()">{{ name }}</span>
      }
      <mat-datepicker-toggle matSuffix class="tiny" [for]="picker" />
      <mat-datepicker #picker />
    </mat-form-field>
  `,
  styles: `
    :host {
      display: inline-block;
    }
    mat-form-field {
      width: 168px;
    }
  `,
})
export class DayField {
  readonly label = input.required<string>();
  /** ISO 8601, `2026-09-14`; '' is no day. */
  readonly day = model('');
  readonly disabled = input(false);
  protected readonly house = inject(House);
  /** By which clock it is that day. */
  protected readonly clock = computed(() => (this.day() === '' ? '' : clockOn(this.day(), this.house.zone())));
  protected readonly date = new FormControl<DateTime | null>(null);

  constructor() {
    effect(() => {
      const day = this.day();
      this.date.setValue(day === '' ? null : DateTime.fromISO(day), { emitEvent: false });
    });
    effect(() => {
      if (this.disabled()) this.date.disable({ emitEvent: false });
      else this.date.enable({ emitEvent: false });
    });
  }

  protected take(): void {
    this.date.markAsTouched();
    // What is no day is an error of the field, and nothing is known of what was meant.
    if (this.date.valid) this.day.set(this.date.value?.toISODate() ?? '');
  }
}
