import { Refusal, problem } from '@treenail/core';
import { type Request, type RequestHandler, type Response, type Router } from 'express';
import rateLimit from 'express-rate-limit';
import type * as z from 'zod';
import {
  ENDPOINTS,
  type Answer,
  type Endpoint,
  type EndpointName,
  type Endpoints,
  type Person,
  type Who,
} from '../contract/index.ts';
import { mustBe } from '../services/people.ts';
import { boundedJson } from './guards.ts';
import { personIn, personOrNobody } from './session.ts';

type Outputs<P extends readonly z.ZodType[]> = { [I in keyof P]: z.output<P[I]> };

/** A call as it is answered: everything in it has been validated, and whoever asks may. */
export interface Call<E> {
  params: E extends Endpoint<infer P, z.ZodType, z.ZodType, Answer> ? Outputs<P> : never;
  query: E extends Endpoint<readonly z.ZodType[], infer Q, z.ZodType, Answer> ? z.output<Q> : never;
  body: E extends Endpoint<readonly z.ZodType[], z.ZodType, infer B, Answer> ? z.output<B> : never;
  /** Who asks. @throws RangeError of a call that anyone may make */
  readonly person: Person;
  req: Request;
  res: Response;
}

type AnswerOf<E> =
  E extends Endpoint<readonly z.ZodType[], z.ZodType, z.ZodType, infer A>
    ? A extends z.ZodType
      ? z.input<A>
      : void
    : never;

/** Answers a call. What is answered in JSON is given back; bytes and events go out through `res`. */
export type Answering<E> = (call: Call<E>) => Promise<AnswerOf<E>> | AnswerOf<E>;
export type Answers<K extends EndpointName = EndpointName> = { [N in K]: Answering<Endpoints[N]> };

/** Whether a person may make a call that is for such people. @throws Refusal `sign-in-needed`, `not-allowed` */
export function mayCall(who: Who, person: Person | null): void {
  if (who === 'anyone') return;
  if (!person) throw new Refusal(problem('sign-in-needed', 'You are not signed in.'));
  if (who === 'administrator') mustBe(person, 'administrator');
}

export const onlyFor =
  (who: Who): RequestHandler =>
  async (req, _res, next) => {
    mayCall(who, who === 'anyone' ? null : await personOrNobody(req));
    next();
  };

/** Makes a route of every endpoint. */
export function serve(router: Router, answers: Answers): void {
  for (const [name, endpoint] of Object.entries(ENDPOINTS) as [EndpointName, Endpoint][]) {
    const answering = answers[name] as unknown as (call: Call<Endpoint>) => unknown;
    router[methodOf(endpoint)](
      endpoint.path,
      ...limits(endpoint),
      onlyFor(endpoint.who),
      ...readers(endpoint),
      async (req, res) => answer(endpoint, answering, req, res),
    );
  }
}

function methodOf({ method }: Endpoint): 'get' | 'post' | 'put' | 'delete' {
  return ({ GET: 'get', POST: 'post', PUT: 'put', DELETE: 'delete' } as const)[method];
}

function limits({ perMinute }: Endpoint): RequestHandler[] {
  if (perMinute === undefined) return [];
  return [rateLimit({ windowMs: 60_000, limit: perMinute, standardHeaders: true, legacyHeaders: false })];
}

function readers({ method, takes }: Endpoint): RequestHandler[] {
  return method === 'GET' || takes === 'bytes' ? [] : [boundedJson(takes === 'long json')];
}

/** The parameters of a path in the order in which it names them. */
function paramsOf({ path, params }: Endpoint, req: Request): unknown[] {
  const names = [...path.matchAll(/:(\w+)/g)].map((m) => m[1] ?? '');
  return params.map((schema, i) => schema.parse(req.params[names[i] ?? '']));
}

async function answer(
  endpoint: Endpoint,
  answering: (call: Call<Endpoint>) => unknown,
  req: Request,
  res: Response,
): Promise<void> {
  const call = {
    params: paramsOf(endpoint, req) as Call<Endpoint>['params'],
    query: endpoint.query?.parse(req.query),
    // Bytes are read by whoever takes them in.
    body: endpoint.takes === 'bytes' ? undefined : endpoint.body?.parse(req.body),
    get person() {
      return personIn(req);
    },
    req,
    res,
  };
  const answered = await answering(call);
  if (endpoint.answer === 'bytes' || endpoint.answer === 'events') return;
  if (res.statusCode === 200) res.status(endpoint.status);
  if (endpoint.answer === 'nothing') res.end();
  else res.json(answered);
}

/** Requests that last by themselves: the line to the browser, files on their way. */
export function lasting(): (path: string) => boolean {
  const patterns = (Object.values(ENDPOINTS) as Endpoint[])
    .filter(({ answer: of, takes }) => of === 'bytes' || of === 'events' || takes === 'bytes')
    .map(({ path }) => new RegExp(`^${path.replaceAll('.', '\\.').replace(/:\w+/g, '[^/]+')}$`));
  return (path) => patterns.some((pattern) => pattern.test(path));
}
