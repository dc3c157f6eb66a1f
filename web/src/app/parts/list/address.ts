import { DestroyRef, Injectable, inject, signal, type WritableSignal, effect, untracked } from '@angular/core';
import { ActivatedRoute, Router } from '@angular/router';

/** Marks a change of the address that came from the screen, so that the screen is not told of it again. */
const OURS = 'from the screen';

/** Changes of the address are gathered: two of one moment are one, since each would call off the other. */
@Injectable({ providedIn: 'root' })
class AddressWriter {
  private readonly router = inject(Router);
  private pending: Record<string, string | null> | null = null;

  write(name: string, value: string): void {
    if (this.pending === null) {
      this.pending = {};
      queueMicrotask(() => this.go());
    }
    this.pending[name] = value === '' ? null : value;
  }

  private go(): void {
    const queryParams = this.pending;
    this.pending = null;
    void this.router.navigate([], { queryParams, queryParamsHandling: 'merge', replaceUrl: true, info: OURS });
  }
}

/**
 * State of a screen that stands in its address under a name, so that a link shows the same; '' stands for nothing and is
 * not written. To be called where a component is made.
 */
export function inAddress(name: string): WritableSignal<string> {
  const [route, router, writer] = [inject(ActivatedRoute), inject(Router), inject(AddressWriter)];
  const shown = () => route.snapshot.queryParamMap.get(name) ?? '';
  const value = signal(shown());
  const told = route.queryParamMap.subscribe((params) => {
    if (router.currentNavigation()?.extras.info !== OURS) value.set(params.get(name) ?? '');
  });
  inject(DestroyRef).onDestroy(() => told.unsubscribe());
  effect(() => {
    const now = value();
    if (now !== untracked(shown)) writer.write(name, now);
  });
  return value;
}
