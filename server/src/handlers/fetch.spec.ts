import { JOBS } from '../jobs/definitions.ts';
import type { CourseLink, Finding } from '@treenail/core';
import { randomBytes } from 'node:crypto';
import { mkdtemp, readdir, rm, stat } from 'node:fs/promises';
import { createServer, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buffer } from 'node:stream/consumers';
import { configFromEnvironment } from '../config.ts';
import type { Person } from '../contract/index.ts';
import { Copy, CourseRow, DecisionRow, Job, JobStep, Move, User } from '../db/models/index.ts';
import { servicesOf, type Services } from '../services/context.ts';
import { PLAIN } from '../contract/index.ts';
import { addInstance } from '../services/instances.ts';
import { useLinked } from '../services/linked.ts';
import { addPerson } from '../services/people.ts';
import { removeCopy } from '../services/strongroom.ts';
import { supplied } from '../services/supplies.ts';
import { testDatabase, until } from '../testing/database.ts';
import { zipOf } from '../testing/moves.ts';
import { enqueue } from '../jobs/queue.ts';
import type { JobContext } from '../jobs/worker.ts';
import { fetchCourse } from './fetch.ts';
import { createMove } from '../services/move-rows.ts';

const MANIFEST = `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imsccv1p1/imscp_v1p1"
  xmlns:lom="http://ltsc.ieee.org/xsd/imsccv1p1/LOM/manifest"><metadata><schema>IMS Common Cartridge</schema>
<schemaversion>1.1.0</schemaversion><lom:lom><lom:general><lom:title><lom:string>Repair</lom:string></lom:title></lom:general></lom:lom></metadata>
<organizations><organization identifier="o" structure="rooted-hierarchy"><item identifier="r"><item identifier="i" identifierref="f"><title>A film</title></item></item></organization></organizations>
<resources><resource identifier="f" type="webcontent" href="film.mp4"><file href="film.mp4"/></resource></resources></manifest>`;

const HOME = 'https://old.example';
/** A cartridge of one page that links to these addresses. */
const linking = (...addresses: string[]) =>
  zipOf({
    'imsmanifest.xml': MANIFEST.replaceAll('film.mp4', 'knots.html'),
    'knots.html': addresses.map((a) => `<p><a href="${a}">a sheet</a></p>`).join(''),
    'files/bowline.txt': 'another file of the same name',
  });

