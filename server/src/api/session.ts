import { Refusal, problem } from '@treenail/core';
import type { Request, RequestHandler } from 'express';
import type { Person } from '../contract/index.ts';
import { personOf } from '../services/people.ts';

export const COOKIE = 'treenail_session';

const people = new WeakMap<Request, Person>();

export function tokenOf(req: Request): string | null {
  const token: unknown = (req.cookies as Record<string, unknown>)[COOKIE];
  return typeof token === 'string' && token !== '' ? token : null;
}

export const needSession: RequestHandler = async (req, _res, next) => {
  const token = tokenOf(req);
  const person = token === null ? null : await personOf(token);
  if (!person) throw new Refusal(problem('sign-in-needed', 'You are not signed in.', 'Sign in.'));
  people.set(req, person);
  next();
};

/** Who asks; only behind `needSession`. */
export function personIn(req: Request): Person {
  const person = people.get(req);
  if (!person) throw new RangeError('a route without a session');
  return person;
}
