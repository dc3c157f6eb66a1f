import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import * as z from 'zod';
import { configFromEnvironment } from '../config.ts';
import { ENDPOINTS, pathOf, type Endpoint, type EndpointName, type Who } from '../contract/index.ts';
import { servicesOf } from '../services/context.ts';
import { addPerson } from '../services/people.ts';
import { cookieOf, testApp, type TestApp } from '../testing/app.ts';
import { testDatabase } from '../testing/database.ts';

const origin = ({ base }: TestApp) => new URL(base).origin;
const ALL = Object.entries(ENDPOINTS) as [EndpointName, Endpoint][];

describe('Every endpoint', () => {
  let app: TestApp;
  let folder: string;
  let drop: () => Promise<void>;
  const cookies: Record<'nobody' | 'instructor' | 'administrator', string> = {
    nobody: '',
    instructor: '',
    administrator: '',
  };

  beforeAll(async () => {
    const database = await testDatabase();
    drop = () => database.drop();
    folder = await mkdtemp(join(tmpdir(), 'treenail-'));
    const config = { ...configFromEnvironment(), blobs: join(folder, 'blobs'), scratch: join(folder, 'scratch') };
    app = await testApp(servicesOf({ ...config, askOutside: false }));
    await addPerson('Ada', 'ada@marrowick.example', 'administrator', 'right');
    await addPerson('Ian', 'ian@marrowick.example', 'instructor', 'right');
    cookies.administrator = await cookieOf('ada@marrowick.example');
    cookies.instructor = await cookieOf('ian@marrowick.example');
  });
  afterAll(async () => {
    await app.close();
    await drop();
    await rm(folder, { recursive: true });
  });

  /** Asks with parameters that name nothing, and with nothing in its body. */
  async function statusOf(endpoint: Endpoint, cookie: string): Promise<number> {
    const params = endpoint.params.map((schema) => ['999999', 'csv', 'x'].find((v) => schema.safeParse(v).success));
    const stop = new AbortController();
    const answer = await fetch(`${origin(app)}${pathOf(endpoint, params)}`, {
      method: endpoint.method,
      headers: { cookie, ...(endpoint.method === 'GET' ? {} : { 'content-type': 'application/json' }) },
      ...(endpoint.method === 'GET' || endpoint.method === 'DELETE' ? {} : { body: '{}' }),
      signal: stop.signal,
    });
    stop.abort();
    return answer.status;
  }

  const MAY: Record<keyof typeof cookies, readonly Who[]> = {
    nobody: ['anyone'],
    instructor: ['anyone', 'signed in'],
    administrator: ['anyone', 'signed in', 'administrator'],
  };

  for (const role of ['nobody', 'instructor', 'administrator'] as const) {
    it(`is open to ${role} where it says so, and closed where it does not`, async () => {
      // A session that is ended can't be used for what comes after.
      for (const [name, endpoint] of ALL.filter(([name]) => name !== 'signOut')) {
        const status = await statusOf(endpoint, cookies[role]);
        if (MAY[role].includes(endpoint.who)) expect([401, 403]).withContext(name).not.toContain(status);
        else
          expect(status)
            .withContext(name)
            .toBe(role === 'nobody' ? 401 : 403);
      }
    });
  }

  it('is no way in for what is none: uploads and paths that are not there', async () => {
    const ask = async (path: string, cookie: string, method = 'GET') =>
      (await fetch(`${origin(app)}${path}`, { method, headers: { cookie, 'Tus-Resumable': '1.0.0' } })).status;
    expect(await ask('/api/uploads', cookies.nobody, 'POST')).toBe(401);
    expect(await ask('/api/uploads/x', cookies.instructor, 'HEAD')).toBe(403);
    expect(await ask('/api/uploads/x', cookies.administrator, 'HEAD')).toBe(404);
    expect(await ask('/api/nothing/such', cookies.nobody)).toBe(401);
    expect(await ask('/api/nothing/such', cookies.administrator)).toBe(404);
  });

  it('names its parameters once each, and has a method and path of its own', () => {
    const seen = new Set<string>();
    for (const [name, { method, path, params, query, body }] of ALL) {
      expect((path.match(/:\w+/g) ?? []).length)
        .withContext(name)
        .toBe(params.length);
      expect(method === 'GET' && body !== null)
        .withContext(name)
        .toBe(false);
      expect(seen.has(`${method} ${path}`))
        .withContext(name)
        .toBe(false);
      seen.add(`${method} ${path}`);
      expect(query === null || !(query instanceof z.ZodNever))
        .withContext(name)
        .toBe(true);
    }
  });

  it('is described as OpenAPI, with its parameters, its shapes and what may be refused', async () => {
    const answer = await fetch(`${origin(app)}/api/openapi.json`, { headers: { cookie: cookies.instructor } });
    const Operation = z.looseObject({
      operationId: z.string(),
      parameters: z.array(z.looseObject({ name: z.string() })),
    });
    const { paths } = z
      .object({ openapi: z.literal('3.1.0'), paths: z.record(z.string(), z.record(z.string(), Operation)) })
      .loose()
      .parse(await answer.json());
    const told = Object.values(paths).flatMap((methods) => Object.values(methods).map((o) => o.operationId));
    expect(told.sort()).toEqual(Object.keys(ENDPOINTS).sort());
    expect(paths['/api/moves/{id}/decisions/{decision}']?.['delete']?.parameters.map((p) => p.name)).toEqual([
      'id',
      'decision',
    ]);
    expect(paths['/api/moves/{id}/preview']?.['get']?.parameters.map((p) => p.name)).toEqual([
      'id',
      'item',
      'learner',
      'q',
      'mended',
      'path',
    ]);
    const decide = JSON.stringify(paths['/api/moves/{id}/decisions']?.['post']);
    expect(decide).toContain('application/problem+json');
    expect(decide).toContain('"mend"');
  });
});
