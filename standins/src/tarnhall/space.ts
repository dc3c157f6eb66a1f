import type { TEntry, TSpace, TUnit } from './model.ts';

/** Puts an entry at the end of a unit; one that came from the same thing is overwritten where it stands. */
export function putEntry(space: TSpace, unit: TUnit, entry: TEntry): void {
  if (entry.origin !== null) {
    for (const other of space.units) {
      const at = other.entries.findIndex((e) => e.origin === entry.origin);
      const before = other.entries[at];
      if (before) {
        other.entries[at] = { ...entry, id: before.id };
        return;
      }
    }
  }
  unit.entries.push(entry);
}
