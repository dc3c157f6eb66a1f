import { RedatePlan } from '@treenail/core';
import { Id, del, get, put } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** The dates of a course that is moved. */

const admin = 'administrator' as const;

export const REDATE = {
  redate: get('/moves/:id/re-date', {
    who: admin,
    says: 'The dates of the course, and what is decided of them.',
    params: [Id],
    answer: c.RedateAnswer,
  }),
  setRedate: put('/moves/:id/re-date', {
    who: admin,
    says: 'Decides where the dates go.',
    params: [Id],
    body: RedatePlan,
    answer: c.RedateAnswer,
    takes: 'long json',
  }),
  undoRedate: del('/moves/:id/re-date', {
    who: admin,
    says: 'Lets the dates go as they are.',
    params: [Id],
    answer: c.RedateAnswer,
  }),
};
