import { configFromEnvironment, type Config } from '../config.ts';
import { Job, User } from '../db/models/index.ts';
import { SMTPServer } from 'smtp-server';
import type { AddressInfo } from 'node:net';
import { testDatabase } from '../testing/database.ts';
import { sendMail, tellByMail } from './mail.ts';
import { addPerson } from './people.ts';

describe('Mails of jobs', () => {
  let drop: () => Promise<void>;
  let smtp: SMTPServer;
  let config: Config;
  let user: User;
  const mails: string[] = [];

  beforeAll(async () => {
    const database = await testDatabase();
    drop = () => database.drop();
    await addPerson('Ada', 'ada@marrowick.example', 'administrator', 'right');
    user = await User.findOne({ rejectOnEmpty: true });
    smtp = new SMTPServer({
      authOptional: true,
      disabledCommands: ['STARTTLS'],
      onData(stream, _session, done) {
        let text = '';
        stream.on('data', (part: Buffer) => (text += part.toString()));
        stream.on('end', () => {
          mails.push(text);
          done();
        });
      },
    });
    await new Promise<void>((done) => smtp.listen(0, '127.0.0.1', done));
    const { port } = smtp.server.address() as AddressInfo;
    config = { ...configFromEnvironment(), smtp: `smtp://127.0.0.1:${port}`, mailAfterMs: 0 };
  });
  beforeEach(async () => {
    mails.length = 0;
    await Job.destroy({ where: {} });
  });
  afterAll(async () => {
    await new Promise<void>((done) => smtp.close(done));
    await drop();
  });

  const ended = (n: number, more: Partial<Job> = {}) =>
    Job.create({
      kind: 'fetch',
      requestKey: `fetch ${n}`,
      moveId: null,
      courseId: null,
      askedBy: user.id,
      course: `BTB ${n}`,
      input: {},
      state: 'done',
      words: 'kept',
      runAfter: new Date(),
      createdAt: new Date(0),
      changedAt: new Date(),
      finishedAt: new Date(1000 * n),
      batch: 'all at once',
      ...more,
    });
  const asked = () => Job.count({ where: { kind: 'mail' } });

  it('are one for many that one act asked for, sent when the last of them is over', async () => {
    const jobs = [];
    for (let n = 1; n <= 43; n++) jobs.push(await ended(n));
    const last = await ended(44, { state: 'running', finishedAt: null });
    for (const job of jobs) await tellByMail(config, job);
    expect(await asked()).toBe(0);
    const why = { code: 'x', message: 'The course is gone.', action: 'Look.' };
    await last.update({ state: 'failed', finishedAt: new Date(44_000), problem: why });
    // Two that end at one moment are told of once.
    for (const job of [...jobs.slice(-2), last]) await tellByMail(config, job);
    expect(await asked()).toBe(1);
    await sendMail(config, last.id, user.id);
    expect(mails.length).toBe(1);
    expect(mails[0]).toContain('43 done, 1 failed');
    expect(mails[0]).toContain('BTB 44: The course is gone.');
  });

  it('are one for each job that was asked for by itself', async () => {
    await tellByMail(config, await ended(1, { batch: null }));
    await tellByMail(config, await ended(2, { batch: null }));
    expect(await asked()).toBe(2);
  });

  it('hold no line that a title has broken', async () => {
    const job = await ended(1, {
      batch: null,
      course: 'BTB\r\nBcc: all@x.example',
      words: 'kept\n\nSign in at http://evil.example',
    });
    await sendMail(config, job.id, user.id);
    const [head = '', ...body] = (mails[0] ?? '').split('\r\n\r\n');
    expect(head).not.toMatch(/^Bcc:/m);
    expect(body.join('\n')).not.toMatch(/^Sign in at/m);
  });
});
