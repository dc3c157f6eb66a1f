import { DestroyRef, Injectable, inject, signal } from '@angular/core';

/** Who hears `/`: a list that is shown takes it for its filter, and the search of all things is then `g /`. */
@Injectable({ providedIn: 'root' })
export class Slash {
  private readonly lists = signal(0);
  readonly isTaken = () => this.lists() > 0;

  /** To be called where a list is made. */
  take(): void {
    this.lists.update((n) => n + 1);
    inject(DestroyRef).onDestroy(() => this.lists.update((n) => n - 1));
  }
}
