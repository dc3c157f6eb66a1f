import { mkdtemp, rm, writeFile, readdir } from 'node:fs/promises';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readCourse } from '@treenail/core';
import { fileSource } from '@treenail/core/node';
import pino from 'pino';
import type { Sequelize } from 'sequelize';
import { createApp } from '../api/app.ts';
import type { Config } from '../config.ts';
import { AuditEntry, CourseRow, Instance, Job, Move, MoveDocument, User } from '../db/models/index.ts';
import { bindModels, migrate, migrations } from '../db/index.ts';
import { explainLog } from '../platforms/tarnhall/log.ts';
import { DiskStore } from '../store/blob-store.ts';
import { testDatabase } from '../testing/database.ts';
import { REPORT } from '../testing/moves.ts';
import { servicesOf } from './context.ts';
import { createMove } from './move-rows.ts';
import { startMove } from './moves.ts';
import { withSource } from './packages.ts';
import { addInstance, openCredential, sealCredential } from './instances.ts';
import { addPerson, personOf, signIn, signOut } from './people.ts';
import { writeListing } from './register.ts';

const secret = Buffer.alloc(32, 7);

describe('Credentials', () => {
  it('can be opened with the secret only, and never look alike', () => {
    const sealed = sealCredential(secret, 'token');
    expect(openCredential(secret, sealed)).toBe('token');
    expect(sealCredential(secret, 'token').equals(sealed)).toBeFalse();
    expect(() => openCredential(Buffer.alloc(32, 8), sealed)).toThrow();
    expect(sealed.includes('token')).toBeFalse();
  });
});

describe('The log of Tarnhall', () => {
  it('is told in plain words, with the item that a line means', () => {
    expect(explainLog('T-322 FIL q101-36 cp?')).toEqual({
      line: 'T-322 FIL q101-36 cp?',
      words: 'A file was left out because of characters in its name.',
      item: 'q101-36',
    });
    expect(explainLog('T-777 WHAT')).toEqual({ line: 'T-777 WHAT', words: null, item: null });
  });
});

describe('The blob store', () => {
  it('holds the same bytes once, and gives them back', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'treenail-'));
    try {
      const store = new DiskStore(join(folder, 'blobs'));
      const put = async (name: string) => {
        await writeFile(join(folder, name), 'the bytes');
        return store.putFile(join(folder, name));
      };
      const [a, b] = [await put('a'), await put('b')];
      expect(a).toEqual(b);
      expect(a.size).toBe(9);
      expect(await readdir(folder)).toEqual(['blobs']);
      const source = await store.open(a.sha256);
      expect(Buffer.from(await source.read(4, 5)).toString()).toBe('bytes');
      await source.close();
      expect(() => store.stream('../../etc/passwd')).toThrow();
    } finally {
      await rm(folder, { recursive: true });
    }
  });
});

