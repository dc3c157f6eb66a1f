import {
  ChangeDetectionStrategy,
  Component,
  booleanAttribute,
  computed,
  effect,
  inject,
  input,
  linkedSignal,
  type Resource,
  type Signal,
  untracked,
} from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import { map, of, switchMap, timer } from 'rxjs';
import { wordsOf } from '../data/api';
import { Reach } from '../data/reach';

/** What is asked of the server, as far as it matters here. */
export interface Asked {
  error(): unknown;
  isLoading(): boolean;
  hasValue(): boolean;
  reload(): boolean;
}

/**
 * What was answered last: asked for again in vain, it stays on the screen. `null` until there is an answer, and when
 * something else is asked for.
 */
export function lastOf<T>(resource: Resource<T | undefined>): Signal<T | null> {
  return linkedSignal<{ value: T | undefined; goesOn: boolean }, T | null>({
    source: () => ({
      value: resource.hasValue() ? resource.value() : undefined,
      goesOn: resource.status() === 'error' || resource.status() === 'reloading',
    }),
    computation: ({ value, goesOn }, before) => value ?? (goesOn ? (before?.value ?? null) : null),
  });
}

/** How long nothing is said of waiting. */
const PATIENCE_MS = 250;

/**
 * Of what a screen asks the server for: that it takes long, or why it did not come and the way to ask again. Where the
 * server was out of reach it is asked again as soon as it is back.
 */
@Component({
  selector: 'tn-awaited',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton],
  template: `
    @if (failure(); as words) {
      <p role="alert">
        <span class="error">{{ words }}</span>
        <button type="button" matButton="outlined" [disabled]="asking()" (click)="again()">Ask again</button>
      </p>
    } @else if (late()) {
      <p class="quiet" role="status">{{ waiting() }}</p>
    }
  `,
  styles: `
    :host:empty {
      display: none;
    }
    p {
      display: flex;
      align-items: center;
      gap: 12px;
      margin: 0;
    }
  `,
})
export class Awaited {
  /** All that the screen asks for. */
  readonly of = input.required<readonly Asked[]>();
  /** For what a screen does without until it comes: that it takes long is not worth a word. */
  readonly onlyFailures = input(false, { transform: booleanAttribute });
  readonly waiting = input('Reading');
  protected readonly failure = computed(() => {
    const error = this.of()
      .find((asked) => asked.error())
      ?.error();
    return error ? wordsOf(error) : '';
  });
  protected readonly asking = computed(() => this.of().some((asked) => asked.isLoading()));
  private readonly waits = computed(
    () => !this.onlyFailures() && this.of().some((asked) => asked.isLoading() && !asked.hasValue()),
  );
  protected readonly late = toSignal(
    toObservable(this.waits).pipe(switchMap((waits) => (waits ? timer(PATIENCE_MS).pipe(map(() => true)) : of(false)))),
    { initialValue: false },
  );

  constructor() {
    const lost = inject(Reach).lost;
    let wasLost = false;
    effect(() => {
      const isLost = lost() !== null;
      if (wasLost && !isLost) untracked(() => this.again());
      wasLost = isLost;
    });
  }

  protected again(): void {
    for (const asked of this.of()) if (asked.error()) asked.reload();
  }
}
