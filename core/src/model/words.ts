/** Numbers in words, the same on screen, in reports and in results. */

const UNITS = ['kB', 'MB', 'GB', 'TB'];

/** A size in the unit that reads best; number and unit never part at a line's end. */
export function readableSize(bytes: number): string {
  if (bytes < 1000) return `${bytes}\u00a0B`;
  let value = bytes;
  let unit = -1;
  do {
    value /= 1000;
    unit++;
  } while (value >= 999.5 && unit < UNITS.length - 1);
  return `${value < 10 ? value.toFixed(1) : Math.round(value)}\u00a0${UNITS[unit]}`;
}

export function count(n: number, one: string, many = `${one}s`): string {
  return `${n} ${n === 1 ? one : many}`;
}
