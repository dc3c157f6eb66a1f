import { Injectable, signal } from '@angular/core';

/** Whether the server is in reach, as whoever listens to it all the time has it. */
@Injectable({ providedIn: 'root' })
export class Reach {
  private heardAt = new Date();
  private readonly silentSince = signal<Date | null>(null);
  /** Since when nothing was heard of the server; `null` while it tells. */
  readonly lost = this.silentSince.asReadonly();

  heard(): void {
    this.heardAt = new Date();
    this.silentSince.set(null);
  }

  missed(): void {
    this.silentSince.update((since) => since ?? this.heardAt);
  }

  /** Nobody listens any more, so nothing is missed either. */
  forget(): void {
    this.silentSince.set(null);
  }
}
