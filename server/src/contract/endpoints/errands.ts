import * as z from 'zod';
import { Id, get, post } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** Kept copies restored, and things of them given away. */

const admin = 'administrator' as const;

export const ERRANDS = {
  contents: get('/copies/:id/contents', {
    who: admin,
    says: 'What a kept copy holds, to choose from.',
    params: [Id],
    answer: c.ContentsAnswer,
  }),
  startErrand: post('/copies/:id/errands', {
    who: admin,
    says: 'Restores a kept copy, or gives things of it into a course.',
    params: [Id],
    body: c.NewErrand,
    answer: c.MoveSummary,
  }),
  given: get('/copies/:id/given', {
    who: admin,
    says: 'What was restored and given of a kept copy, the newest first.',
    params: [Id],
    answer: z.object({ given: z.array(c.Given) }),
  }),
  giveFile: post('/copies/:id/given', {
    who: admin,
    says: 'Makes a file of things of a kept copy.',
    params: [Id],
    body: c.NewGivenFile,
    answer: z.object({ given: z.array(c.Given) }),
  }),
  givenFile: get('/given/:id/file', {
    who: admin,
    says: 'A file that was made to be given.',
    params: [Id],
    answer: 'bytes',
  }),
};
