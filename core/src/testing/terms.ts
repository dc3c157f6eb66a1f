import type { Term } from '../model/index.ts';

/** Two terms with a break in each, of as many teaching weeks up to Spring's last. */
export const AUTUMN: Term = {
  name: 'Autumn 2026',
  from: '2026-09-14',
  to: '2026-12-18',
  breaks: [{ name: 'reading week', from: '2026-10-26', to: '2026-10-30' }],
};
export const SPRING: Term = {
  name: 'Spring 2027',
  from: '2027-01-11',
  to: '2027-04-09',
  breaks: [{ name: 'break', from: '2027-02-15', to: '2027-02-19' }],
};
