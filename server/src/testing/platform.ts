import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { setHome } from '../platforms/reach.ts';

/** A call as the platform got it. */
export interface Asked {
  method: string;
  path: string;
  query: Record<string, string>;
  headers: IncomingMessage['headers'];
  body: Buffer;
}

/** What is answered: JSON, bytes, or a status alone. */
export type Answer = Record<string, unknown> | Buffer | number;
type Route = Answer | ((asked: Asked) => Answer);

/** The other end of a connector: answers as it is told to, and keeps what it was asked. */
export interface ScriptedPlatform {
  readonly baseUrl: string;
  readonly asked: Asked[];
  /** By `METHOD /path`, without the query. */
  routes: Record<string, Route>;
  /** The calls so far, each as `METHOD /path`, and forgets them. */
  calls(): string[];
  close(): Promise<void>;
}

export async function scriptedPlatform(): Promise<ScriptedPlatform> {
  // It is on this machine.
  setHome('127.0.0.0/8');
  const asked: Asked[] = [];
  const platform = {
    baseUrl: '',
    asked,
    routes: {} as Record<string, Route>,
    calls: () => asked.splice(0).map(({ method, path }) => `${method} ${path}`),
    async close() {
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
    },
  };
  const server = createServer((req, res) => {
    void (async () => {
      const parts: Buffer[] = [];
      for await (const part of req) parts.push(part as Buffer);
      const url = new URL(req.url ?? '/', 'http://here');
      const call: Asked = {
        method: req.method ?? '',
        path: url.pathname,
        query: Object.fromEntries(url.searchParams),
        headers: req.headers,
        body: Buffer.concat(parts),
      };
      asked.push(call);
      const route = platform.routes[`${call.method} ${call.path}`] ?? 404;
      send(res, typeof route === 'function' ? route(call) : route);
    })();
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  platform.baseUrl = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return platform;
}

function send(res: ServerResponse, answer: Answer): void {
  if (typeof answer === 'number') res.writeHead(answer).end();
  else if (Buffer.isBuffer(answer)) res.end(answer);
  else res.setHeader('content-type', 'application/json').end(JSON.stringify(answer));
}

/** A body that was sent as JSON. */
export function jsonOf(asked: Asked | undefined): unknown {
  return JSON.parse(asked?.body.toString() ?? 'null');
}

export async function textOf(bytes: AsyncIterable<Uint8Array>): Promise<string> {
  const parts: Uint8Array[] = [];
  for await (const part of bytes) parts.push(part);
  return Buffer.concat(parts).toString();
}

export async function* oneChunk(text: string): AsyncGenerator<Uint8Array> {
  yield Buffer.from(text);
}
