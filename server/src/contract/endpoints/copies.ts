import * as z from 'zod';
import { Id, get, post } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** Kept copies. */

const admin = 'administrator' as const;

export const COPIES = {
  copies: get('/copies', {
    who: admin,
    says: 'Kept copies in pages, the newest first.',
    query: c.CopiesAsked,
    answer: c.CopiesPage,
  }),
  copy: get('/copies/:id', { who: admin, says: 'One kept copy.', params: [Id], answer: c.CopyDetail }),
  copyToLookInto: post('/copies/:id/look', {
    who: admin,
    says: 'One kept copy, to be looked into; goes into the trail.',
    params: [Id],
    answer: c.CopyDetail,
  }),
  removeCopy: post('/copies/:id/remove', {
    who: admin,
    says: 'Removes a kept copy, with a reason.',
    params: [Id],
    body: z.object({ reason: z.string().trim().min(3).max(300) }),
    answer: 'nothing',
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
