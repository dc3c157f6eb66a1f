import { timeOf, writtenMoment, type Moment } from '../../model/index.ts';
import type { Suggestion } from './contract.ts';

/** Kinds of findings about what a course is made of. */

/** Kinds of findings about what a course is made of. */

export const leaveOut = (words: string): Suggestion => ({ mend: 'leave-out', params: {}, words });

/** A date by its day, as lists of dates are read; words that are no date as they stand. */
export const day = (moment: Moment) => (moment.is === 'unread' ? moment.words : writtenMoment(moment).slice(0, 10));

export function isBefore(moment: Moment, limit: number): boolean {
  const time = timeOf(moment);
  return time !== null && time < limit;
}
