import * as z from 'zod';
import { Id, get, post } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** Kept copies. */

const admin = 'administrator' as const;
const copies = z.array(c.CopySummary);

export const COPIES = {
  copies: get('/copies', { who: admin, says: 'Kept copies.', answer: copies }),
  copy: get('/copies/:id', { who: admin, says: 'One kept copy.', params: [Id], answer: c.CopySummary }),
  removeCopy: post('/copies/:id/remove', {
    who: admin,
    says: 'Removes a kept copy, with a reason.',
    params: [Id],
    body: z.object({ reason: z.string().trim().min(3).max(300) }),
    answer: copies,
  }),
  play: post('/copies/:id/play', {
    who: admin,
    says: 'An address at which a learning object is played.',
    params: [Id],
    body: z.object({ item: z.string() }),
    answer: z.object({ address: z.url() }),
  }),
  linkedFile: get('/copies/:id/linked/:place', {
    who: admin,
    says: 'A file that was copied in beside a kept copy.',
    params: [Id, z.coerce.number().int().min(0)],
    answer: 'bytes',
  }),
  copyFile: get('/copies/:id/file', { who: admin, says: 'The bytes of a kept copy.', params: [Id], answer: 'bytes' }),
};
