import { HttpClient, HttpErrorResponse } from '@angular/common/http';
import { Injectable, inject } from '@angular/core';
import {
  ENDPOINTS,
  ProblemDocument,
  pathOf,
  type Answered,
  type Arguments,
  type Endpoint,
  type Endpoints,
} from '@treenail/server/contract';
import { Refusal } from '@treenail/core';
import { map, type Observable } from 'rxjs';
import * as z from 'zod';

/** What is answered as it lies there: files to be had, and events. */
type AsItLies = 'bytes' | 'events';
type NamesOf<E> = { [N in keyof E]: E[N] extends { answer: AsItLies } ? N : never }[keyof E];

/** Addresses at which bytes and events lie, for a link, a picture or an event source. */
type Addresses = { readonly [N in NamesOf<Endpoints>]: (...given: Arguments<Endpoints[N]>) => string };

type Client = {
  readonly [N in Exclude<keyof Endpoints, keyof Addresses>]: (
    ...given: Arguments<Endpoints[N]>
  ) => Observable<Answered<Endpoints[N]>>;
};

const ALL = Object.entries(ENDPOINTS as Record<string, Endpoint>);

export const ADDRESSES = Object.fromEntries(
  ALL.filter(([, { answer }]) => answer === 'bytes' || answer === 'events').map(([name, endpoint]) => [
    name,
    (...given: unknown[]) => addressOf(endpoint, given),
  ]),
) as unknown as Addresses;

/** Makes a call of every other endpoint. Every answer is validated; what comes out has plain types. */
function clientOf(http: HttpClient): Client {
  return Object.fromEntries(
    ALL.flatMap(([name, endpoint]) => {
      const { answer } = endpoint;
      if (answer === 'bytes' || answer === 'events') return [];
      return [[name, (...given: unknown[]) => call(http, endpoint, answer, given)]];
    }),
  ) as unknown as Client;
}

function call(
  http: HttpClient,
  endpoint: Endpoint,
  answer: z.ZodType | 'nothing',
  given: readonly unknown[],
): Observable<unknown> {
  const many = endpoint.params.length;
  const [first, second] = given.slice(many);
  const body = endpoint.body ? (endpoint.query ? second : first) : {};
  return http
    .request<unknown>(endpoint.method, pathOf(endpoint, given), {
      ...(endpoint.method === 'GET' || endpoint.method === 'DELETE' ? {} : { body }),
      ...(endpoint.query ? { params: textsIn(first) } : {}),
      // Whatever the bytes are, the server takes them as they are.
      ...(endpoint.takes === 'bytes' ? { headers: { 'content-type': 'application/octet-stream' } } : {}),
    })
    .pipe(map((answered) => (answer === 'nothing' ? undefined : answer.parse(answered))));
}

function addressOf(endpoint: Endpoint, given: readonly unknown[]): string {
  const query = new URLSearchParams(endpoint.query ? textsIn(given[endpoint.params.length]) : {}).toString();
  return pathOf(endpoint, given) + (query === '' ? '' : `?${query}`);
}

const AsText = z.union([z.string(), z.number(), z.boolean()]).transform(String);

/** A query as texts; what is not given is not asked. */
function textsIn(query: unknown): Record<string, string> {
  const given = Object.entries((query ?? {}) as Record<string, unknown>);
  return Object.fromEntries(
    given.flatMap(([name, value]) => (value === undefined ? [] : [[name, AsText.parse(value)]])),
  );
}

/** The server, with a method for every endpoint: the parameters of its path in order, then its query or body. */
@Injectable({ providedIn: 'root' })
export class Api extends (class {
  constructor(http: HttpClient) {
    Object.assign(this, clientOf(http));
  }
} as new (http: HttpClient) => Client) {
  constructor() {
    super(inject(HttpClient));
  }
}

/** What a person is told when a request fails. */
/** The code of a refusal by the server; '' where it is none. */
export function codeOf(error: unknown): string {
  const problem = error instanceof HttpErrorResponse ? ProblemDocument.safeParse(error.error) : null;
  return problem?.success ? problem.data.code : '';
}

export function wordsOf(error: unknown): string {
  if (error instanceof Refusal) return `${error.problem.message} ${error.problem.action}`;
  if (error instanceof HttpErrorResponse) {
    const problem = ProblemDocument.safeParse(error.error);
    if (problem.success) return `${problem.data.detail} ${problem.data.action}`;
    if (error.status === 0) return 'Treenail does not answer. Look whether it is running, then try again.';
  }
  return 'Something went wrong. Reload the page; if it happens again, tell whoever runs Treenail.';
}
