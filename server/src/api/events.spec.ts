import express from 'express';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import pino from 'pino';
import { Job, Session, User } from '../db/models/index.ts';
import { addPerson } from '../services/people.ts';
import { enqueue } from '../jobs/queue.ts';
import { testDatabase, until } from '../testing/database.ts';
import type { JobSummary } from '../contract/index.ts';
import { JobEvents } from './events.ts';

interface Told {
  event: string;
  data: unknown;
}

describe('What is told of jobs as they go', () => {
  let drop: () => Promise<void>;
  let events: JobEvents;
  let server: Server;
  let address: string;

  beforeAll(async () => {
    const database = await testDatabase();
    drop = () => database.drop();
    await addPerson('Ada', 'ada@marrowick.example', 'administrator', 'right');
    const user = await User.findOne({ rejectOnEmpty: true });
    const expiresAt = new Date(Date.now() + 3_600_000);
    for (const tokenHash of ['one', 'two']) await Session.create({ tokenHash, userId: user.id, expiresAt });
    events = new JobEvents(20, pino({ level: 'silent' }), 150);
    server = express()
      .get('/events', (req, res) => events.listen(res, typeof req.query['of'] === 'string' ? req.query['of'] : 'one'))
      .listen(0, '127.0.0.1');
    await new Promise((done) => server.once('listening', done));
    address = `http://127.0.0.1:${(server.address() as AddressInfo).port}/events`;
  });
  afterAll(async () => {
    events.close();
    await new Promise((done) => server.close(done));
    await drop();
  });

  /** All that one listener hears, until it goes. */
  async function listen(): Promise<{ told: Told[]; kind: string | null; go(): void }> {
    const going = new AbortController();
    const answer = await fetch(address, { signal: going.signal });
    const told: Told[] = [];
    void (async () => {
      let rest = '';
      for await (const part of answer.body?.pipeThrough(new TextDecoderStream()) ?? []) {
        const blocks = (rest + part).split('\n\n');
        rest = blocks.pop() ?? '';
        for (const block of blocks) {
          const [, event = '', data = ''] = /^event: (.*)\ndata: (.*)$/.exec(block) ?? [];
          told.push({ event, data: JSON.parse(data) });
        }
      }
    })().catch(() => undefined);
    return { told, kind: answer.headers.get('content-type'), go: () => going.abort() };
  }
  const changes = (told: readonly Told[]) =>
    told.filter((t) => t.event === 'job').map((t) => `${(t.data as JobSummary).words}`);

  it('begins with what is open, goes on with each change once, and says when there is none', async () => {
    const { id } = await enqueue({
      kind: 'fetch',
      key: 'k1',
      course: 'BTB',
      moveId: null,
      input: { round: 0 },
      of: 'Live',
    });
    const say = (words: string) => Job.update({ words, changedAt: new Date() }, { where: { id } });
    const first = await listen();
    expect(first.kind).toBe('text/event-stream');
    await until(async () => first.told.length > 0);
    expect(first.told[0]?.event).toBe('jobs');
    expect((first.told[0]?.data as JobSummary[]).map((j) => j.words)).toEqual(['fetching at Live']);
    await say('waiting');
    await until(async () => changes(first.told).includes('waiting'));
    await until(async () => first.told.filter((t) => t.event === 'quiet').length > 1);
    expect(changes(first.told).filter((words) => words === 'waiting').length).toBe(1);

    // Another who listens has all of it, and both hear what comes next.
    const second = await listen();
    await until(async () => second.told.length > 0);
    expect((second.told[0]?.data as JobSummary[]).map((j) => j.words)).toEqual(['waiting']);
    await say('fetching');
    await until(async () => [first, second].every(({ told }) => changes(told).includes('fetching')));
    first.go();
    await say('kept');
    await until(async () => changes(second.told).includes('kept'));
    second.go();
  });

  it('ends for a session that is signed out, and for no other', async () => {
    const listenAs = async (of: string) => (await fetch(`${address}?of=${of}`)).body?.getReader();
    const [one, two] = [await listenAs('one'), await listenAs('two')];
    events.endFor('two');
    for (let read = await two?.read(); read?.done === false; read = await two?.read()) expect(read.value).toBeDefined();
    // The other still hears.
    await enqueue({ kind: 'look', key: 'after', course: 'X', moveId: null, input: { round: 0 } });
    let heard = '';
    while (!heard.includes('event: job\n')) heard += new TextDecoder().decode((await one?.read())?.value);
    await one?.cancel();
    await Job.destroy({ where: {} });
  });
});
