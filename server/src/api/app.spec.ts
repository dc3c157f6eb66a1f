import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Sequelize } from 'sequelize';
import { configFromEnvironment } from '../config.ts';
import { AuditEntry, User, bindModels, type Move } from '../db/index.ts';
import { servicesOf, type Services } from '../services/context.ts';
import { addInstance } from '../services/instances.ts';
import { addPerson } from '../services/people.ts';
import { cookieOf, testApp, type TestApp } from '../testing/app.ts';
import { testDatabase } from '../testing/database.ts';
import { keptCourse } from '../testing/moves.ts';
import { ProblemDocument } from './contract.ts';

describe('The doors of the API', () => {
  let folder: string;
  let sequelize: Sequelize;
  let drop: () => Promise<void>;
  let services: Services;
  let app: TestApp;
  let admin: string;
  let instructor: string;
  let moveId: number;
  const FILM = Buffer.from(Array.from({ length: 300_000 }, (_, i) => (i * 7 + (i >> 8)) % 251));

  beforeAll(async () => {
    const database = await testDatabase();
    sequelize = database.sequelize;
    drop = () => database.drop();
    folder = await mkdtemp(join(tmpdir(), 'treenail-'));
    services = servicesOf({
      ...configFromEnvironment(),
      blobs: join(folder, 'blobs'),
      scratch: join(folder, 'scratch'),
      askOutside: false,
    });
    app = await testApp(services);
    await addPerson('Ada', 'ada@marrowick.example', 'administrator', 'right');
    await addPerson('Ian', 'ian@marrowick.example', 'instructor', 'right');
    admin = await cookieOf('ada@marrowick.example');
    instructor = await cookieOf('ian@marrowick.example');
    moveId = (await movedCourse()).id;
  });
  beforeEach(() => bindModels(sequelize));
  afterAll(async () => {
    await app.close();
    await drop();
    await rm(folder, { recursive: true });
  });

  /** A move whose kept package has a film in it, packed so that it can't be read from its middle. */
  async function movedCourse(): Promise<Move> {
    const made = (name: string) =>
      addInstance(services.config.secret, {
        name,
        platform: 'tarnhall',
        baseUrl: 'http://127.0.0.1:9',
        credential: 't',
      });
    const [from, to, person] = [await made('Old'), await made('New'), await User.findOne({ rejectOnEmpty: true })];
    const files = { 'films/steam.mp4': FILM, 'page.html': '<script>alert(1)</script>' };
    const { newMove } = await keptCourse(services, folder, files, { from, to, remoteId: 'c1', createdBy: person.id });
    return newMove();
  }

  interface Asked {
    method?: string;
    as?: string;
    body?: unknown;
    headers?: Record<string, string>;
  }
  const ask = (path: string, { method = 'GET', as = admin, body, headers = {} }: Asked = {}) =>
    fetch(`${app.base}${path}`, {
      method,
      headers: { cookie: as, ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...headers },
      ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    });
  const problemOf = async (answer: Response) => {
    expect(answer.headers.get('content-type')).toContain('application/problem+json');
    const document = ProblemDocument.parse(await answer.json());
    expect(document.status).toBe(answer.status);
    expect(document.type).toBe(`urn:treenail:problem:${document.code}`);
    return `${answer.status} ${document.code}`;
  };

  it('open to nobody who has not signed in, and tell who has', async () => {
    for (const path of [
      '/courses',
      '/moves',
      '/copies',
      '/jobs',
      '/platforms',
      '/house-rules',
      `/moves/${moveId}/tidy`,
    ]) {
      expect(await problemOf(await ask(path, { as: '' }))).toBe('401 sign-in-needed');
      expect(await problemOf(await ask(path, { as: 'treenail_session=made-up' }))).toBe('401 sign-in-needed');
    }
    expect(await (await ask('/session', { as: '' })).json()).toBeNull();
    expect(await (await ask('/session')).json()).toEqual(
      jasmine.objectContaining({ name: 'Ada', role: 'administrator' }),
    );
    expect(await (await ask('/health', { as: '' })).json()).toEqual({ ok: true });
  });

  it('give a cookie that no script and no other site can use, and take it back', async () => {
    const body = { email: 'ada@marrowick.example', password: 'right' };
    const given = await ask('/session', { method: 'POST', as: '', body });
    const cookie = given.headers.get('set-cookie') ?? '';
    expect(cookie).toMatch(/HttpOnly/);
    expect(cookie).toMatch(/SameSite=Strict/);
    const [own = ''] = cookie.split(';');
    expect((await ask('/moves', { as: own })).status).toBe(200);
    expect((await ask('/session', { method: 'DELETE', as: own })).status).toBe(204);
    expect(await problemOf(await ask('/moves', { as: own }))).toBe('401 sign-in-needed');
    const wrong = await ask('/session', { method: 'POST', as: '', body: { ...body, password: 'wrong' } });
    expect(await problemOf(wrong)).toBe('401 sign-in-refused');
  });

  it('let an instructor read reports, and change nothing', async () => {
    expect((await ask('/reports', { as: instructor })).status).toBe(200);
    const acts: [string, Asked][] = [
      ['/moves', { method: 'POST', body: { courseId: 1, destinationId: 2 } }],
      [`/moves/${moveId}/decisions`, { method: 'POST', body: {} }],
      [`/moves/${moveId}/given?name=x.png`, { method: 'POST', body: 'x', headers: { 'content-type': 'text/plain' } }],
      [`/moves/${moveId}/accept`, { method: 'POST', body: {} }],
      ['/mend-rules/1', { method: 'DELETE' }],
      ['/house-rules', { method: 'PUT', body: {} }],
      ['/terms', { method: 'PUT', body: [] }],
    ];
    for (const [path, asked] of acts) {
      expect(await problemOf(await ask(path, { ...asked, as: instructor }))).toBe('403 not-allowed');
    }
    expect(await AuditEntry.count()).toBe(0);
  });

  it('say what is wrong with a request, and never what went wrong inside', async () => {
    expect(await problemOf(await ask('/moves/first'))).toBe('400 invalid-request');
    expect(await problemOf(await ask('/moves/99999'))).toBe('404 not-found');
    expect(await problemOf(await ask('/moves', { method: 'POST', body: { courseId: 'x' } }))).toBe(
      '400 invalid-request',
    );
    expect(await problemOf(await ask('/moves', { method: 'POST', body: '{"courseId":' }))).toBe('400 unexpected');
    const long = { name: 'x'.repeat(2_000_000), filter: {} };
    expect(await problemOf(await ask('/filters', { method: 'POST', body: long }))).toBe('413 unexpected');
    expect(await problemOf(await ask(`/moves/${moveId}/look`))).toBe('409 not-yet');
    expect(await problemOf(await ask(`/moves/${moveId}/ask-outside`, { method: 'POST', body: {} }))).toBe(
      '422 outside-off',
    );
    expect((await ask('/nothing-of-the-kind')).status).toBe(404);
  });

  it('give a film part by part, as what it is and nothing else', async () => {
    const at = `/moves/${moveId}/file?path=${encodeURIComponent('films/steam.mp4')}`;
    const whole = await ask(at);
    expect([whole.status, whole.headers.get('content-type'), whole.headers.get('accept-ranges')]).toEqual([
      200,
      'video/mp4',
      'bytes',
    ]);
    expect(whole.headers.get('content-security-policy')).toBe("sandbox; default-src 'none'");
    expect(whole.headers.get('x-content-type-options')).toBe('nosniff');
    expect(Buffer.from(await whole.arrayBuffer()).equals(FILM)).toBeTrue();
    for (const [range, start, end] of [
      ['bytes=0-0', 0, 0],
      ['bytes=70000-139999', 70_000, 139_999],
      ['bytes=299990-', 299_990, 299_999],
      ['bytes=-5', 299_995, 299_999],
    ] as const) {
      const part = await ask(at, { headers: { range } });
      expect([part.status, part.headers.get('content-range')]).toEqual([206, `bytes ${start}-${end}/300000`]);
      expect(Buffer.from(await part.arrayBuffer()).equals(FILM.subarray(start, end + 1))).toBeTrue();
    }
    const beyond = await ask(at, { headers: { range: 'bytes=300000-' } });
    expect([beyond.status, beyond.headers.get('content-range')]).toEqual([416, 'bytes */300000']);
    // What could run in Treenail's own origin is not given, nor what is not there.
    for (const path of ['page.html', 'films/none.mp4', '../../etc/passwd']) {
      expect(await problemOf(await ask(`/moves/${moveId}/file?path=${encodeURIComponent(path)}`))).toBe(
        '404 not-found',
      );
    }
  });
});
