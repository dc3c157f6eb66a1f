import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import { Job } from '../db/models/index.ts';
import { testDatabase, until } from '../testing/database.ts';
import { CalledOff } from './perform.ts';
import { JobProcess } from './process.ts';
import { claim, enqueue, renew } from './queue.ts';

/** Speaks as the process that does jobs does; what it does is named by the words of a job. */
const SCRIPT = `
process.on('disconnect', () => process.exit(0));
const doing = {
  1: (job) => process.send({ job, change: { state: 'done', finishedAt: new Date(0), words: 'done in ' + process.pid } }),
  2: () => { for (;;); },
  3: () => process.exit(3),
  4: (job) => { stopped = (calledOff) => process.send({ job, change: { state: calledOff ? 'called off' : 'queued' } }); },
};
let stopped = () => undefined;
process.on('message', ({ say, job, calledOff }) => (say === 'do' ? doing[job % 10](job) : stopped(calledOff)));
`;

describe('The process that does jobs', () => {
  let folder: string;
  let script: string;
  let drop: () => Promise<void>;
  let sequelize: Awaited<ReturnType<typeof testDatabase>>['sequelize'];
  let apart: JobProcess;
  const jobOf = (id: number) => Job.build({ id, lost: 0 } as never);
  const process_ = (more: object = {}) =>
    (apart = new JobProcess({
      script,
      log: pino({ level: 'silent' }),
      limitMs: 60_000,
      graceMs: 300,
      execArgv: [],
      ...more,
    }));
  const never = new AbortController().signal;

  beforeAll(async () => {
    const database = await testDatabase();
    ({ sequelize } = database);
    drop = () => database.drop();
    folder = await mkdtemp(join(tmpdir(), 'treenail-process-'));
    script = join(folder, 'runner.mjs');
    await writeFile(script, SCRIPT);
  });
  afterEach(() => apart.close());
  afterAll(async () => {
    await drop();
    await rm(folder, { recursive: true });
  });

  it('says what is to be written down, dates as dates, and does one job after another', async () => {
    process_();
    const [first, second] = [await apart.perform(jobOf(11), never), await apart.perform(jobOf(21), never)];
    expect(first.state).toBe('done');
    expect(first.finishedAt).toEqual(new Date(0));
    expect(second.words).toBe(first.words ?? '');
  });

  it('is ended when a job takes longer than it may, though nothing in it listens, and that is said', async () => {
    process_({ limitMs: 4000 });
    const change = await apart.perform(jobOf(12), never);
    expect([change.state, change.problem?.code]).toEqual(['failed', 'job-too-long']);
    // The next job has a fresh one.
    expect((await apart.perform(jobOf(11), never)).state).toBe('done');
  });

  it('is ended when the job is called off or let go of and it does not hear, and asked first', async () => {
    process_();
    const off = new AbortController();
    const calledOff = apart.perform(jobOf(12), off.signal);
    off.abort(new CalledOff());
    expect(await calledOff).toEqual(jasmine.objectContaining({ state: 'queued', callOff: true }));
    const stop = new AbortController();
    const stopped = apart.perform(jobOf(12), stop.signal);
    stop.abort(new Error('the worker is stopping'));
    expect((await stopped).state).toBe('queued');
    // One that hears is given its time.
    await apart.close();
    process_({ graceMs: 60_000 });
    const heard = new AbortController();
    const asked = apart.perform(jobOf(14), heard.signal);
    heard.abort(new CalledOff());
    expect(await asked).toEqual({ state: 'called off' });
  });

  it('has its end counted against the job that it was at', async () => {
    process_();
    expect(await apart.perform(jobOf(13), never)).toEqual(jasmine.objectContaining({ state: 'queued', lost: 1 }));
  });

  it('that can not be begun leaves the job to be taken again, uncounted, and the worker alive', async () => {
    process_({ execPath: join(folder, 'no-such-node') });
    const change = await apart.perform(jobOf(11), never);
    expect(change).toEqual(jasmine.objectContaining({ state: 'queued', words: 'no process for it; again' }));
    expect(change.lost).toBeUndefined();
  });

  it('leaves the worker free to keep its lease while it is busy for ever', async () => {
    process_({ limitMs: 2000 });
    await enqueue({ kind: 'look', key: 'busy', course: 'X', moveId: null, input: { round: 0 } });
    const job = await claim(sequelize, 'w', 150);
    if (!job) throw new Error('nothing to do');
    const busy = apart.perform(jobOf(12), never);
    let renewed = 0;
    await until(async () => {
      expect(await renew(job, 'w', 150)).toBe('held');
      return ++renewed > 20;
    });
    expect((await busy).problem?.code).toBe('job-too-long');
  });
});
