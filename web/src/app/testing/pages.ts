/** What of a list is asked for, as it stands in an address. */
export interface AskedPage {
  readonly words?: string | undefined;
  readonly sort?: string | undefined;
  readonly offset?: number | string | undefined;
  readonly limit?: number | string | undefined;
}

/** A page of rows as the server would give it: those that hold every word, sorted by what `by` names. */
export function pageOf<T, S>(
  rows: readonly T[],
  { words = '', sort = '', offset = 0, limit = 100 }: AskedPage,
  sums: S,
  by: Readonly<Record<string, (row: T) => string | number>> = {},
): { rows: T[]; total: number; sums: S } {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const fitting = rows.filter((row) => wanted.every((word) => JSON.stringify(row).toLowerCase().includes(word)));
  const value = by[sort.replace(/^-/, '')];
  if (value) {
    const way = sort.startsWith('-') ? -1 : 1;
    fitting.sort((a, b) => way * String(value(a)).localeCompare(String(value(b)), 'en', { numeric: true }));
  }
  const from = Number(offset);
  return { rows: fitting.slice(from, from + Number(limit)), total: fitting.length, sums };
}
