import type { NumberTest } from './processing.ts';

/** Keys of numeric questions held against each other. */

/** The same key; of a range without a number of its own the ends tell it. */
export function sameNumber(a: NumberTest, b: NumberTest): boolean {
  return a.value === b.value && a.low(0) === b.low(0) && a.high(0) === b.high(0);
}
