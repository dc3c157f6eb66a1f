import * as z from 'zod';
import { del, get, post, put } from '../endpoint.ts';
import * as c from '../shapes.ts';

/** Who is signed in, and how Treenail itself is. */

export const SESSION = {
  health: get('/health', {
    who: 'anyone',
    says: 'Whether everything that Treenail needs is there.',
    answer: c.SystemHealth,
  }),
  signIn: post('/session', {
    who: 'anyone',
    says: 'Signs a person in.',
    body: c.SignIn,
    answer: c.Person,
    perMinute: 20,
  }),
  signOut: del('/session', { who: 'anyone', says: 'Ends the session.', answer: 'nothing' }),
  session: get('/session', {
    who: 'anyone',
    says: 'Who is signed in; that nobody is, is an answer.',
    answer: c.Person.nullable(),
  }),
  mailChoice: get('/mail-choice', {
    who: 'signed in',
    says: 'Of what the person is told by mail.',
    answer: c.MailChoice,
  }),
  setMailChoice: put('/mail-choice', {
    who: 'signed in',
    says: 'Chooses of what to be told by mail.',
    body: c.MailChoice,
    answer: c.MailChoice,
  }),
  apiDescription: get('/openapi.json', {
    who: 'signed in',
    says: 'This description of the interface, as OpenAPI.',
    answer: z.record(z.string(), z.unknown()),
  }),
};