describe('A fetch', () => {
  let folder: string;
  let drop: () => Promise<void>;
  let platform: Server;
  let services: Services;
  let course: CourseRow;
  let film: Buffer;
  /** What the platform sends. */
  let zip: Buffer;
  /** Downloads that the platform was asked for and has not answered yet, with the byte that they begin at. */
  let downloads: { from: number; res: ServerResponse }[];
  let asked: string[];
  let bundle: { bundle: string; course: string; state: string; ahead: number; percent: number; bytes: number };
  let admin: Person;

  beforeAll(async () => {
    const database = await testDatabase();
    drop = () => database.drop();
    folder = await mkdtemp(join(tmpdir(), 'treenail-'));
    film = await zipOf({ 'imsmanifest.xml': MANIFEST, 'film.mp4': randomBytes(400_000) });
    bundle = { bundle: 'B1', course: 'c1', state: 'ready', ahead: 0, percent: 100, bytes: 0 };
    platform = createServer((req, res) => {
      const { url = '', method = '' } = req;
      asked.push(`${method} ${url}`);
      if (url === '/api/bundles/B1/file') {
        const from = Number(/bytes=(\d+)/.exec(req.headers.range ?? '')?.[1] ?? 0);
        res.writeHead(from > 0 ? 206 : 200, { 'content-length': zip.length - from });
        downloads.push({ from, res });
      } else if (url === '/api/about') res.end(JSON.stringify({ queue: 0, each: 1, home: HOME }));
      else if (url === '/api/repository/knots/bowline.txt') res.end('over, under and through');
      else if (url === '/api/repository/knots/broken.txt') res.socket?.destroy();
      else if (url.startsWith('/api/repository/') || url === '/api/courses') res.writeHead(404).end();
      else if (url.startsWith('/api/bundles?')) res.end(JSON.stringify({ bundles: [] }));
      else res.end(JSON.stringify(bundle));
    });
    await new Promise<void>((done) => platform.listen(0, '127.0.0.1', done));
    const baseUrl = `http://127.0.0.1:${(platform.address() as AddressInfo).port}`;
    const scratch = join(folder, 'scratch');
    const config = { ...configFromEnvironment(), blobs: join(folder, 'blobs'), scratch, smtp: null };
    services = servicesOf(config);
    const old = await addInstance(config.secret, { name: 'Old', platform: 'quernhold', baseUrl, credential: 't' });
    await addPerson('Ada', 'ada@marrowick.example', 'administrator', 'right');
    const { id, name, email } = await User.findOne({ rejectOnEmpty: true });
    admin = { id, name, email, role: 'administrator' };
    const named = { code: 'BTB 210', section: '01', term: 'Autumn 2026', title: 'Repair', owner: '', size: 1 };
    course = await CourseRow.create({ ...named, instanceId: old.id, remoteId: 'c1', changedAt: new Date(), parts: 3 });
  });
  beforeEach(async () => {
    zip = film;
    bundle.bytes = zip.length;
    downloads = [];
    asked = [];
    await Move.destroy({ where: {} });
    await Copy.destroy({ where: {} });
    await rm(join(folder, 'blobs'), { recursive: true, force: true });
    await rm(join(folder, 'scratch'), { recursive: true, force: true });
  });
  afterAll(async () => {
    platform.closeAllConnections();
    await new Promise((done) => platform.close(done));
    await drop();
    await rm(folder, { recursive: true });
  });

  const fetchJob = (key: string) =>
    enqueue({
      kind: 'fetch',
      ...{ key, course: 'BTB 210', moveId: null, courseId: course.id },
      input: { round: 0, options: { ...PLAIN, form: 'standard', removeAfter: false } },
    });
  /** As a worker would run it that does not know of the other: nothing of it stops. */
  const contextOf = (job: Job): JobContext => ({
    job,
    signal: new AbortController().signal,
    step: (_name, _result, work) => work(),
    report: async () => undefined,
    later() {
      throw new Error('nothing has to be waited for');
    },
  });
  /** Does the job as it stands, in a context of its own. */
  const run = (job: Job, context = contextOf(job)) =>
    fetchCourse(services).run(context, JOBS.fetch.input.parse(job.input));
  const partOf = async () => join(folder, 'scratch', (await readdir(join(folder, 'scratch')))[0] ?? '');
  const arrived = (bytes: number) =>
    until(async () =>
      stat(await partOf()).then(
        (s) => s.size === bytes,
        () => false,
      ),
    );
  const kept = async () => {
    const copies = await Copy.findAll();
    return { copies, bytes: copies[0] ? await buffer(services.store.stream(copies[0].sha256)) : Buffer.alloc(0) };
  };

  it('is kept whole though a worker that stalled goes on writing beside the one that has its job', async () => {
    const job = await fetchJob('fetch:stalled');
    const [half, later] = [Math.floor(zip.length / 2), Math.floor((zip.length * 3) / 4)];
    const stalled = run(job);
    await until(async () => downloads.length === 1);
    downloads[0]?.res.write(zip.subarray(0, half));
    await arrived(half);
    // Another worker takes the job, and goes on from what is there.
    const other = run(await Job.findByPk(job.id, { rejectOnEmpty: true }));
    await until(async () => downloads.length === 2);
    expect(downloads[1]?.from).toBe(half);
    downloads[0]?.res.write(zip.subarray(half, later));
    await arrived(later);
    downloads[1]?.res.end(zip.subarray(half));
    await other;
    downloads[0]?.res.end(zip.subarray(later));
    // What became of the one that had lost the job is nobody's concern.
    await stalled.catch(() => undefined);
    const { copies, bytes } = await kept();
    expect([copies.length, copies[0]?.size]).toEqual([1, zip.length]);
    expect(Buffer.compare(bytes, zip)).toBe(0);
  });

  it('takes its export back and lets go of what has arrived when it is called off, and begins anew when asked again', async () => {
    const job = await fetchJob('fetch:off');
    const begun = run(job);
    await until(async () => downloads.length === 1);
    downloads[0]?.res.write(zip.subarray(0, 1000));
    await arrived(1000);
    downloads[0]?.res.destroy();
    await expectAsync(begun).toBeRejected();
    await JobStep.create({ jobId: job.id, name: 'ask-0-0', result: 'B1', finishedAt: new Date() });
    await fetchCourse(services).calledOff?.(contextOf(job), JOBS.fetch.input.parse(job.input));
    expect(asked.at(-1)).toBe('DELETE /api/bundles/B1');
    expect(await readdir(join(folder, 'scratch'))).toEqual([]);
    expect(await JobStep.count({ where: { jobId: job.id } })).toBe(0);
  });

  it('goes on from where the line broke, and keeps what it was sent to the byte', async () => {
    const job = await fetchJob('fetch:cut');
    const first = run(job);
    await until(async () => downloads.length === 1);
    downloads[0]?.res.write(zip.subarray(0, 1000));
    await arrived(1000);
    downloads[0]?.res.destroy();
    await expectAsync(first).toBeRejected();
    const second = run(job);
    await until(async () => downloads.length === 2);
    expect(downloads[1]?.from).toBe(1000);
    downloads[1]?.res.end(zip.subarray(1000));
    await second;
    const { copies, bytes } = await kept();
    expect(copies.map((c) => [c.title, c.format, c.form])).toEqual([['Repair', 'Common Cartridge 1.1', 'standard']]);
    // What such a package lacks stands with it; of the three things that the platform counts, one was read.
    expect([copies[0]?.counted, copies[0]?.shown]).toEqual([3, 1]);
    expect(copies[0]?.lacks).toContain('due dates');
    expect(Buffer.compare(bytes, zip)).toBe(0);
    expect(await readdir(join(folder, 'scratch'))).toEqual([]);
    expect(asked.filter((a) => a.startsWith('DELETE'))).toEqual([]);
  });

  describe('of a course whose pages link to files that courses share', () => {
    const fetched = async (key: string, whole: Buffer, copyLinked = true) => {
      zip = whole;
      bundle.bytes = whole.length;
      const job = await fetchJob(key);
      await job.update({
        input: { round: 0, options: { ...PLAIN, form: 'standard', removeAfter: false, copyLinked } },
      });
      const said: (string | undefined)[] = [];
      const context = { ...contextOf(job), report: async ({ words }: { words?: string }) => void said.push(words) };
      const done = run(job, context);
      await until(async () => downloads.length === 1);
      downloads[0]?.res.end(whole);
      await done;
      return { copy: await Copy.findOne({ rejectOnEmpty: true }), words: said.at(-1) };
    };

    it('keeps them beside it, says how many came and why others could not, and is kept as it was sent', async () => {
      const whole = await linking(
        ...['bowline.txt', 'bowline.txt', 'gone.txt', 'broken.txt', '../../api/courses'].map(
          (name) => `${HOME}/repository/knots/${name}`,
        ),
        'https://elsewhere.example/x.pdf',
      );
      const { copy, words } = await fetched('fetch:linked', whole);
      expect(words).toContain('with 1 linked file beside it and 3 that could not be had');
      expect(copy.linked?.came.map((f) => [f.address, f.size])).toEqual([[`${HOME}/repository/knots/bowline.txt`, 23]]);
      expect(copy.linked?.missing.map((m) => m.address.split('/').at(-1))).toEqual([
        'gone.txt',
        'broken.txt',
        'courses',
      ]);
      for (const { why } of copy.linked?.missing ?? []) expect(why.length).toBeGreaterThan(10);
      expect(new Set(asked.filter((a) => a.includes('/repository/')).map((a) => a.split('/').at(-1)))).toEqual(
        new Set(['bowline.txt', 'gone.txt', 'broken.txt']),
      );
      expect(asked).not.toContain('GET /api/repository/courses');
      const sha256 = copy.linked?.came[0]?.sha256 ?? '';
      expect((await buffer(services.store.stream(sha256))).toString()).toBe('over, under and through');
      expect(Buffer.compare((await kept()).bytes, whole)).toBe(0);
    });

    it('leaves them where they are if that is asked', async () => {
      const { copy, words } = await fetched('fetch:left', await linking(`${HOME}/repository/knots/bowline.txt`), false);
      expect([copy.linked ?? null, words?.includes('linked')]).toEqual([null, false]);
      expect(asked.filter((a) => a.includes('/repository/'))).toEqual([]);
    });

    it('lets go of them with the copy, unless another copy has them too', async () => {
      const whole = await linking(`${HOME}/repository/knots/bowline.txt`);
      const { copy } = await fetched('fetch:removed', whole);
      const other = await Copy.create({
        ...copy.get(),
        id: copy.id + 1,
        sha256: 'f'.repeat(64),
        sourceKey: 'another',
      });
      const sha256 = copy.linked?.came[0]?.sha256 ?? '';
      await removeCopy(services, admin, copy.id, 'no more needed');
      expect([await services.store.has(copy.sha256), await services.store.has(sha256)]).toEqual([false, true]);
      await removeCopy(services, admin, other.id, 'no more needed');
      expect(await services.store.has(sha256)).toBeFalse();
    });

    it('has a move use them: as a decision that can be undone, and of the same bytes only the file it has', async () => {
      const address = `${HOME}/repository/knots/bowline.txt`;
      const { copy } = await fetched('fetch:used', await linking(address));
      const decide = async (sha256: string) => {
        const move = await createMove({
          ...{ courseId: course.id, destinationId: course.instanceId, createdBy: admin.id, createdAt: new Date() },
          ...{ openKey: null, copyId: copy.id },
        });
        const near = { path: 'files/bowline.txt', how: 'encoded' };
        const led = await useLinked(move, copy, {
          findings: [{ kind: 'link-repository', groupKey: address } as Finding],
          links: [{ state: 'repository', value: address, near } as CourseLink],
          hashes: new Map([['files/bowline.txt', sha256]]),
        });
        const [decision] = await DecisionRow.findAll({ where: { moveId: move.id } });
        return [led, decision?.mend, decision?.params, [...(await supplied(services, move.id, [])).keys()]];
      };
      expect(await decide('another')).toEqual([1, 'copy-in', {}, [address]]);
      const same = copy.linked?.came[0]?.sha256 ?? '';
      expect(await decide(same)).toEqual([1, 'retarget', { to: 'file:files/bowline.txt' }, [address]]);
    });
  });
});
