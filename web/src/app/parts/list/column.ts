/** One column of a list. */
export interface ListColumn<T> {
  readonly id: string;
  readonly name: string;
  /** What rows are sorted by, and what stands in an exported sheet; `null`, which is sorted last, where there is nothing. */
  readonly value: (row: T) => string | number | null;
  /** As a person reads it, where that is something else. */
  readonly words?: (row: T) => string;
  /** What values are: texts where not given. Dates are ISO 8601. */
  readonly is?: 'number' | 'date';
  /** Whether the greatest come first when a person first sorts by it. */
  readonly downFirst?: true;
  /** What stands at the foot, of the rows that are shown; `told` where it comes with them. */
  readonly foot?: ((rows: readonly T[]) => string) | 'told';
  /** Not shown until a person asks for it. */
  readonly aside?: true;
  /** Pixels; what has no width shares the room that is left. What does not fit is cut off. */
  readonly width?: number;
}

const words = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

/** Compares two values of a column; what has none comes last either way. */
export function compareValues(a: string | number | null, b: string | number | null, down: boolean): number {
  if (a === null || b === null) return Number(a === null) - Number(b === null);
  const order = typeof a === 'number' && typeof b === 'number' ? a - b : words.compare(String(a), String(b));
  return down ? -order : order;
}

/** What a person reads of a row in a column. */
export function readIn<T>(column: ListColumn<T>, row: T): string {
  return column.words?.(row) ?? String(column.value(row) ?? '');
}
