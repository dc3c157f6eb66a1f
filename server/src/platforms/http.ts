import { Refusal, problem } from '@treenail/core';
import type * as z from 'zod';

/** The platform can't be reached or answers with a trouble of its own: worth trying again later. */
export class PlatformTrouble extends Error {
  override readonly name = 'PlatformTrouble';
}

/** A finished export that the platform has thrown away: to be asked for again. */
export class ExportGone extends Error {
  override readonly name = 'ExportGone';
}

export interface PlatformClientOptions {
  baseUrl: string;
  headers: Record<string, string>;
  timeoutMs?: number;
  /** Tries of a call that may be repeated. */
  tries?: number;
}

export interface Call {
  method?: 'GET' | 'POST' | 'PUT' | 'DELETE';
  json?: unknown;
  query?: Record<string, string>;
}

/**
 * HTTP to one platform: only to the address an administrator entered, bounded in time, read calls repeated with
 * growing pauses, every answer validated.
 */
export class PlatformClient {
  private readonly options: PlatformClientOptions;

  constructor(options: PlatformClientOptions) {
    this.options = options;
  }

  async json<S extends z.ZodType>(path: string, schema: S, call: Call = {}): Promise<z.infer<S>> {
    const tries = call.method === undefined || call.method === 'GET' ? (this.options.tries ?? 3) : 1;
    for (let attempt = 1; ; attempt++) {
      try {
        const response = await this.send(path, call, AbortSignal.timeout(this.options.timeoutMs ?? 20_000));
        const read = schema.safeParse(await response.json());
        if (!read.success)
          throw new PlatformTrouble(`the platform's answer to ${path} is not understood: ${read.error.message}`);
        return read.data;
      } catch (error) {
        if (error instanceof Refusal || error instanceof ExportGone || attempt >= tries)
          throw asTrouble(error, this.options.baseUrl);
        await new Promise((done) => setTimeout(done, 200 * 4 ** attempt));
      }
    }
  }

  async send(
    path: string,
    call: Call & { body?: AsyncIterable<Uint8Array>; headers?: Record<string, string> },
    signal: AbortSignal,
  ): Promise<Response> {
    const url = new URL(this.options.baseUrl + path);
    for (const [name, value] of Object.entries(call.query ?? {})) url.searchParams.set(name, value);
    // Node's fetch streams any async iterable, which the web's types do not know.
    const body = (call.json === undefined ? call.body : JSON.stringify(call.json)) as BodyInit | undefined;
    const response = await fetch(url, {
      method: call.method ?? 'GET',
      headers: {
        ...this.options.headers,
        ...call.headers,
        ...(call.json === undefined ? {} : { 'content-type': 'application/json' }),
      },
      signal,
      redirect: 'error',
      ...(body === undefined ? {} : { body, duplex: 'half' }),
    }).catch((error: unknown) => {
      throw asTrouble(error, this.options.baseUrl);
    });
    if (response.ok) return response;
    const said = (await response.text().catch(() => '')).slice(0, 300);
    if (response.status === 401 || response.status === 403) {
      throw new Refusal(
        problem(
          'platform-credentials',
          'The platform refuses the credentials.',
          'Enter a new token for this instance.',
        ),
      );
    }
    if (response.status === 410) throw new ExportGone(`${path} is gone`);
    if (response.status === 507) {
      throw new Refusal(
        problem(
          'platform-full',
          `The platform has no room for another export: ${wordsIn(said)}`,
          'Delete exports that were made there before (Treenail removes its own when a copy is kept, if asked to), then try again.',
        ),
      );
    }
    if (response.status === 404) {
      throw new Refusal(
        problem(
          'platform-gone',
          `The platform does not know ${path} any more.`,
          'Try this step again; if it fails again, refresh the register: the course may be gone there.',
        ),
      );
    }
    if (response.status >= 500 || response.status === 429) {
      throw new PlatformTrouble(`the platform answered ${response.status} to ${path}: ${said}`);
    }
    throw new Refusal(
      problem(
        'platform-refused',
        `The platform refused (${response.status}): ${said}`,
        'Read what it says; then try again.',
      ),
    );
  }
}

/** The sentence in a platform's answer, where it gave one as JSON. */
function wordsIn(said: string): string {
  return /"trouble":"([^"]+)"/.exec(said)?.[1] ?? said;
}

export function asTrouble(error: unknown, baseUrl: string): Error {
  if (error instanceof Refusal || error instanceof PlatformTrouble || error instanceof ExportGone) return error;
  const cause = error instanceof Error && error.cause instanceof Error ? `: ${error.cause.message}` : '';
  return new PlatformTrouble(
    `${baseUrl} does not answer (${error instanceof Error ? error.message : String(error)}${cause})`,
    { cause: error },
  );
}
