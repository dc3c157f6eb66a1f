import type { Provider } from '@angular/core';
import { Injectable } from '@angular/core';
import { DateAdapter, MAT_DATE_FORMATS, MAT_DATE_LOCALE, type MatDateFormats } from '@angular/material/core';
import { LuxonDateAdapter, MAT_LUXON_DATE_ADAPTER_OPTIONS } from '@angular/material-luxon-adapter';
import { evenMonths } from '@treenail/core';
import { DateTime } from 'luxon';

/** Months and days as the house writes them; its weeks begin on Monday. */
const LOCALE = 'en-GB';

/** How a person may write a day: with the month as a word, or in numbers with the day first, or the year. */
const WRITTEN = [
  'd LLL yyyy',
  'd LLLL yyyy',
  'LLL d yyyy',
  'LLLL d yyyy',
  'yyyy-M-d',
  'd.M.yyyy',
  'd/M/yyyy',
  'd-M-yyyy',
  'd LLL',
  'd.M.',
];

const FORMATS: MatDateFormats = {
  parse: { dateInput: WRITTEN },
  display: {
    dateInput: 'd LLL yyyy',
    monthYearLabel: 'LLL yyyy',
    dateA11yLabel: 'd LLLL yyyy',
    monthYearA11yLabel: 'LLLL yyyy',
  },
};

/** Days as they are written everywhere in Treenail, `14 Sep 2026`, and read in any order that can't be taken for another. */
@Injectable()
export class HouseDates extends LuxonDateAdapter {
  override format(date: DateTime, displayFormat: string): string {
    return evenMonths(super.format(date, displayFormat));
  }

  override parse(value: unknown, formats: string | string[]): DateTime | null {
    if (typeof value !== 'string') return super.parse(value, formats);
    const words = value.trim().replace(/,/g, ' ').replace(/\s+/g, ' ');
    if (words === '') return null;
    for (const format of [formats].flat()) {
      // American English shortens all months to three letters, British English not September.
      for (const locale of [LOCALE, 'en-US']) {
        const date = DateTime.fromFormat(words, format, { locale });
        if (date.isValid) return date.setLocale(LOCALE);
      }
    }
    return this.invalid();
  }
}

/** What a date field needs. */
export const HOUSE_DATES: Provider[] = [
  { provide: MAT_DATE_LOCALE, useValue: LOCALE },
  {
    provide: MAT_LUXON_DATE_ADAPTER_OPTIONS,
    useValue: { useUtc: false, firstDayOfWeek: 1, defaultOutputCalendar: 'gregory' },
  },
  { provide: DateAdapter, useClass: HouseDates },
  { provide: MAT_DATE_FORMATS, useValue: FORMATS },
];
