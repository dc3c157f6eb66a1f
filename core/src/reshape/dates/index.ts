export type { Redates } from './apply.ts';
export { calendarDates, closedDaysOf, datesAsCalendar, datesInCalendar } from './calendar-files.ts';
export { clockWords, onClock, onDay, orderOf, type Zone } from './clock.ts';
export { dayOf, mondayOf, numberOf, weekdayOf } from './days.ts';
// As a whole: what a browser needs at once must not lead it to the rest.
export * from './known.ts';
export * from './plan.ts';
export * from './redate.ts';
export { cellOf, datesAsCsv, datesFromCsv, momentFromCell, type TableRead } from './table.ts';
export { termsOfDates } from './terms.ts';
export { TermWeeks } from './weeks.ts';
