import { DateTime } from 'luxon';

/* Days of the house (`2026-09-14`) as times, by its zone (an IANA name; '' where it is not known). */

/** The last minute of a day, ISO 8601; `null` where nobody knows by which clock. */
export function endOf(day: string, zone: string): string | null {
  return at(`${day}T23:59:00`, zone)?.toUTC().toISO() ?? null;
}

/** When a day begins, ms since 1970; `null` where nobody knows by which clock. */
export function startOf(day: string, zone: string): number | null {
  return at(`${day}T00:00:00`, zone)?.toMillis() ?? null;
}

/** What the clocks of the house are called on a day, `GMT`; '' where that is not known. */
export function clockOn(day: string, zone: string): string {
  return at(`${day}T12:00:00`, zone)?.setLocale('en-GB').offsetNameShort ?? '';
}

function at(time: string, zone: string): DateTime<true> | null {
  const made = DateTime.fromISO(time, { zone: zone === '' ? 'utc' : zone });
  return zone !== '' && made.isValid ? made : null;
}
