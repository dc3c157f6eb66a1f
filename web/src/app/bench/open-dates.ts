import {
  byStep,
  calendarDates,
  datesOf,
  redated,
  writtenDates,
  type Looked,
  type Package,
  type Redates,
} from '@treenail/core';
import type { RedateData } from '../redate/redate-view';
import type { Decided } from './messages';

/** Every date of what is open, without those of what does not go. */
export async function knownDates(
  pkg: Package,
  { course, findings }: Looked,
  leftOut: readonly string[],
): Promise<Pick<RedateData, 'dates' | 'written' | 'notes'>> {
  const out = new Set(leftOut);
  const stays = (item: string | null) => item === null || !out.has(item);
  const calendars = await calendarDates(pkg, course);
  return {
    dates: [...datesOf(course), ...calendars.dates].filter(({ item }) => stays(item)),
    written: writtenDates(course, byStep(findings).redate).filter(({ finding }) => stays(finding.item)),
    notes: calendars.notes,
  };
}

export const today = () => new Date().toISOString().slice(0, 10);

/** What the working copy has to be given, so that its dates are those of a plan. */
export async function redatesOf(
  pkg: Package,
  known: Looked,
  { plan, zone }: NonNullable<Decided['redate']>,
): Promise<Redates> {
  const { dates, written } = await knownDates(pkg, known, []);
  return { rows: redated(dates, plan, { zone, closed: [], today: today(), written }).rows, written };
}
