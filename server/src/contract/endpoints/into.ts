import * as z from 'zod';
import { Id, get, post, put } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** Deliveries into a course that is there, and back out of it. */

const admin = 'administrator' as const;

export const INTO = {
  targets: get('/moves/:id/targets', {
    who: admin,
    says: 'Courses of the destination that a move could go into.',
    params: [Id],
    query: z.object({ words: z.string().max(200).default('') }),
    answer: c.TargetsAnswer,
  }),
  lookAt: get('/moves/:id/targets/:course', {
    who: admin,
    says: 'What is in such a course now, and who.',
    params: [Id, Id],
    answer: c.Looked,
  }),
  into: get('/moves/:id/into', {
    who: admin,
    says: 'The course that a move goes into.',
    params: [Id],
    answer: c.IntoAnswer,
  }),
  goInto: put('/moves/:id/into', {
    who: admin,
    says: 'Chooses the course that a move goes into, or a new shell.',
    params: [Id],
    body: z.object({ choice: c.IntoChoice.nullable() }),
    answer: c.IntoAnswer,
  }),
  meet: put('/moves/:id/into/meets', {
    who: admin,
    says: 'Decides what becomes of what meets its like in the course that a move goes into.',
    params: [Id],
    body: c.MeetRequest,
    answer: c.IntoAnswer,
  }),
  back: get('/moves/:id/back', {
    who: admin,
    says: 'What taking the delivery back would do.',
    params: [Id],
    answer: c.BackAnswer,
  }),
  takeBack: post('/moves/:id/back', {
    who: admin,
    says: 'Takes the delivery of a move back.',
    params: [Id],
    answer: c.MoveSummary,
  }),
};