describe('The HTTP interface', () => {
  let sequelize: Sequelize;
  let drop: () => Promise<void>;
  let server: Server;
  let close: () => void;
  let base: string;
  let folder: string;
  let config: Config;

  beforeAll(async () => {
    const database = await testDatabase();
    sequelize = database.sequelize;
    drop = () => database.drop();
    folder = await mkdtemp(join(tmpdir(), 'treenail-'));
    config = {
      port: 0,
      blobs: join(folder, 'blobs'),
      scratch: join(folder, 'scratch'),
      uploads: join(folder, 'uploads'),
      uploadBytes: 1 << 20,
      reserveBytes: 0,
      limits: {},
      secret,
      web: null,
      pollMs: 50,
      leaseMs: 1000,
      hangMs: 60_000,
      jobMs: 60_000,
      homeNets: '127.0.0.0/8',
      zone: 'Europe/London',
      smtp: null,
      address: 'http://127.0.0.1',
      mailAfterMs: 60_000,
      playPort: 0,
      playAddress: 'http://localhost:0',
      examplesAt: null,
      askOutside: true,
      log: 'silent',
      db: { host: '', port: 0, name: '', user: '', password: '' },
    };
    const { app, events } = createApp(servicesOf(config), pino({ level: 'silent' }));
    server = app.listen(0, '127.0.0.1');
    await new Promise((done) => server.once('listening', done));
    close = () => events.close();
    base = `http://127.0.0.1:${(server.address() as AddressInfo).port}/api`;
    await addPerson('Ada', 'ada@marrowick.example', 'administrator', 'right');
    await addPerson('Ian', 'ian@marrowick.example', 'instructor', 'right');
    await addInstance(secret, { name: 'Live', platform: 'quernhold', baseUrl: 'http://127.0.0.1:1', credential: 't' });
    await addInstance(secret, { name: 'Away', platform: 'oxlea', baseUrl: 'http://127.0.0.1:1', credential: 't' });
    await addInstance(secret, { name: 'New', platform: 'tarnhall', baseUrl: 'http://127.0.0.1:1', credential: 't' });
  });
  beforeEach(async () => {
    bindModels(sequelize);
    for (const table of ['moves', 'jobs', 'audit']) await sequelize.query(`DELETE FROM ${table}`);
    const live = await Instance.findOne({ where: { name: 'Live' }, rejectOnEmpty: true });
    const listed = {
      section: '01',
      term: 'Autumn 2026',
      size: 10,
      changedAt: new Date('2026-11-01T00:00:00Z'),
      parts: 3,
    };
    await writeListing(live.id, [
      { ...listed, remoteId: 'c1', code: 'AAA 1', title: 'First', owner: 'ian@marrowick.example' },
      { ...listed, remoteId: 'c2', code: 'BBB 2', title: 'Second', owner: 'other@marrowick.example' },
    ]);
  });
  afterAll(async () => {
    close();
    server.closeAllConnections();
    await new Promise((done) => server.close(done));
    await drop();
    await rm(folder, { recursive: true });
  });

  const cookieOf = async (email: string) => {
    const answer = await fetch(`${base}/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ email, password: 'right' }),
    });
    const cookie = answer.headers.get('set-cookie') ?? '';
    expect(cookie).toMatch(/HttpOnly; SameSite=Strict/);
    return cookie.split(';')[0] ?? '';
  };
  const ask = (cookie: string, path: string, body?: unknown) =>
    fetch(base + path, {
      headers: { cookie, 'content-type': 'application/json' },
      ...(body === undefined ? {} : { method: 'POST', body: JSON.stringify(body) }),
    });

  /** A move of the first course, as the service begins it. */
  const someMove = async () => {
    const course = await CourseRow.findOne({ where: { remoteId: 'c1' }, rejectOnEmpty: true });
    const destination = await Instance.findOne({ where: { name: 'New' }, rejectOnEmpty: true });
    const ada = await User.findOne({ where: { email: 'ada@marrowick.example' }, rejectOnEmpty: true });
    const { moveId } = await startMove(
      { id: ada.id, name: 'Ada', email: ada.email, role: 'administrator' },
      { courseId: course.id, destinationId: destination.id },
    );
    return Move.findByPk(moveId, { rejectOnEmpty: true });
  };

  it('migrates down and up again', async () => {
    const other = await testDatabase();
    await migrations(other.sequelize).down({ to: 0 });
    await migrations(other.sequelize).up();
    expect((await migrations(other.sequelize).pending()).length).toBe(0);
    await other.drop();
  });

  it('migrates once though two begin at once, and ends well where one was killed in its middle', async () => {
    const other = await testDatabase();
    await migrations(other.sequelize).down({ to: 0 });
    await Promise.all([migrate(other.sequelize), migrate(other.sequelize)]);
    expect((await migrations(other.sequelize).pending()).length).toBe(0);
    // As if each had been killed after its last step and before that was written down.
    await other.sequelize.query('DELETE FROM sequelize_meta');
    await migrate(other.sequelize);
    expect((await migrations(other.sequelize).pending()).length).toBe(0);
    await other.drop();
  });

  it('lets nobody in without a session, and says so as a problem document', async () => {
    for (const path of ['/courses', '/moves', '/reports', '/events', '/copies/1/file']) {
      const answer = await fetch(base + path);
      expect(answer.status).withContext(path).toBe(401);
      expect(answer.headers.get('content-type')).toContain('application/problem+json');
      expect(((await answer.json()) as { code: string }).code).toBe('sign-in-needed');
    }
  });

  it('refuses a wrong password and an unknown address alike', async () => {
    for (const email of ['ada@marrowick.example', 'nobody@marrowick.example']) {
      const answer = await fetch(`${base}/session`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ email, password: 'wrong' }),
      });
      expect(answer.status).toBe(401);
      expect(((await answer.json()) as { code: string }).code).toBe('sign-in-refused');
    }
  });

  it('ends a session when the person signs out', async () => {
    const { token } = await signIn('ada@marrowick.example', 'right');
    expect((await personOf(token))?.name).toBe('Ada');
    await signOut(token);
    expect(await personOf(token)).toBeNull();
    const stored = await User.findOne({ where: { email: 'ada@marrowick.example' }, rejectOnEmpty: true });
    expect(stored.passwordHash).toMatch(/^\$argon2id\$/);
  });

  it('keeps every version of a description, refuses a wrong or an overtaken one, and reads archives by the newest', async () => {
    const cookie = await cookieOf('ada@marrowick.example');
    const text = `description: 1
id: satchel
name: Satchel
version: '1'
fits: { file: satchel.json }
container: { document: satchel.json, begins: '{"satchel"' }
course: { find: { in: satchel.json }, title: $.satchel }
outline:
  - { find: '$.papers[*]', kind: page, id: $.n, title: $.n, text: $.t }
`;
    const keep = async (more: object) => {
      const answer = await ask(cookie, '/descriptions', { text, inUse: true, note: '', after: 0, ...more });
      return (await answer.json()) as { code?: string; line?: number; versions?: { version: number }[] };
    };
    const wrong = await keep({ text: text.replace('kind: page', 'kindly: page') });
    expect([wrong.code, wrong.line]).toEqual(['description-malformed', 9]);
    expect((await keep({})).versions?.map((v) => v.version)).toEqual([1]);
    expect((await keep({ after: 1 })).versions?.length).toBe(1);
    expect((await keep({ text: `${text}# again` })).code).toBe('version-taken');
    const archive = join(folder, 'knots.satchel');
    await writeFile(archive, JSON.stringify({ satchel: 'Knots', papers: [{ n: 'one', t: 'bowline' }] }));
    const read = async () => withSource(servicesOf(config), await fileSource(archive), readCourse);
    const { course } = await read();
    expect([course.title, course.origin.version, course.items[0]?.kind]).toEqual(['Knots', 'Satchel 1', 'page']);
    expect((await keep({ after: 1, inUse: false, note: 'not yet' })).versions?.length).toBe(2);
    await expectAsync(read()).toBeRejected();
    const listed = (await (await ask(cookie, '/descriptions')).json()) as { archive: string; inUse: boolean }[];
    expect(listed.map((d) => [d.archive, d.inUse])).toEqual([['satchel', false]]);
    expect(
      (await ask(await cookieOf('ian@marrowick.example'), '/descriptions', { text, inUse: true, note: '', after: 2 }))
        .status,
    ).toBe(403);
  });

  it('makes one move and one fetch of two presses at once', async () => {
    const cookie = await cookieOf('ada@marrowick.example');
    const course = await CourseRow.findOne({ where: { remoteId: 'c1' }, rejectOnEmpty: true });
    const destination = await Instance.findOne({ where: { name: 'New' }, rejectOnEmpty: true });
    const asked = { courseId: course.id, destinationId: destination.id };
    const answers = await Promise.all([1, 2, 3, 4].map(() => ask(cookie, '/moves', asked)));
    expect(answers.every((a) => a.ok)).toBeTrue();
    const moves = await Promise.all(answers.map((a) => a.json() as Promise<{ id: number }>));
    expect(new Set(moves.map((m) => m.id)).size).toBe(1);
    expect(await Move.count()).toBe(1);
    expect(await Job.count({ where: { kind: 'fetch' } })).toBe(1);
    expect(await AuditEntry.count({ where: { act: 'move started' } })).toBe(1);
  });

  it('refuses what is out of order or of the wrong kind, with a sentence', async () => {
    const cookie = await cookieOf('ada@marrowick.example');
    const move = await someMove();
    const deliver = await ask(cookie, `/moves/${move.id}/deliver`, { section: '02', term: 'Spring 2027', title: 'T' });
    expect(deliver.status).toBe(409);
    expect(await Job.count({ where: { kind: 'deliver' } })).toBe(0);
    expect((await ask(cookie, `/moves/${move.id}/accept`, {})).status).toBe(409);
    expect((await ask(cookie, '/moves/9999')).status).toBe(404);
    expect((await ask(cookie, '/moves', { courseId: 'x' })).status).toBe(400);
    const away = await Instance.findOne({ where: { name: 'Away' }, rejectOnEmpty: true });
    const course = await CourseRow.findOne({ where: { remoteId: 'c2' }, rejectOnEmpty: true });
    expect((await ask(cookie, '/moves', { courseId: course.id, destinationId: away.id })).status).toBe(422);
  });

  it('lets an instructor read the reports of own courses and nothing else', async () => {
    const other = await CourseRow.findOne({ where: { remoteId: 'c2' }, rejectOnEmpty: true });
    const destination = await Instance.findOne({ where: { name: 'New' }, rejectOnEmpty: true });
    const own = await someMove();
    const foreign = await createMove({
      courseId: other.id,
      destinationId: destination.id,
      createdBy: own.createdBy,
      createdAt: new Date(),
      openKey: null,
      copyId: null,
    });
    for (const move of [own, foreign])
      await MoveDocument.create({ moveId: move.id, kind: 'report', content: REPORT, writtenAt: new Date() });
    const cookie = await cookieOf('ian@marrowick.example');
    const reports = (await (await ask(cookie, '/reports')).json()) as { moveId: number }[];
    expect(reports.map((r) => r.moveId)).toEqual([own.id]);
    expect((await ask(cookie, `/reports/${own.id}`)).status).toBe(200);
    expect((await ask(cookie, `/reports/${own.id}/csv`)).headers.get('content-disposition')).toContain(
      'x_transfer-report.csv',
    );
    expect((await ask(cookie, `/reports/${foreign.id}`)).status).toBe(404);
    for (const path of ['/courses', '/moves', '/copies', '/events', '/search?q=first']) {
      expect((await ask(cookie, path)).status)
        .withContext(path)
        .toBe(403);
    }
  });

  it('finds courses and moves, and takes wild cards as letters', async () => {
    const cookie = await cookieOf('ada@marrowick.example');
    await someMove();
    const find = async (q: string) =>
      (
        (await (await ask(cookie, `/search?q=${encodeURIComponent(q)}`)).json()) as { kind: string; title: string }[]
      ).map((f) => `${f.kind} ${f.title}`);
    expect(await find('aaa 1-01')).toEqual(['course AAA 1-01 First', 'move AAA 1-01 First']);
    expect(await find('%%')).toEqual([]);
  });

  it('lists platforms whose tokens can not be opened, says so, and lets them be entered again', async () => {
    const cookie = await cookieOf('ada@marrowick.example');
    const live = await Instance.findOne({ where: { name: 'Live' }, rejectOnEmpty: true });
    const { credential } = live;
    await live.update({ credential: sealCredential(Buffer.alloc(32, 9), 't') });
    const answer = await ask(cookie, '/platforms');
    const listed = (await answer.json()) as { name: string; forms: object[]; health: { problem: string } | null }[];
    const shown = listed.find((p) => p.name === 'Live');
    expect([answer.status, shown?.forms.length]).toEqual([200, 2]);
    expect(shown?.health?.problem).toContain('the key of this Treenail is another');
    const parts = await ask(cookie, `/platforms/${live.id}/exports`);
    expect(((await parts.json()) as { code: string }).code).toBe('key-wrong');
    await live.update({ credential });
  });

  it('cuts what a platform calls its courses to the room there is, and says which it can not list', async () => {
    const live = await Instance.findOne({ where: { name: 'Live' }, rejectOnEmpty: true });
    const listed = { section: '01', term: 'T'.repeat(90), size: 1, changedAt: new Date(), parts: 1, owner: '' };
    await writeListing(live.id, [
      { ...listed, remoteId: 'long', code: 'C'.repeat(80), title: `${'x'.repeat(498)}😀😀` },
      { ...listed, remoteId: 'y'.repeat(200), code: 'D', title: 'unlistable' },
    ]);
    const row = await CourseRow.findOne({ where: { remoteId: 'long' }, rejectOnEmpty: true });
    expect([row.code.length, row.term.length, row.title.length <= 500]).toEqual([60, 60, true]);
    expect(row.title).toMatch(/^x+…$/);
    expect((await live.reload()).trouble).toContain('1 courses have identifiers longer than');
  });

  it('keeps a course that is gone at its platform while a move speaks of it', async () => {
    await someMove();
    const live = await Instance.findOne({ where: { name: 'Live' }, rejectOnEmpty: true });
    await writeListing(live.id, [
      {
        remoteId: 'c3',
        code: 'CCC 3',
        section: '01',
        term: 'T',
        title: 'Third',
        owner: '',
        size: 1,
        changedAt: new Date(),
        parts: null,
      },
    ]);
    expect((await CourseRow.findAll({ where: { instanceId: live.id } })).map((c) => c.remoteId).sort()).toEqual([
      'c1',
      'c3',
    ]);
  });
});
