import { randomBytes } from 'node:crypto';
import { mkdtemp, readdir, rm, stat } from 'node:fs/promises';
import { createServer, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buffer } from 'node:stream/consumers';
import { configFromEnvironment } from '../../config.ts';
import { Copy, CourseRow, Job, JobStep } from '../../db/models.ts';
import { servicesOf, type Services } from '../../services/context.ts';
import { PLAIN } from '../../services/fetches.ts';
import { addInstance } from '../../services/instances.ts';
import { testDatabase, until } from '../../testing/database.ts';
import { zipOf } from '../../testing/moves.ts';
import { enqueue } from '../queue.ts';
import type { JobContext } from '../worker.ts';
import { fetchCourse } from './fetch.ts';

const MANIFEST = `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imsccv1p1/imscp_v1p1"
  xmlns:lom="http://ltsc.ieee.org/xsd/imsccv1p1/LOM/manifest"><metadata><schema>IMS Common Cartridge</schema>
<schemaversion>1.1.0</schemaversion><lom:lom><lom:general><lom:title><lom:string>Repair</lom:string></lom:title></lom:general></lom:lom></metadata>
<organizations><organization identifier="o" structure="rooted-hierarchy"><item identifier="r"><item identifier="i" identifierref="f"><title>A film</title></item></item></organization></organizations>
<resources><resource identifier="f" type="webcontent" href="film.mp4"><file href="film.mp4"/></resource></resources></manifest>`;

describe('A fetch', () => {
  let folder: string;
  let drop: () => Promise<void>;
  let platform: Server;
  let services: Services;
  let course: CourseRow;
  let zip: Buffer;
  /** Downloads that the platform was asked for and has not answered yet, with the byte that they begin at. */
  let downloads: { from: number; res: ServerResponse }[];
  let asked: string[];

  beforeAll(async () => {
    const database = await testDatabase();
    drop = () => database.drop();
    folder = await mkdtemp(join(tmpdir(), 'treenail-'));
    zip = await zipOf({ 'imsmanifest.xml': MANIFEST, 'film.mp4': randomBytes(400_000) });
    const bundle = { bundle: 'B1', course: 'c1', state: 'ready', ahead: 0, percent: 100, bytes: zip.length };
    platform = createServer((req, res) => {
      const { url = '', method = '' } = req;
      asked.push(`${method} ${url}`);
      if (url === '/api/bundles/B1/file') {
        const from = Number(/bytes=(\d+)/.exec(req.headers.range ?? '')?.[1] ?? 0);
        res.writeHead(from > 0 ? 206 : 200, { 'content-length': zip.length - from });
        downloads.push({ from, res });
      } else if (url.startsWith('/api/bundles?')) res.end(JSON.stringify({ bundles: [] }));
      else res.end(JSON.stringify(bundle));
    });
    await new Promise<void>((done) => platform.listen(0, '127.0.0.1', done));
    const baseUrl = `http://127.0.0.1:${(platform.address() as AddressInfo).port}`;
    const scratch = join(folder, 'scratch');
    const config = { ...configFromEnvironment(), blobs: join(folder, 'blobs'), scratch, smtp: null };
    services = servicesOf(config);
    const old = await addInstance(config.secret, { name: 'Old', platform: 'quernhold', baseUrl, credential: 't' });
    const named = { code: 'BTB 210', section: '01', term: 'Autumn 2026', title: 'Repair', owner: '', size: 1 };
    course = await CourseRow.create({ ...named, instanceId: old.id, remoteId: 'c1', changedAt: new Date(), parts: 3 });
  });
  beforeEach(async () => {
    downloads = [];
    asked = [];
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
      ...{ kind: 'fetch', key, course: 'BTB 210', moveId: null, courseId: course.id, words: '' },
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
    const stalled = fetchCourse(services)(contextOf(job));
    await until(async () => downloads.length === 1);
    downloads[0]?.res.write(zip.subarray(0, half));
    await arrived(half);
    // Another worker takes the job, and goes on from what is there.
    const other = fetchCourse(services)(contextOf(await Job.findByPk(job.id, { rejectOnEmpty: true })));
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
    const handler = fetchCourse(services);
    const begun = handler(contextOf(job));
    await until(async () => downloads.length === 1);
    downloads[0]?.res.write(zip.subarray(0, 1000));
    await arrived(1000);
    downloads[0]?.res.destroy();
    await expectAsync(begun).toBeRejected();
    await JobStep.create({ jobId: job.id, name: 'ask-0-0', result: 'B1', finishedAt: new Date() });
    await handler.calledOff?.(contextOf(job));
    expect(asked.at(-1)).toBe('DELETE /api/bundles/B1');
    expect(await readdir(join(folder, 'scratch'))).toEqual([]);
    expect(await JobStep.count({ where: { jobId: job.id } })).toBe(0);
  });

  it('goes on from where the line broke, and keeps what it was sent to the byte', async () => {
    const job = await fetchJob('fetch:cut');
    const first = fetchCourse(services)(contextOf(job));
    await until(async () => downloads.length === 1);
    downloads[0]?.res.write(zip.subarray(0, 1000));
    await arrived(1000);
    downloads[0]?.res.destroy();
    await expectAsync(first).toBeRejected();
    const second = fetchCourse(services)(contextOf(job));
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
});
