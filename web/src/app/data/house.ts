import { Injectable, inject, signal } from '@angular/core';
import { DateTime } from 'luxon';
import { catchError, of, tap, type Observable } from 'rxjs';
import { Api } from './api';

/** What the house has set that every screen reads: the time zone that its days are days of. */
@Injectable({ providedIn: 'root' })
export class House {
  private readonly api = inject(Api);
  private readonly set = signal('');
  /** IANA name; '' until it is known. */
  readonly zone = this.set.asReadonly();

  load(): void {
    this.api
      .zone()
      .pipe(catchError(() => of(null)))
      .subscribe((zone) => zone && this.set.set(zone));
  }

  setZone(zone: string): Observable<string> {
    return this.api.setZone({ zone }).pipe(tap((kept) => this.set.set(kept)));
  }

  /** The last minute of a day of the house, ISO 8601; of the person's own zone while the house's is not known. */
  endOf(day: string): string {
    const zone = this.zone();
    const end = DateTime.fromISO(`${day}T23:59:00`, zone === '' ? {} : { zone });
    return end.toUTC().toISO() ?? '';
  }

  /** What the clocks of the house are called on a day, `GMT`; '' where that is not known. */
  clockOn(day: string): string {
    const zone = this.zone();
    const at = DateTime.fromISO(`${day}T12:00:00`, { zone: zone === '' ? 'utc' : zone });
    return zone === '' || !at.isValid ? '' : at.setLocale('en-GB').offsetNameShort;
  }
}
