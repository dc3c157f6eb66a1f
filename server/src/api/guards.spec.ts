import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import express, { type Response as Answer } from 'express';
import pino from 'pino';
import { until } from '../testing/database.ts';
import { notTooMany } from './guards.ts';
import { answerProblems } from './problems.ts';

describe('More than can be answered at one time', () => {
  let server: Server;
  let base: string;
  let waiting: Answer[];

  beforeEach(async () => {
    waiting = [];
    const app = express();
    app.use(notTooMany(2, (path) => path.startsWith('/events')));
    app.use((_req, res) => void waiting.push(res));
    app.use(answerProblems(pino({ level: 'silent' })));
    server = app.listen(0, '127.0.0.1');
    await new Promise((done) => server.once('listening', done));
    base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  afterEach(async () => {
    server.closeAllConnections();
    await new Promise((done) => server.close(done));
  });

  it('is refused at once, with when to come back, until one of them is over', async () => {
    const [first, second] = [fetch(`${base}/a`), fetch(`${base}/b`)];
    await until(async () => waiting.length === 2);
    const refused = await fetch(`${base}/c`);
    expect([refused.status, refused.headers.get('retry-after')]).toEqual([503, '2']);
    expect(((await refused.json()) as { code: string }).code).toBe('too-busy');
    waiting[0]?.end('done');
    expect((await first).status).toBe(200);
    const third = fetch(`${base}/c`);
    await until(async () => waiting.length === 3);
    waiting.forEach((res) => res.end());
    expect([(await second).status, (await third).status]).toEqual([200, 200]);
  });

  it('does not count what lasts by itself', async () => {
    const lines = [1, 2, 3].map((n) => fetch(`${base}/events/${n}`));
    await until(async () => waiting.length === 3);
    const asked = fetch(`${base}/a`);
    await until(async () => waiting.length === 4);
    waiting.forEach((res) => res.end());
    for (const answer of await Promise.all([asked, ...lines])) expect(answer.status).toBe(200);
  });
});
