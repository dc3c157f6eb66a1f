import type { Request } from 'express';
import type { Person } from '../contract/index.ts';
import { personOf } from '../services/people.ts';

export const COOKIE = 'treenail_session';

const people = new WeakMap<Request, Person>();

export function tokenOf(req: Request): string | null {
  const token: unknown = (req.cookies as Record<string, unknown>)[COOKIE];
  return typeof token === 'string' && token !== '' ? token : null;
}

/** Who asks, and whom `personIn` then knows; `null` where nobody is signed in. */
export async function personOrNobody(req: Request): Promise<Person | null> {
  const token = tokenOf(req);
  const person = token === null ? null : await personOf(token);
  if (person) people.set(req, person);
  return person;
}

/** Who asks; only of a call that is not for anyone. */
export function personIn(req: Request): Person {
  const person = people.get(req);
  if (!person) throw new RangeError('a route without a session');
  return person;
}
