import { readableDay, timeOf, writtenMoment, type Moment, type Subject } from '../../model/index.ts';
import type { FindingDraft, Suggestion } from './contract.ts';

/** Parts of kinds of findings about what a course is made of. */

export const leaveOut = (words: string): Suggestion => ({ mend: 'leave-out', params: {}, words });

/** A date by its day, as lists of dates are read; words that are no date as they stand. */
export const day = (moment: Moment): string => {
  const time = timeOf(moment);
  return time === null ? writtenMoment(moment) : readableDay(time);
};

export function isBefore(moment: Moment, limit: number): boolean {
  const time = timeOf(moment);
  return time !== null && time < limit;
}

/** A finding is about an item, or about a folder, heading or further place of the outline. */
export function aboutSubject({ item, title, placed }: Subject): Pick<FindingDraft, 'item' | 'node' | 'title'> {
  return item || !placed ? { item } : { node: placed.node.id, title };
}
