import { Refusal, problem } from '@treenail/core';
import pino from 'pino';
import { Transaction, type Sequelize } from 'sequelize';
import * as z from 'zod';
import { Job, JobStep, bindModels } from '../db/models.ts';
import { PlatformTrouble } from '../platforms/index.ts';
import { testDatabase, until } from '../testing/database.ts';
import { claim, enqueue, lockNext, renew, type NewJob } from './queue.ts';
import { Worker, type Handler, type Handlers } from './worker.ts';

const newJob = (key: string): NewJob => ({
  kind: 'look',
  key,
  course: 'X 1-01',
  moveId: null,
  input: {},
  words: 'waiting',
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

  const start = (handler: Handler, leaseMs = 5000) => {
    const handlers: Handlers = {
      register: handler,
      mail: handler,
      intake: handler,
      fetch: handler,
      look: handler,
      tidy: handler,
      outside: handler,
      build: handler,
      deliver: handler,
      check: handler,
    };
    const worker = new Worker({ sequelize, handlers, leaseMs, restMs: 20, log: pino({ level: 'silent' }) });
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
    expect([again.leasedBy, again.attempts]).toEqual(['second', 1]);
    expect(await renew(job, 'silent one', 1000)).toBeFalse();
    expect(await renew(again, 'second', 1000)).toBeTrue();
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
    const hang: Handler = async (context) => {
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

  it('ends with what a person can act on when it is refused, and starts again when asked again', async () => {
    let refuse = true;
    const job = await enqueue(newJob('refused'));
    start(async () => {
      if (refuse) throw new Refusal(problem('not-a-zip', 'This is not a zip file.', 'Export again.'));
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
