import { computed, type Signal } from '@angular/core';
import type { MoveSummary } from '@treenail/server/contract';

/** Where a move stands: what is asked for a step is asked anew only when this is another. */
export interface Standing {
  readonly id: number;
  readonly at: MoveSummary['at'];
  /** What came of its steps, and which version its plan is. */
  readonly came: string;
}

/** The same as long as nothing came of a step, however often the move itself is told anew while its jobs run. */
export function standingOf(move: Signal<MoveSummary>): Signal<Standing> {
  return computed(
    () => {
      const { id, at, steps, planVersion } = move();
      return { id, at, came: JSON.stringify([planVersion, steps]) };
    },
    { equal: (a, b) => a.id === b.id && a.at === b.at && a.came === b.came },
  );
}
