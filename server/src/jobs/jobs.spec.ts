import { Refusal, problem } from '@treenail/core';
import pino from 'pino';
import { Transaction, type Sequelize } from 'sequelize';
import * as z from 'zod';
import { Job, JobStep, bindModels } from '../db/models/index.ts';
import { PlatformTrouble } from '../platforms/index.ts';
import { testDatabase, until } from '../testing/database.ts';
import { JOBS } from './definitions.ts';
import { claim, enqueue, lockNext, renew, type NewJob } from './queue.ts';
import { callOffJob } from '../services/jobs.ts';
import { Worker, type Handler, type Handlers, type WorkerOptions } from './worker.ts';

type Run = Handler['run'];

const newJob = (key: string): NewJob<'look'> => ({
  kind: 'look',
  key,
  course: 'X 1-01',
  moveId: null,
  input: { round: 0 },
});

describe('The job queue', () => {
  let sequelize: Sequelize;
  let drop: () => Promise<void>;
  let workers: Worker[] = [];

  beforeAll(async () => {
    const database = await testDatabase();
    sequelize = database.sequelize;
    drop = () => database.drop();
  });
  afterAll(() => drop());
  beforeEach(async () => {
    bindModels(sequelize);
    await Job.destroy({ where: {} });
  });
  afterEach(async () => {
    await Promise.all(workers.map((w) => w.stop()));
    workers = [];
  });

  const start = (given: Handler | Run, leaseMs = 5000, more: Partial<WorkerOptions> = {}) => {
    const handler = typeof given === 'function' ? { run: given } : given;
    const handlers = Object.fromEntries(Object.keys(JOBS).map((kind) => [kind, handler])) as unknown as Handlers;
    const worker = new Worker({ sequelize, handlers, leaseMs, restMs: 20, log: pino({ level: 'silent' }), ...more });
    workers.push(worker);
    worker.start();
    return worker;
  };
  const stateOf = async (id: number) => (await Job.findByPk(id, { rejectOnEmpty: true })).state;

  it('makes one job of one key, however often and at once it is asked for', async () => {
    const made = await Promise.all(Array.from({ length: 8 }, () => enqueue(newJob('once'))));
    expect(new Set(made.map((j) => j.id)).size).toBe(1);
    expect(await Job.count()).toBe(1);
  });

  it('steps over jobs that another worker is just taking, and does not wait for it', async () => {
    await enqueue(newJob('a'));
    await enqueue(newJob('b'));
    const isolationLevel = Transaction.ISOLATION_LEVELS.READ_COMMITTED;
    const [first, second] = [
      await sequelize.transaction({ isolationLevel }),
      await sequelize.transaction({ isolationLevel }),
    ];
    try {
      const [a, b] = [await lockNext(sequelize, first), await lockNext(sequelize, second)];
      expect(a !== null && b !== null && a !== b).toBeTrue();
      expect(await lockNext(sequelize, second)).toBe(b);
    } finally {
      await first.rollback();
      await second.rollback();
    }
  });

  it('gives every job to exactly one of many workers', async () => {
    for (let i = 0; i < 40; i++) await enqueue(newJob(`job ${i}`));
    const taken: number[] = [];
    const take = async (worker: string) => {
      for (let job = await claim(sequelize, worker, 60_000); job; job = await claim(sequelize, worker, 60_000))
        taken.push(job.id);
    };
    await Promise.all(['w1', 'w2', 'w3', 'w4'].map(take));
    expect(taken.length).toBe(40);
    expect(new Set(taken).size).toBe(40);
  });

  it('hands a job whose worker went silent to another, and tells the first that it lost it', async () => {
    const job = await enqueue(newJob('silent'));
    const first = await claim(sequelize, 'silent one', 1);
    expect(first?.id).toBe(job.id);
    await until(async () => (await claim(sequelize, 'second', 60_000)) !== null);
    const again = await Job.findByPk(job.id, { rejectOnEmpty: true });
    expect([again.leasedBy, again.lost]).toEqual(['second', 1]);
    expect(await renew(job, 'silent one', 1000)).toBe('lost');
    expect(await renew(again, 'second', 1000)).toBe('held');
    await Job.update({ callOff: true }, { where: { id: job.id } });
    expect(await renew(again, 'second', 1000)).toBe('called off');
  });

  it('sets a job aside over which two workers went silent, with its reason, and lets it be tried again', async () => {
    const job = await enqueue(newJob('silences'));
    for (const name of ['first', 'second']) await until(async () => (await claim(sequelize, name, 1)) !== null);
    let ran = 0;
    start(async () => void ran++);
    await until(async () => (await stateOf(job.id)) === 'failed');
    expect((await Job.findByPk(job.id))?.problem?.code).toBe('job-set-aside');
    expect(ran).toBe(0);
    await enqueue(newJob('silences'));
    await until(async () => (await stateOf(job.id)) === 'done');
    expect(ran).toBe(1);
  });

  it('counts no silence of a worker against a job that got on since', async () => {
    const job = await enqueue(newJob('goes on'));
    for (let i = 0; i < 4; i++) {
      await until(async () => (await claim(sequelize, `silent ${i}`, 1)) !== null);
      // As a step that is finished or bytes that have arrived would.
      await Job.update({ lost: 0 }, { where: { id: job.id } });
    }
    start(async () => undefined);
    await until(async () => (await stateOf(job.id)) === 'done');
  });

  it('does no finished step twice when a job is continued', async () => {
    const done: string[] = [];
    let waited = 0;
    const job = await enqueue(newJob('steps'));
    start(async (context) => {
      const first = await context.step('first', z.number(), async () => {
        done.push('first');
        return 42;
      });
      if (waited++ < 3) context.later(10);
      await context.step('second', z.number(), async () => done.push(`second after ${first}`));
    });
    await until(async () => (await stateOf(job.id)) === 'done');
    expect(done).toEqual(['first', 'second after 42']);
    expect((await JobStep.findAll({ where: { jobId: job.id } })).map((s) => s.name).sort()).toEqual([
      'first',
      'second',
    ]);
    expect((await Job.findByPk(job.id))?.attempts).toBe(0);
  });

  it('continues a job that a stopping worker let go of', async () => {
    let ran = 0;
    const job = await enqueue(newJob('let go'));
    const hang: Run = async (context) => {
      ran++;
      if (ran > 1) return;
      await new Promise((_done, reject) =>
        context.signal.addEventListener('abort', () => reject(new Error('stopped'))),
      );
    };
    const worker = start(hang);
    await until(async () => ran === 1);
    await worker.stop();
    expect(await stateOf(job.id)).toBe('queued');
    start(hang);
    await until(async () => (await stateOf(job.id)) === 'done');
    expect(ran).toBe(2);
  });

  it('tries again when a platform is silent, and then goes on', async () => {
    let tries = 0;
    const job = await enqueue(newJob('trouble'));
    start(async () => {
      if (++tries < 3) throw new PlatformTrouble('it does not answer');
    });
    await until(async () => (await stateOf(job.id)) === 'done');
    expect(tries).toBe(3);
  });

  it('outlives any number of short troubles between which it gets on', async () => {
    let done = 0;
    let troubles = 0;
    const job = await enqueue(newJob('hiccups'));
    start(async (context) => {
      if (troubles < done) {
        troubles++;
        throw new PlatformTrouble('a short one');
      }
      if (done < 12) {
        await context.report({ words: 'downloading', done: ++done, total: 12 });
        context.later(1);
      }
    });
    await until(async () => (await stateOf(job.id)) === 'done');
    expect(troubles).toBe(12);
    const after = await Job.findByPk(job.id, { rejectOnEmpty: true });
    expect([after.attempts, after.troubledSince ?? null]).toEqual([0, null]);
  });

  it('is tried for as long as its patience reaches, and no longer', async () => {
    const job = await enqueue(newJob('silent platform'));
    const silent: Run = async () => {
      throw new PlatformTrouble('it does not answer');
    };
    // A patience that is over at once: one try, and it fails with what to do.
    start(silent, 5000, { patienceMs: async () => 0 });
    await until(async () => (await stateOf(job.id)) === 'failed');
    expect((await Job.findByPk(job.id))?.problem?.code).toBe('platform-silent');
    await Promise.all(workers.splice(0).map((w) => w.stop()));
    await enqueue(newJob('silent platform'));
    // One over a night: it waits, and says until when.
    start(silent, 5000, { patienceMs: async () => 10 * 3_600_000 });
    await until(async () => ((await Job.findByPk(job.id))?.attempts ?? 0) > 2);
    const waiting = await Job.findByPk(job.id, { rejectOnEmpty: true });
    expect(waiting.words).toMatch(/^looking inside: no answer, trying again until \d{4}-\d\d-\d\d \d\d:\d\d UTC$/);
  });

  it('is no platform that is silent where the database will not have what is written: it fails at once, without SQL', async () => {
    const job = await enqueue(newJob('too long'));
    start(async (context) => context.job.update({ words: 'x'.repeat(400) }).then(() => undefined));
    await until(async () => (await stateOf(job.id)) === 'failed');
    const failed = await Job.findByPk(job.id, { rejectOnEmpty: true });
    expect(failed.problem?.code).toBe('database-refused');
    expect(JSON.stringify(failed.problem)).not.toMatch(/UPDATE|jobs|SQL/);
    expect(failed.attempts).toBe(0);
  });

  it('tells a full disk as one', async () => {
    const job = await enqueue(newJob('full'));
    start(async () => {
      throw new Error('writing failed', { cause: Object.assign(new Error('no space'), { code: 'ENOSPC' }) });
    });
    await until(async () => (await stateOf(job.id)) === 'failed');
    expect((await Job.findByPk(job.id))?.problem?.code).toBe('disk-full');
  });

  it('waits while what it asks is paused', async () => {
    let paused = true;
    let ran = 0;
    const job = await enqueue(newJob('paused'));
    start(async () => void ran++, 5000, { heldBy: async () => (paused ? 'Live is paused' : null) });
    await until(async () => (await stateOf(job.id)) === 'waiting');
    expect([(await Job.findByPk(job.id))?.words, ran]).toEqual(['Live is paused', 0]);
    paused = false;
    await Job.update({ runAfter: new Date() }, { where: { id: job.id } });
    await until(async () => (await stateOf(job.id)) === 'done');
  });

  it('is called off where it runs, waits or has failed, and clears away what it had begun', async () => {
    const cleared: string[] = [];
    let failing = true;
    const handler: Handler = {
      run: async (context) => {
        const { job, signal } = context;
        if (job.requestKey === 'waits') context.later(60_000);
        if (job.requestKey === 'fails' && failing) throw new Refusal(problem('not-yet', 'No.', {}, 'Do not.'));
        await new Promise((_done, reject) => signal.addEventListener('abort', () => reject(new Error('let go'))));
      },
      calledOff: async ({ job }) => void cleared.push(job.requestKey),
    };
    start(handler, 150);
    start(handler, 150);
    const jobs = [await enqueue(newJob('runs')), await enqueue(newJob('waits')), await enqueue(newJob('fails'))];
    const states = () => Promise.all(jobs.map((j) => stateOf(j.id)));
    await until(async () => (await states()).join() === 'running,waiting,failed');
    failing = false;
    for (const job of jobs) await callOffJob(await Job.findByPk(job.id, { rejectOnEmpty: true }));
    await until(async () => (await states()).join() === 'called off,called off,called off');
    expect(cleared.sort()).toEqual(['fails', 'runs', 'waits']);
    expect((await Job.findAll()).every((j) => j.finishedAt !== null && j.problem === null)).toBeTrue();
  });

  it('is called off all the same where the platform would not let go, and says so', async () => {
    const handler: Handler = {
      run: async () => undefined,
      calledOff: async () => {
        throw new Refusal(problem('import-not-stopped', 'It is being unpacked.', {}, 'Wait.'));
      },
    };
    const job = await enqueue(newJob('stubborn'));
    await callOffJob(job);
    start(handler);
    await until(async () => (await stateOf(job.id)) === 'called off');
    expect((await Job.findByPk(job.id))?.words).toContain('could not be cleared away: It is being unpacked.');
  });

  it('ends with what a person can act on when it is refused, and starts again when asked again', async () => {
    let refuse = true;
    const job = await enqueue(newJob('refused'));
    start(async () => {
      if (refuse) throw new Refusal(problem('not-a-zip', 'This is not a zip file.', {}, 'Export again.'));
    });
    await until(async () => (await stateOf(job.id)) === 'failed');
    expect((await Job.findByPk(job.id))?.problem).toEqual({
      code: 'not-a-zip',
      message: 'This is not a zip file.',
      action: 'Export again.',
    });
    refuse = false;
    await enqueue(newJob('refused'));
    await until(async () => (await stateOf(job.id)) === 'done');
  });
});
