import { COPIES } from './copies.ts';
import { COURSES } from './courses.ts';
import { ERRANDS } from './errands.ts';
import { FURTHER } from './further.ts';
import { SETTING_ENDPOINTS } from './settings.ts';
import { INTO } from './into.ts';
import { JOBS } from './jobs.ts';
import { MOVES } from './moves.ts';
import { PLATFORMS } from './platforms.ts';
import { REDATE } from './redate.ts';
import { REPORTS } from './reports.ts';
import { SESSION } from './session.ts';
import { TIDY } from './tidy.ts';

/** Every call of the HTTP interface. One is added by its line in a file of this folder; the compiler then asks the server for it. */
export const ENDPOINTS = {
  ...SESSION,
  ...REPORTS,
  ...COURSES,
  ...JOBS,
  ...PLATFORMS,
  ...SETTING_ENDPOINTS,
  ...MOVES,
  ...TIDY,
  ...REDATE,
  ...FURTHER,
  ...INTO,
  ...COPIES,
  ...ERRANDS,
};
export type Endpoints = typeof ENDPOINTS;
export type EndpointName = keyof Endpoints;
