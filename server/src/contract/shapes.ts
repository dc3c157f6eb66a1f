/** The shapes of every request and answer. Times are ISO 8601 in UTC; sizes are bytes. */
export { ClosedDay, FindingSettings, Term, TransferReport } from '@treenail/core';
export * from './pages.ts';
export * from './along.ts';
export * from './people.ts';
export * from './platforms.ts';
export * from './courses.ts';
export * from './errands.ts';
export * from './further.ts';
export * from './fetches.ts';
export * from './copies.ts';
export * from './into.ts';
export * from './jobs.ts';
export * from './moves.ts';
export * from './inside.ts';
export * from './redate.ts';
export * from './tidy.ts';
