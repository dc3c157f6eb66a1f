/* Days as whole numbers since 1 January 1970, so that they can be counted; ISO 8601 outside of here. */

const MS = 86_400_000;

export function numberOf(day: string): number {
  return Math.floor(Date.parse(day) / MS);
}

export function dayOf(number: number): string {
  return new Date(number * MS).toISOString().slice(0, 10);
}

/** 0 is Monday. */
export function weekdayOf(number: number): number {
  return (((number + 3) % 7) + 7) % 7;
}

export function mondayOf(number: number): number {
  return number - weekdayOf(number);
}

/** Month 1 is January. */
export function partsOfDay(number: number): { day: number; month: number; year: number } {
  const date = new Date(number * MS);
  return { day: date.getUTCDate(), month: date.getUTCMonth() + 1, year: date.getUTCFullYear() };
}

/** `null` where there is no such day, as 30 February. */
export function numberOfParts(day: number, month: number, year: number): number | null {
  const time = Date.UTC(year, month - 1, day);
  const made = new Date(time);
  return made.getUTCDate() === day && made.getUTCMonth() === month - 1 ? Math.floor(time / MS) : null;
}
