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

/** A space with the units and entries that are named only; pools go with a whole space, or by name. */
export function chosen(space: TSpace, parts: readonly string[] | null): TSpace {
  if (parts === null) return space;
  const named = new Set(parts);
  const units = space.units.flatMap((unit) => {
    if (named.has(unit.id)) return [unit];
    const entries = unit.entries.filter((e) => named.has(e.id));
    return entries.length > 0 ? [{ ...unit, entries }] : [];
  });
  const pools = space.pools.filter((p) => named.has(p.id));
  const text = JSON.stringify([units, pools]);
  const files = space.files.filter((f) => text.includes(`"${f.id}"`) || text.includes(`held:${f.id}`));
  return { ...space, units, pools, files };
}

/** Says that a space is not what it was. */
export function touched(space: TSpace): void {
  space.turn++;
  space.changedAt = new Date().toISOString();
}
