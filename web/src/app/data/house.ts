import { Injectable, inject, signal } from '@angular/core';
import { tap, type Observable } from 'rxjs';
import { Api } from './api';

/** What the house has set that every screen reads: the time zone that its days are days of. */
@Injectable({ providedIn: 'root' })
export class House {
  private readonly api = inject(Api);
  private readonly known = signal('');
  /** IANA name; '' until it is known, or where it could not be had. */
  readonly zone = this.known.asReadonly();

  load(): void {
    // What comes in vain leaves the zone unknown: where it matters that is said (`parts/days.ts`).
    this.api.zone().subscribe({ next: (zone) => this.known.set(zone), error: () => this.known.set('') });
  }

  setZone(zone: string): Observable<string> {
    return this.api.setZone({ zone }).pipe(tap((kept) => this.known.set(kept)));
  }
}
