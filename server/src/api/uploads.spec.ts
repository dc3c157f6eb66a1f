import { createHash, randomBytes } from 'node:crypto';
import { mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import type { Sequelize } from 'sequelize';
import * as z from 'zod';
import { configFromEnvironment, type Config } from '../config.ts';
import { AuditEntry, Copy, CourseRow, Job, Move, bindModels } from '../db/index.ts';
import { handlersOf } from '../handlers/index.ts';
import { Worker } from '../jobs/worker.ts';
import { servicesOf } from '../services/context.ts';
import { addInstance } from '../services/instances.ts';
import { addPerson } from '../services/people.ts';
import { cookieOf, testApp, type TestApp } from '../testing/app.ts';
import { testDatabase, until } from '../testing/database.ts';
import { zipOf } from '../testing/moves.ts';
import { CopiesPage, CoursesPage, InstanceSummary, MoveSummary, ProblemDocument } from '../contract/index.ts';

describe('Files that are taken in', () => {
  let sequelize: Sequelize;
  let drop: () => Promise<void>;
  let worker: Worker;
  let app: TestApp;
  let base: string;
  let config: Config;
  let cookie: string;

  beforeAll(async () => {
    const database = await testDatabase();
    sequelize = database.sequelize;
    drop = () => database.drop();
    const folder = await mkdtemp(join(tmpdir(), 'treenail-'));
    config = {
      ...configFromEnvironment({ ...process.env, TREENAIL_DATA: folder, TREENAIL_SECRET: '7'.repeat(64) }),
      uploadBytes: 1 << 20,
    };
    const services = servicesOf(config);
    const log = pino({ level: 'silent' });
    app = await testApp(services);
    ({ base } = app);
    await addPerson('Ada', 'ada@marrowick.example', 'administrator', 'right');
    await addPerson('Ian', 'ian@marrowick.example', 'instructor', 'right');
    worker = new Worker({ sequelize, handlers: handlersOf(services), leaseMs: 5000, restMs: 20, log });
    worker.start();
    cookie = await cookieOf('ada@marrowick.example');
  });
  beforeEach(() => bindModels(sequelize));
  afterAll(async () => {
    await worker.stop();
    await app.close();
    await drop();
    await rm(join(config.uploads, '..'), { recursive: true });
  });

  const tus = (path: string, method: string, headers: Record<string, string>, body?: Buffer, as = cookie) =>
    fetch(new URL(path, base), {
      method,
      headers: { 'Tus-Resumable': '1.0.0', cookie: as, ...headers },
      ...(body ? { body: new Uint8Array(body) } : {}),
    });
  const begin = (size: number, named: Record<string, string>, as = cookie) => {
    const metadata = Object.entries(named).map(([k, v]) => `${k} ${Buffer.from(v).toString('base64')}`);
    return tus(
      '/api/uploads',
      'POST',
      { 'Upload-Length': String(size), 'Upload-Metadata': metadata.join(',') },
      undefined,
      as,
    );
  };
  const send = (at: string, offset: number, body: Buffer) =>
    tus(at, 'PATCH', { 'Upload-Offset': String(offset), 'Content-Type': 'application/offset+octet-stream' }, body);
  /** What of an upload still lies about. */
  const left = async (at: string) => {
    const id = at.split('/').pop() ?? '';
    return (await readdir(config.uploads)).filter((name) => name.startsWith(id));
  };
  const settled = async (id: number) => {
    await until(async () => ['done', 'failed'].includes((await Job.findByPk(id, { rejectOnEmpty: true })).state));
    return Job.findByPk(id, { rejectOnEmpty: true });
  };
  const jobOf = (answer: Response) => Number(answer.headers.get('treenail-job'));
  const named = { fileName: 'knots.zip', code: 'RIG 140', section: '02', term: 'Spring 2027', title: 'Łódź knots' };
  const ask = (path: string, body?: unknown) =>
    fetch(`${base}${path}`, {
      headers: { cookie, 'content-type': 'application/json' },
      ...(body === undefined ? {} : { method: 'POST', body: JSON.stringify(body) }),
    });

  it('are refused before the disk is full, as what it is and with what to do', async () => {
    const reserve = config.reserveBytes;
    config.reserveBytes = Number.MAX_SAFE_INTEGER;
    const refused = await begin(1000, named);
    config.reserveBytes = reserve;
    expect(refused.status).toBe(507);
    const { code, action } = ProblemDocument.parse(await refused.json());
    expect([code, action.length > 10]).toEqual(['disk-full', true]);
    expect((await begin(1000, named)).status).toBe(201);
  });

  it('arrive in parts, are kept as they came, and their course can be moved without a platform', async () => {
    const zip = await zipOf({ 'index.html': '<title>Knots</title><p>x</p>', 'big.bin': randomBytes(200_000) });
    const begun = await begin(zip.length, named);
    expect(begun.status).toBe(201);
    const at = begun.headers.get('location') ?? '';
    const half = Math.floor(zip.length / 2);
    expect((await send(at, 0, zip.subarray(0, half))).status).toBe(204);
    const asked = await tus(at, 'HEAD', {});
    expect(asked.headers.get('upload-offset')).toBe(String(half));
    // What was sent before is not taken twice.
    expect((await send(at, 0, zip)).status).toBe(409);
    const last = await send(at, half, zip.subarray(half));
    const job = await settled(jobOf(last));
    expect([job.state, job.words]).toEqual(['done', 'kept in the strongroom']);
    const all = CopiesPage.parse(await (await ask('/copies')).json()).rows;
    const copies = all.filter((c) => c.title === named.title);
    expect(copies.map((c) => [c.title, c.from, c.format, c.items])).toEqual([
      ['Łódź knots', 'Files', 'Folder of pages', 2],
    ]);
    expect(copies[0]?.fileName).toMatch(/^RIG140-02_2027-Spring_Łódź-knots_\d{4}-\d\d-\d\d\.zip$/);
    const back = Buffer.from(await (await ask(`/copies/${copies[0]?.id}/file`)).arrayBuffer());
    expect(createHash('sha256').update(back).digest('hex')).toBe(createHash('sha256').update(zip).digest('hex'));
    expect(await left(at)).toEqual([]);
    expect(await AuditEntry.count({ where: { act: 'file taken in', subject: named.fileName } })).toBeGreaterThan(0);

    const courses = CoursesPage.parse(await (await ask('/courses?limit=1000')).json()).rows;
    const course = courses.find((c) => c.title === named.title && c.instance.platform === 'files');
    const shore = await addInstance(config.secret, {
      name: 'New',
      platform: 'tarnhall',
      baseUrl: 'http://127.0.0.1:1',
      credential: 't',
    });
    const noCopy = await ask('/moves', { courseId: course?.id, destinationId: shore.id });
    expect(noCopy.status).toBe(404);
    const started = await ask('/moves', { courseId: course?.id, destinationId: shore.id, copyId: copies[0]?.id });
    const move = MoveSummary.parse(await started.json());
    expect([move.at, move.copy?.id, move.jobs.map((j) => j.kind)]).toEqual(['look', copies[0]?.id, ['look']]);
    const [look] = move.jobs;
    expect((await settled(look?.id ?? 0)).state).toBe('done');
    expect(z.array(InstanceSummary).parse(await (await ask('/instances')).json()).length).toBe(2);
  });

  it('are not given out as good once they are rotten: the download ends, the copy says so, the good file heals it', async () => {
    const zip = await zipOf({ 'rot.html': '<title>Rot</title>', 'rot.bin': randomBytes(100_000) });
    const title = 'Rot';
    const bring = async () => {
      const at = (await begin(zip.length, { ...named, title })).headers.get('location') ?? '';
      expect((await settled(jobOf(await send(at, 0, zip)))).state).toBe('done');
    };
    const copyNow = async () => {
      const copies = CopiesPage.parse(await (await ask('/copies')).json()).rows;
      const copy = copies.find((c) => c.title === title);
      if (!copy) throw new Error('the copy is not listed');
      return copy;
    };
    await bring();
    const { id, sha256 } = await copyNow();
    const path = join(config.blobs, sha256.slice(0, 2), sha256);
    const bytes = await readFile(path);
    const rotten = Buffer.from(bytes);
    rotten[50_000] = (rotten[50_000] ?? 0) ^ 1;
    await writeFile(path, rotten);
    for (const headers of [{}, { range: 'bytes=0-' }]) {
      const answer = await fetch(new URL(`/api/copies/${id}/file`, base), { headers: { cookie, ...headers } });
      expect(answer.status).toBe(500);
      expect(ProblemDocument.parse(await answer.json()).code).toBe('copy-damaged');
    }
    await until(async () => (await copyNow()).damagedAt !== null);
    await bring();
    const healed = await copyNow();
    expect([healed.id, healed.damagedAt]).toEqual([id, null]);
    const answer = await ask(`/copies/${id}/file`);
    expect(answer.headers.get('content-encoding')).toBeNull();
    expect(Buffer.from(await answer.arrayBuffer()).equals(bytes)).toBeTrue();
  });

  it('make one copy of the same file sent twice, and two courses of two names', async () => {
    const zip = await zipOf({ 'a.html': '<title>A</title>' });
    for (const title of ['One', 'One', 'Two']) {
      const at = (await begin(zip.length, { ...named, title })).headers.get('location') ?? '';
      expect((await settled(jobOf(await send(at, 0, zip)))).state).toBe('done');
    }
    const sha256 = createHash('sha256').update(zip).digest('hex');
    expect((await Copy.findAll({ where: { sha256 } })).map((c) => c.title).sort()).toEqual(['One', 'Two']);
    expect(await CourseRow.count({ where: { title: ['One', 'Two'] } })).toBe(2);
  });

  it('are refused with what to do when they are no package, and leave nothing behind', async () => {
    const at = (await begin(9, { ...named, fileName: 'notes.pdf' })).headers.get('location') ?? '';
    const job = await settled(jobOf(await send(at, 0, Buffer.from('%PDF-1.7\n'))));
    expect([job.state, job.problem?.code]).toEqual(['failed', 'not-a-zip']);
    expect(await left(at)).toEqual([]);
  });

  it('take a killed worker that had already moved the file', async () => {
    const zip = await zipOf({ 'b.html': '<title>B</title>' });
    const sha256 = createHash('sha256').update(zip).digest('hex');
    const before = await Move.count();
    const at = (await begin(zip.length, { ...named, title: 'Moved' })).headers.get('location') ?? '';
    const id = jobOf(await send(at, 0, zip));
    await settled(id);
    await Copy.destroy({ where: { sha256 } });
    await Job.update({ state: 'queued', runAfter: new Date() }, { where: { id } });
    expect((await settled(id)).state).toBe('done');
    expect(await Copy.count({ where: { sha256 } })).toBe(1);
    expect(await Move.count()).toBe(before);
  });

  it('may not be longer than is set, nor come from nobody or an instructor', async () => {
    expect((await begin(2 << 20, named)).status).toBe(413);
    expect((await begin(10, { fileName: '' })).status).toBe(400);
    expect((await begin(10, { fileName: 'x.zip', code: '', term: '' })).status).toBe(201);
    expect((await begin(10, named, '')).status).toBe(401);
    expect((await begin(10, named, await cookieOf('ian@marrowick.example'))).status).toBe(403);
  });
});
