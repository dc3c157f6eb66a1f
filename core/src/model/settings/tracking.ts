import { defineSetting, text, yes } from './define.ts';

/** What a learning object reports, and what it is given when it begins. */

export const tracked = defineSetting({ label: 'reports to the platform', schema: yes, mayAppear: true });
export const launchData = defineSetting({ label: 'data given at the start', schema: text });
export const timeAllowed = defineSetting({ label: 'time allowed', schema: text });
export const timeLimitAction = defineSetting({ label: 'what happens when time is up', schema: text });
