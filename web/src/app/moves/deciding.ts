import { Injectable, signal } from '@angular/core';
import { Observable, finalize } from 'rxjs';

/**
 * What a person decided and the server does not know yet: a step that hangs on it waits, though the one that it was
 * decided at is left already.
 */
@Injectable({ providedIn: 'root' })
export class Deciding {
  private readonly underway = signal<ReadonlyMap<number, number>>(new Map());

  is(moveId: number): boolean {
    return (this.underway().get(moveId) ?? 0) > 0;
  }

  during<T>(moveId: number, request: Observable<T>): Observable<T> {
    return new Observable<T>((to) => {
      this.count(moveId, 1);
      return request.pipe(finalize(() => this.count(moveId, -1))).subscribe(to);
    });
  }

  private count(moveId: number, by: number): void {
    this.underway.update((before) => new Map(before).set(moveId, (before.get(moveId) ?? 0) + by));
  }
}
