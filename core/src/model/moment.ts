import * as z from 'zod';
import { evenMonths } from './words.ts';

/**
 * A date of a course: a point in time with the zone in which it was written down, a time on a wall's clock that names no
 * zone, or a whole day. What could not be read is kept as its words.
 */
export type Moment =
  /** `at` in UTC, as ISO 8601 to the second; `zone` is `UTC` or an offset as `+01:00`. */
  | { is: 'instant'; at: string; zone: string }
  /** `at` as ISO 8601 without a zone, to the minute or the second. */
  | { is: 'wall'; at: string }
  /** `on` as `2026-10-16`. */
  | { is: 'day'; on: string }
  | { is: 'unread'; words: string };

/** Reads dates as formats and older courses write them: one string. */
export const Moment: z.ZodType<Moment> = z.union([
  z.string().transform(momentOf),
  z.object({ is: z.literal('instant'), at: z.string(), zone: z.string() }),
  z.object({ is: z.literal('wall'), at: z.string() }),
  z.object({ is: z.literal('day'), on: z.string() }),
  z.object({ is: z.literal('unread'), words: z.string() }),
]);

const WRITTEN = /^(\d{4}-\d\d-\d\d)(?:[T ](\d\d:\d\d(?::\d\d)?)(?:[.,]\d+)?\s*(Z|[+-]\d\d:?\d\d)?)?$/;

/** A date as somebody wrote it in ISO 8601; anything else is kept as its words. */
export function momentOf(written: string): Moment {
  const [, day, time, zone] = WRITTEN.exec(written.trim()) ?? [];
  const unread: Moment = { is: 'unread', words: written };
  if (day === undefined || Number.isNaN(Date.parse(day))) return unread;
  if (time === undefined) return { is: 'day', on: day };
  if (zone === undefined) {
    return Number.isNaN(Date.parse(`${day}T${time}Z`)) ? unread : { is: 'wall', at: `${day}T${time}` };
  }
  const at = new Date(`${day}T${time}${zone}`);
  if (Number.isNaN(at.getTime())) return unread;
  const offset = zone.includes(':') ? zone : `${zone.slice(0, 3)}:${zone.slice(3)}`;
  return { is: 'instant', at: at.toISOString().replace('.000', ''), zone: zone === 'Z' ? 'UTC' : offset };
}

/** The date as a format writes it: ISO 8601, or the words that could not be read. */
export function writtenMoment(moment: Moment): string {
  if (moment.is === 'day') return moment.on;
  return moment.is === 'unread' ? moment.words : moment.at;
}

/** Milliseconds since 1970 by which dates are sorted and drawn, a clock without a zone taken for UTC; `null` of words. */
export function timeOf(moment: Moment): number | null {
  if (moment.is === 'unread') return null;
  return Date.parse(moment.is === 'wall' ? `${moment.at}Z` : writtenMoment(moment));
}

const DAY = { weekday: 'short', day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' } as const;
const AS_DAY = new Intl.DateTimeFormat('en-GB', DAY);
const AS_TIME = new Intl.DateTimeFormat('en-GB', { ...DAY, hour: '2-digit', minute: '2-digit' });

const AS_SHORT = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric', timeZone: 'UTC' });

/** The day of a time, as lists of dates are read: `16 Oct 2026`. */
export function readableDay(time: number): string {
  return evenMonths(AS_SHORT.format(time));
}

/** A date as it is entered again: `Fri 16 Oct 2026 17:00 UTC`. Without a zone none is said. */
export function momentWords(moment: Moment): string {
  const time = timeOf(moment);
  if (time === null) return writtenMoment(moment);
  const formatted = evenMonths((moment.is === 'day' ? AS_DAY : AS_TIME).format(time)).replaceAll(',', '');
  return moment.is === 'instant' ? `${formatted} UTC` : formatted;
}

/** What two dates that mean the same have in common. */
export function comparableMoment(moment: Moment): string {
  return `${moment.is} ${writtenMoment(moment).replace(/^(\d{4}-\d\d-\d\dT\d\d:\d\d)(?=$|Z$)/, '$1:00')}`;
}
