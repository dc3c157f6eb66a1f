export type { Redates } from './apply.ts';
export { calendarDates, closedDaysOf, datesAsCalendar, datesInCalendar } from './calendar-files.ts';
export { onClock, onDay, orderOf, type Zone } from './clock.ts';
export { dayOf, mondayOf, numberOf, weekdayOf } from './days.ts';
export * from './known.ts';
export { NO_REDATING, DateRule, RedatePlan, RuleScope, TextChoice, changesNothing, checkPlan } from './plan.ts';
export * from './redate.ts';
export { cellOf, datesAsCsv, datesFromCsv, momentFromCell, type TableRead } from './table.ts';
export { TermWeeks } from './weeks.ts';
