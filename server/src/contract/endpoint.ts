import * as z from 'zod';

/** Who may call an endpoint. There is no other word for it: what is said nowhere may nobody. */
export type Who = 'anyone' | 'signed in' | 'administrator';
export type Method = 'GET' | 'POST' | 'PUT' | 'DELETE';

/** What is answered: JSON of a shape, nothing, bytes as a file, or events as they come. */
export type Answer = z.ZodType | 'nothing' | 'bytes' | 'events';

/** How long a request may be, and what it is. */
export type Takes = 'json' | 'long json' | 'bytes';

/** One call of the HTTP interface: the route, the client's call and the description of the API are made of it. */
export interface Endpoint<
  P extends readonly z.ZodType[] = readonly z.ZodType[],
  Q extends z.ZodType = z.ZodType,
  B extends z.ZodType = z.ZodType,
  A extends Answer = Answer,
> {
  readonly method: Method;
  /** Below `/api`, with `:names` for parameters. */
  readonly path: string;
  readonly who: Who;
  /** What it does, in one sentence. */
  readonly says: string;
  /** The parameters of the path, in their order. */
  readonly params: P;
  /** What stands behind the question mark; absent where nothing may. */
  readonly query: Q | null;
  readonly body: B | null;
  readonly answer: A;
  /** HTTP status of an answer that is not a problem. */
  readonly status: number;
  readonly takes: Takes;
  /** How often one address may call it in a minute; absent where that is not counted. */
  readonly perMinute?: number;
}

/** Stands where nothing is given. */
export type None = z.ZodNever;

interface Given<P, Q, B, A> {
  who: Who;
  says: string;
  params?: P;
  query?: Q;
  body?: B;
  answer: A;
  status?: number;
  takes?: Takes;
  perMinute?: number;
}

function call(method: Method) {
  return <
    const P extends readonly z.ZodType[] = readonly [],
    Q extends z.ZodType = None,
    B extends z.ZodType = None,
    A extends Answer = 'nothing',
  >(
    path: string,
    { params, query, body, status, takes, ...given }: Given<P, Q, B, A>,
  ): Endpoint<P, Q, B, A> => ({
    method,
    path,
    params: params ?? ([] as unknown as P),
    query: query ?? null,
    body: body ?? null,
    status: status ?? (given.answer === 'nothing' ? 204 : 200),
    takes: takes ?? 'json',
    ...given,
  });
}

export const get = call('GET');
export const post = call('POST');
export const put = call('PUT');
export const del = call('DELETE');

/** A number of a row, as it stands in a path. */
export const Id = z.coerce.number().int().positive();

type Inputs<P extends readonly z.ZodType[]> = { [I in keyof P]: z.output<P[I]> };
type Maybe<S extends z.ZodType> = [S] extends [None] ? [] : [given: z.input<S>];

/** What a call is made with: the parameters of its path in their order, then its query or body. */
export type Arguments<E> =
  E extends Endpoint<infer P, infer Q, infer B, Answer> ? [...Inputs<P>, ...Maybe<Q>, ...Maybe<B>] : never;

/** What comes back of a call. */
export type Answered<E> =
  E extends Endpoint<readonly z.ZodType[], z.ZodType, z.ZodType, infer A>
    ? A extends z.ZodType
      ? z.output<A>
      : undefined
    : never;

/** The path of a call with its parameters put in, each escaped. */
export function pathOf({ path }: Pick<Endpoint, 'path'>, params: readonly unknown[]): string {
  let at = 0;
  return `/api${path.replace(/:(\w+)/g, () => encodeURIComponent(String(params[at++])))}`;
}
