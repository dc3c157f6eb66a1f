import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { Refusal } from '@treenail/core';
import * as z from 'zod';
import { ExportGone, PlatformClient, PlatformTrouble } from './http.ts';
import { homeOf, isPublic, mustBeReachable, setHome } from './reach.ts';

describe('The client of a platform', () => {
  let server: Server;
  let baseUrl: string;
  let asked: string[];
  let answer: (req: IncomingMessage, res: ServerResponse) => void;

  beforeAll(async () => {
    setHome('127.0.0.0/8');
    server = createServer((req, res) => {
      asked.push(`${req.method} ${req.url}`);
      answer(req, res);
    });
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    baseUrl = `http://127.0.0.1:${(server.address() as AddressInfo).port}/api`;
  });
  beforeEach(() => (asked = []));
  afterAll(async () => {
    server.closeAllConnections();
    await new Promise((done) => server.close(done));
  });

  const client = (more: { tries?: number; timeoutMs?: number } = {}) =>
    new PlatformClient({ baseUrl, headers: { authorization: 'Bearer t' }, tries: 2, ...more });
  const Answer = z.object({ n: z.number() });
  const failure = async (work: Promise<unknown>): Promise<unknown> =>
    work.then(
      () => 'no failure',
      (error: unknown) => error,
    );
  const codeOf = async (status: number, said = '') => {
    answer = (_req, res) => void res.writeHead(status).end(said);
    const error = await failure(client({ tries: 1 }).json('/x', Answer));
    return error instanceof Refusal ? error.problem.code : (error as Error).name;
  };

  it('sends what it is told, with its credentials, and validates the answer', async () => {
    let seen: IncomingMessage['headers'] = {};
    let body = '';
    answer = (req, res) => {
      seen = req.headers;
      req.on('data', (part: Buffer) => (body += part.toString()));
      req.on('end', () => res.end('{"n":1,"more":true}'));
    };
    const call = { method: 'PUT', json: { a: 'ł' }, query: { q: 'a b&c' } } as const;
    expect(await client().json('/things', Answer, call)).toEqual({ n: 1 });
    expect(asked).toEqual(['PUT /api/things?q=a+b%26c']);
    expect([seen.authorization, seen['content-type'], body]).toEqual(['Bearer t', 'application/json', '{"a":"ł"}']);
  });

  it('asks again for what it only reads, and never twice for what changes something', async () => {
    let times = 0;
    answer = (_req, res) => void (++times === 1 ? res.writeHead(503).end() : res.end('{"n":2}'));
    expect(await client().json('/read', Answer)).toEqual({ n: 2 });
    expect(asked.length).toBe(2);
    asked = [];
    answer = (_req, res) => void res.writeHead(503).end('busy');
    const error = await failure(client().json('/change', Answer, { method: 'POST', json: {} }));
    expect(error).toBeInstanceOf(PlatformTrouble);
    expect((error as Error).message).toContain('503');
    expect(asked).toEqual(['POST /api/change']);
  });

  it('tells a trouble that may pass from a refusal that will not', async () => {
    expect(await codeOf(500)).toBe('PlatformTrouble');
    expect(await codeOf(429)).toBe('PlatformTrouble');
    expect(await codeOf(200, '{"n":"one"}')).toBe('PlatformTrouble');
    expect(await codeOf(200, '<html>')).toBe('PlatformTrouble');
    expect(await codeOf(401)).toBe('platform-credentials');
    expect(await codeOf(403)).toBe('platform-no-right');
    expect(await codeOf(404)).toBe('platform-gone');
    expect(await codeOf(507, '{"trouble":"quota reached"}')).toBe('platform-full');
    expect(await codeOf(422, 'no such form')).toBe('platform-refused');
    answer = (_req, res) => void res.writeHead(410).end();
    expect(await failure(client().json('/export', Answer))).toBeInstanceOf(ExportGone);
  });

  it('follows no redirect, since only the address that was entered may be called', async () => {
    answer = (_req, res) => void res.writeHead(302, { location: 'http://127.0.0.1:1/elsewhere' }).end();
    expect(await failure(client({ tries: 1 }).json('/moved', Answer))).toBeInstanceOf(PlatformTrouble);
    // On a busy machine a call that was given up before may reach the server only now: it is none of this one's.
    expect(asked.filter((call) => !call.endsWith('/slow'))).toEqual(['GET /api/moved']);
  });

  it('waits no longer than it may, and says who does not answer', async () => {
    answer = () => undefined;
    const error = await failure(client({ tries: 1, timeoutMs: 60 }).json('/slow', Answer));
    expect(error).toBeInstanceOf(PlatformTrouble);
    expect((error as Error).message).toContain(baseUrl);
    const nobody = new PlatformClient({ baseUrl: 'http://127.0.0.1:9', headers: {}, tries: 1 });
    expect(await failure(nobody.json('/x', Answer))).toBeInstanceOf(PlatformTrouble);
  });

  it('shows of what a platform says one cleaned line, and of a page nothing', async () => {
    const said = async (body: string) => {
      answer = (_req, res) => void res.writeHead(422).end(body);
      const error = await failure(client({ tries: 1 }).json('/x', Answer));
      return error instanceof Refusal ? error.problem.message : '';
    };
    expect(await said('{"trouble":"no room\\nfor it"}')).toBe('The platform refused (422): no room\\nfor it');
    expect(await said('<html><h1>Oops</h1>\r\n<script>x</script> at /var/www</html>')).not.toMatch(/[<>\r\n]/);
    expect((await said('x'.repeat(5000))).length).toBeLessThan(220);
    expect(await said('{"secret":"s3cr3t"}')).toBe('The platform refused (422)');
  });

  it('reads no answer that is longer than an answer is, and holds no more of it', async () => {
    answer = (_req, res) => {
      const piece = Buffer.alloc(1 << 20, ' ');
      const more = () => void (!res.destroyed && res.write(piece, () => setImmediate(more)));
      more();
    };
    const before = process.memoryUsage().rss;
    const error = await failure(client({ tries: 1 }).json('/endless', Answer));
    expect(error).toBeInstanceOf(PlatformTrouble);
    expect(process.memoryUsage().rss - before).toBeLessThan(400 << 20);
  });

  it('speaks to public addresses, and at home only to those that are named', async () => {
    for (const inside of [
      '10.1.2.3',
      '127.0.0.1',
      '169.254.0.9',
      '::1',
      'fd00::1',
      '64:ff9b:1::7f00:1',
      '::ffff:10.0.0.1',
    ])
      expect(isPublic(inside)).withContext(inside).toBeFalse();
    for (const outside of ['93.184.215.14', '2606:2800:220:1::1'])
      expect(isPublic(outside)).withContext(outside).toBeTrue();
    const reached = async (home: string, address: string) => {
      setHome(home);
      return (await failure(mustBeReachable(new URL(address)))) === 'no failure';
    };
    expect(await reached('', 'http://10.0.0.7/api')).toBeFalse();
    expect(await reached('10.0.0.0/24', 'http://10.0.0.7/api')).toBeTrue();
    expect(await reached('10.0.0.0/24', 'http://10.0.1.7/api')).toBeFalse();
    expect(await reached('lms.college.example', 'http://lms.college.example/api')).toBeTrue();
    expect(await reached('', 'http://[::1]:80/')).toBeFalse();
    expect(() => homeOf('no-net/8')).toThrow();
    setHome('127.0.0.0/8');
  });
});
