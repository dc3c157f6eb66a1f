import * as z from 'zod';
import { Id, get, post } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** Parts that follow what was delivered. */

const admin = 'administrator' as const;

export const FURTHER = {
  further: get('/moves/:id/further', {
    who: admin,
    says: 'What went of a course, and what did not.',
    params: [Id],
    answer: c.FurtherAnswer,
  }),
  sentSource: get('/moves/:id/sent', {
    who: admin,
    says: 'What was sent of a course, as it was at its source.',
    params: [Id],
    answer: c.SentAnswer,
  }),
  sentPreview: get('/moves/:id/sent-preview', {
    who: admin,
    says: 'An item as it was in the copy that it went from.',
    params: [Id],
    query: z.object({ item: z.string(), learner: z.string().optional() }),
    answer: c.PreviewAnswer,
  }),
  sendMore: post('/moves/:id/further', {
    who: admin,
    says: 'Begins a further part of a move that is delivered.',
    params: [Id],
    body: c.NewPart,
    answer: c.MoveSummary,
  }),
};
