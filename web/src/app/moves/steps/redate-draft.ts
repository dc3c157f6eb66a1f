import { RedatePlan } from '@treenail/core';

/* Dates that are being decided outlive a reload of the page, in this tab. */

const keyOf = (move: number) => `treenail.dates.${move}`;

export function draftKept(move: number): RedatePlan | null {
  const kept = sessionStorage.getItem(keyOf(move));
  if (kept === null) return null;
  try {
    const read = RedatePlan.safeParse(JSON.parse(kept));
    return read.success ? read.data : null;
  } catch {
    return null;
  }
}

export function keepDraft(move: number, plan: RedatePlan | null): void {
  if (plan === null) sessionStorage.removeItem(keyOf(move));
  else sessionStorage.setItem(keyOf(move), JSON.stringify(plan));
}
