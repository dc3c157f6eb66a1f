import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { QueryTypes, type Sequelize } from 'sequelize';
import { configFromEnvironment } from '../config.ts';
import type { Course } from '@treenail/core';
import { AuditEntry, MoveDocument, MoveStepRow, User, WorkerRow, bindModels, type WholeMove } from '../db/index.ts';
import { servicesOf, type Services } from '../services/context.ts';
import { readDocument, writeDocument } from '../services/documents.ts';
import { workerIsHere } from '../services/health.ts';
import { addInstance } from '../services/instances.ts';
import { noteStep } from '../services/move-rows.ts';
import { addPerson } from '../services/people.ts';
import { cookieOf, testApp, type TestApp } from '../testing/app.ts';
import { testDatabase } from '../testing/database.ts';
import { REPORT, keptCourse } from '../testing/moves.ts';
import { ProblemDocument } from '../contract/index.ts';

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
  async function movedCourse(): Promise<WholeMove> {
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
      '/finding-settings',
      `/moves/${moveId}/tidy`,
    ]) {
      expect(await problemOf(await ask(path, { as: '' }))).toBe('401 sign-in-needed');
      expect(await problemOf(await ask(path, { as: 'treenail_session=made-up' }))).toBe('401 sign-in-needed');
    }
    expect(await (await ask('/session', { as: '' })).json()).toBeNull();
    expect(await (await ask('/session')).json()).toEqual(
      jasmine.objectContaining({ name: 'Ada', role: 'administrator' }),
    );
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
    const before = await AuditEntry.count();
    const acts: [string, Asked][] = [
      ['/moves', { method: 'POST', body: { courseId: 1, destinationId: 2 } }],
      [`/moves/${moveId}/decisions`, { method: 'POST', body: {} }],
      [`/moves/${moveId}/given?name=x.png`, { method: 'POST', body: 'x', headers: { 'content-type': 'text/plain' } }],
      [`/moves/${moveId}/accept`, { method: 'POST', body: {} }],
      ['/mend-rules/1', { method: 'DELETE' }],
      ['/finding-settings', { method: 'PUT', body: {} }],
      ['/terms', { method: 'PUT', body: [] }],
    ];
    for (const [path, asked] of acts) {
      expect(await problemOf(await ask(path, { ...asked, as: instructor }))).toBe('403 not-allowed');
    }
    expect(await AuditEntry.count()).toBe(before);
  });

  it('say that all is well only while database, tables and a worker are there', async () => {
    await WorkerRow.destroy({ where: {} });
    const health = async () => {
      const answer = await ask('/health', { as: '' });
      return [answer.status, (await answer.json()) as unknown];
    };
    expect(await health()).toEqual([503, { ok: false, database: true, tables: true, workers: 0 }]);
    await workerIsHere('w1');
    expect(await health()).toEqual([200, { ok: true, database: true, tables: true, workers: 1 }]);
    await WorkerRow.update({ seenAt: new Date(Date.now() - 60_000) }, { where: { name: 'w1' } });
    expect(await health()).toEqual([503, { ok: false, database: true, tables: true, workers: 0 }]);
    // While a release begins, its newest tables are not there yet.
    const [newest] = await sequelize.query<{ name: string }>(
      'SELECT name FROM sequelize_meta ORDER BY name DESC LIMIT 1',
      {
        type: QueryTypes.SELECT,
      },
    );
    await sequelize.query('DELETE FROM sequelize_meta WHERE name = ?', { replacements: [newest?.name] });
    expect((await health())[1]).toEqual({ ok: false, database: true, tables: false, workers: 0 });
    await sequelize.query('RENAME TABLE sequelize_meta TO sequelize_meta_of_old');
    expect((await health())[1]).toEqual({ ok: false, database: true, tables: false, workers: 0 });
    await sequelize.query('RENAME TABLE sequelize_meta_of_old TO sequelize_meta');
    await sequelize.query('INSERT INTO sequelize_meta (name) VALUES (?)', { replacements: [newest?.name] });
  });

  it('do nothing that another page asks for, be it of the same site, and all that their own asks for', async () => {
    const body = { rule: '{code}_{date}' };
    const from = (headers: Record<string, string>) => ask('/naming-rule', { method: 'PUT', body, headers });
    const own = app.base.replace('/api', '');
    for (const headers of [
      { 'sec-fetch-site': 'same-site' },
      { 'sec-fetch-site': 'cross-site' },
      { origin: 'http://127.0.0.1:1' },
      { origin: 'null' },
    ] as Record<string, string>[]) {
      expect(await problemOf(await from(headers))).toBe('403 other-origin');
    }
    for (const headers of [{}, { 'sec-fetch-site': 'same-origin', origin: own }] as Record<string, string>[])
      expect((await from(headers)).status).toBe(200);
    // Nor is a file taken in, or a session ended.
    const foreign = { 'sec-fetch-site': 'same-site' };
    expect(await problemOf(await ask('/session', { method: 'DELETE', headers: foreign }))).toBe('403 other-origin');
    expect((await ask('/uploads', { method: 'POST', headers: foreign })).status).toBe(403);
  });

  it('refuse JSON that nests too deep in words of their own', async () => {
    const deep = `{"name":"x","filter":${'['.repeat(5000)}${']'.repeat(5000)}}`;
    expect(await problemOf(await ask('/filters', { method: 'POST', body: deep }))).toBe('400 request-too-deep');
    const text = JSON.stringify({ rule: `{code}${'['.repeat(150)}` });
    expect((await ask('/naming-rule', { method: 'PUT', body: text })).status).toBe(200);
  });

  it('lose none of ten files that are given at once, whatever they say they are', async () => {
    // Files are taken while it is open what goes.
    await noteStep(moveId, 'fetch', 'done', 'x');
    await noteStep(moveId, 'look', 'done', 'x');
    const give = (name: string, type: string) =>
      fetch(`${app.base}/moves/${moveId}/given?name=${name}`, {
        method: 'POST',
        headers: { cookie: admin, 'content-type': type },
        body: `{"file":"${name}"}`,
      });
    const answers = await Promise.all(
      Array.from({ length: 10 }, (_, i) => give(`sheet-${i}.json`, i % 2 === 0 ? 'application/json' : 'text/plain')),
    );
    expect(answers.map((a) => a.status)).toEqual(Array<number>(10).fill(200));
    const { files } = await readDocument(moveId, 'supplies');
    expect(Object.keys(files).length).toBe(10);
    for (const [name, sha256] of Object.entries(files))
      expect(await services.store.size(sha256))
        .withContext(name)
        .toBeGreaterThan(10);
    await MoveStepRow.destroy({ where: { moveId } });
  });

  it('take what leaves most of a large course out, which is longer than anything else that is sent', async () => {
    const leftOut = Array.from({ length: 100_000 }, (_, i) => `item-of-a-long-course-${i}`);
    const sent = await ask(`/moves/${moveId}/selection`, { method: 'PUT', body: { leftOut, hiddenUntil: null } });
    // It was read: what is refused is that the course was not looked into yet.
    expect(await problemOf(sent)).toBe('422 tidy-closed');
    const elsewhere = await ask('/naming-rule', { method: 'PUT', body: { leftOut } });
    expect(await problemOf(elsewhere)).toBe('413 request-too-long');
  });

  it('give passwords of what was sent to who may read its report, and write down that they did', async () => {
    const course = {
      title: 'Repair',
      origin: { format: 'quernhold', version: '4', untouched: true },
      metadata: { keywords: [] },
      outline: [],
      files: [],
      items: ['bowline', '', null].map((password, i) => ({
        ...{ kind: 'quiz', id: `q${i}`, title: `Test ${i}`, definitionPath: null, questions: [] },
        settings: password === null ? {} : { password },
      })),
    };
    await writeDocument(moveId, 'working', { course: course as unknown as Course, mended: [], failed: [] });
    await MoveDocument.create({ moveId, kind: 'report', content: REPORT, writtenAt: new Date() });
    const shown = async (as: string) => ask(`/reports/${moveId}/passwords`, { method: 'POST', as, body: {} });
    expect(await (await shown(admin)).json()).toEqual([{ title: 'Test 0', password: 'bowline' }]);
    expect(await AuditEntry.count({ where: { act: 'passwords shown', subject: `move ${moveId}` } })).toBe(1);
    // Nor does the report itself say them.
    expect(await (await ask(`/reports/${moveId}`)).text()).not.toContain('bowline');
    expect(await problemOf(await shown(instructor))).toBe('404 not-found');
    expect(await problemOf(await shown(''))).toBe('401 sign-in-needed');
    expect(await AuditEntry.count({ where: { act: 'passwords shown' } })).toBe(1);
    await MoveDocument.destroy({ where: { moveId } });
  });

  it('say what is wrong with a request, and never what went wrong inside', async () => {
    expect(await problemOf(await ask('/moves/first'))).toBe('400 invalid-request');
    expect(await problemOf(await ask('/moves/99999'))).toBe('404 not-found');
    expect(await problemOf(await ask('/moves', { method: 'POST', body: { courseId: 'x' } }))).toBe(
      '400 invalid-request',
    );
    expect(await problemOf(await ask('/moves', { method: 'POST', body: '{"courseId":' }))).toBe('400 invalid-request');
    const long = { name: 'x'.repeat(2_000_000), filter: {} };
    expect(await problemOf(await ask('/filters', { method: 'POST', body: long }))).toBe('413 request-too-long');
    expect(await problemOf(await ask(`/moves/${moveId}/look`))).toBe('409 not-yet');
    expect(await problemOf(await ask(`/moves/${moveId}/ask-outside`, { method: 'POST', body: {} }))).toBe(
      '422 outside-off',
    );
    expect(await problemOf(await ask('/nothing-of-the-kind'))).toBe('404 not-found');
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
