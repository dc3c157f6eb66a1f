import * as z from 'zod';
import { Id, get, post } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** What goes on without a browser. */

const admin = 'administrator' as const;

export const JOBS = {
  events: get('/events', { who: admin, says: 'What changes of jobs, as it changes.', answer: 'events' }),
  jobs: get('/jobs', {
    who: admin,
    says: 'Jobs that are not done, and those that nobody has seen.',
    answer: z.array(c.JobSummary),
  }),
  allSeen: post('/jobs/seen', { who: admin, says: 'All that are over were seen.', answer: 'nothing' }),
  seen: post('/jobs/:id/seen', { who: admin, says: 'That it is over was seen.', params: [Id], answer: 'nothing' }),
  callOffJob: post('/jobs/:id/call-off', {
    who: admin,
    says: 'Calls a job off.',
    params: [Id],
    answer: 'nothing',
    status: 202,
  }),
  retryJob: post('/jobs/:id/retry', { who: admin, says: 'Tries a failed job again.', params: [Id], answer: 'nothing' }),
};
