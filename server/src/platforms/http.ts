import { Refusal, problem } from '@treenail/core';
import type * as z from 'zod';
import { diskFullRefusal, isDiskFull } from '../trouble.ts';
import { mustBeReachable } from './reach.ts';

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
        const read = schema.safeParse(JSON.parse(await boundedText(response, JSON_BYTES)));
        if (!read.success)
          throw new PlatformTrouble(`the platform's answer to ${path} is not understood: ${firstIssue(read.error)}`);
        return read.data;
      } catch (error) {
        if (error instanceof Refusal || error instanceof ExportGone || attempt >= tries)
          throw asTrouble(error, this.options.baseUrl);
        await new Promise((done) => setTimeout(done, 200 * 4 ** attempt));
      }
    }
  }

  /** The bytes of a file from an offset on. */
  async bytes(path: string, offset: number, signal: AbortSignal): Promise<AsyncIterable<Uint8Array>> {
    const headers: Record<string, string> = offset > 0 ? { Range: `bytes=${offset}-` } : {};
    const response = await this.send(path, { headers }, signal);
    if (!response.body) throw new Error('an answer without a body');
    return response.body;
  }

  /** Asks for something to be done of which nothing is answered. */
  async act(path: string, json: unknown): Promise<void> {
    await this.send(path, { method: 'POST', json }, AbortSignal.timeout(this.options.timeoutMs ?? 20_000));
  }

  async remove(path: string): Promise<void> {
    await this.send(path, { method: 'DELETE' }, AbortSignal.timeout(this.options.timeoutMs ?? 20_000));
  }

  /** Sends bytes from an offset on. */
  async put(path: string, offset: number, body: AsyncIterable<Uint8Array>, signal: AbortSignal): Promise<void> {
    await this.send(path, { method: 'PUT', query: { from: String(offset) }, body }, signal);
  }

  /**
   * What bears a key of ours at the platform, or else what is asked for anew under it: so that nothing is asked for twice.
   * @param find lists what bears the key
   */
  async once<T>(
    find: Promise<readonly T[]>,
    ask: () => Promise<T>,
    isMeant: (one: T) => boolean = () => true,
  ): Promise<T> {
    return (await find).find(isMeant) ?? ask();
  }

  async send(
    path: string,
    call: Call & { body?: AsyncIterable<Uint8Array>; headers?: Record<string, string> },
    signal: AbortSignal,
  ): Promise<Response> {
    const url = new URL(this.options.baseUrl + path);
    await mustBeReachable(url);
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
    const words = cleaned(await boundedText(response, 4096).catch(() => ''));
    if (response.status === 403) {
      throw new Refusal(problem('platform-no-right', `The platform does not let this key do that${words}`));
    }
    if (response.status === 401) {
      throw new Refusal(problem('platform-credentials', 'The platform refuses the credentials.'));
    }
    if (response.status === 410) throw new ExportGone(`${path} is gone`);
    if (response.status === 507) {
      throw new Refusal(problem('platform-full', `The platform has no room for another export${words}`));
    }
    if (response.status === 404) {
      throw new Refusal(problem('platform-gone', `The platform does not know ${path} any more.`));
    }
    if (response.status >= 500 || response.status === 429) {
      throw new PlatformTrouble(`the platform answered ${response.status} to ${path}${words}`);
    }
    throw new Refusal(problem('platform-refused', `The platform refused (${response.status})${words}`));
  }
}

/** The longest answer that is read as JSON, bytes. */
const JSON_BYTES = 32 * 2 ** 20;

/** The text of an answer, no more of it than is wanted. @throws PlatformTrouble where it is longer */
async function boundedText(response: Response, most: number): Promise<string> {
  const parts: Uint8Array[] = [];
  let size = 0;
  for await (const part of response.body ?? []) {
    size += part.length;
    if (size > most) {
      if (!response.ok) break;
      throw new PlatformTrouble(`the platform's answer is longer than ${Math.round(most / 2 ** 20)} MB`);
    }
    parts.push(part);
  }
  return Buffer.concat(parts).toString('utf8');
}

/**
 * One line of what a platform said, to stand behind what Treenail says: a foreign text may be long, broken over lines or a
 * whole page. Empty where it says nothing that a person can read.
 */
function cleaned(body: string): string {
  const sentence = /"(?:trouble|message|detail|error)"\s*:\s*"([^"]+)"/.exec(body)?.[1] ?? body;
  const line = sentence
    .replace(/<[^>]*>?/g, ' ')
    .replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}\s]+/gu, ' ')
    .trim()
    .slice(0, 160);
  return line === '' || /^[[{]/.test(line) ? '' : `: ${line}`;
}

/** Where an answer is not what was expected, without anything of what it holds. */
function firstIssue(error: z.ZodError): string {
  const [issue] = error.issues;
  return issue ? `${issue.path.join('.') || 'it'} is not what it should be` : 'it is not what it should be';
}

export function asTrouble(error: unknown, baseUrl: string): Error {
  // What is wrong here is no trouble of the platform.
  if (isDiskFull(error)) return diskFullRefusal();
  if (error instanceof Refusal || error instanceof PlatformTrouble || error instanceof ExportGone) return error;
  const cause = error instanceof Error && error.cause instanceof Error ? `: ${error.cause.message}` : '';
  return new PlatformTrouble(
    `${baseUrl} does not answer (${error instanceof Error ? error.message : String(error)}${cause})`,
    { cause: error },
  );
}
