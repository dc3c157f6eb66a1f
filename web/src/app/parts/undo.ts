import { Injectable, inject, type DestroyRef } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';

/** How long the way back is offered; beyond that it is where the thing itself is. */
const OFFERED_MS = 10_000;

/** Says what was done to many things at once, or to one that left the screen by it, with the way to take that back. */
@Injectable({ providedIn: 'root' })
export class Undo {
  private readonly bar = inject(MatSnackBar);

  /** `screen` is what it was done on: the offer goes with it. */
  offer(screen: DestroyRef, words: string, undo: () => void): void {
    const offered = this.bar.open(words, 'Undo', { duration: OFFERED_MS, politeness: 'polite' });
    const forget = screen.onDestroy(() => offered.dismiss());
    offered.onAction().subscribe(undo);
    offered.afterDismissed().subscribe(forget);
  }
}
