import express from 'express';
import { createWriteStream, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { SMTPServer } from 'smtp-server';
import yazl from 'yazl';
import * as z from 'zod';
import { FAILURES, Failures } from './failures.ts';
import { answerErrors } from './http.ts';
import { Post } from './post.ts';
import { settingsFromEnvironment } from './settings.ts';
import { JsonStore } from './store.ts';
import { keepTicking } from './ticking.ts';
import { unzip } from './unzip.ts';
import { attr, many, one, parseXml, words } from './xml.ts';

const FOLDER = mkdtempSync(join(tmpdir(), 'shared-'));
process.once('exit', () => rmSync(FOLDER, { recursive: true, force: true }));

describe('What a platform can be told to do wrong', () => {
  let failures: Failures;
  let server: Server;
  let at: string;
  let settings: { pace: number };
  const FILE = Buffer.alloc(400_000, 'x');

  beforeEach(async () => {
    failures = new Failures();
    settings = { pace: 5000 };
    const app = express();
    failures.mount(app, 'Harbour & Co', settings);
    app.use(failures.guard);
    app.get('/courses', (_req, res) => void res.json(['BTB 210']));
    app.get('/exports/1/file', (_req, res) => {
      res.set('content-length', String(FILE.length));
      for (let i = 0; i < FILE.length && !res.destroyed; i += 50_000) res.write(FILE.subarray(i, i + 50_000));
      res.end();
    });
    app.use(answerErrors);
    server = await new Promise<Server>((done) => {
      const listening = app.listen(0, '127.0.0.1', () => done(listening));
    });
    at = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  afterEach(() => {
    server.closeAllConnections();
    server.close();
  });
  const asked = (path = '/courses', init?: RequestInit) => fetch(at + path, init);
  const arm = (failure: string, times: unknown) =>
    asked('/practice', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ failure, times }),
    });

  it('happens as often as it was told to, and then no more', async () => {
    expect((await arm('errors', 2)).status).toBe(200);
    const said = spyOn(console, 'error');
    const statuses = [await asked(), await asked(), await asked()].map((a) => a.status);
    expect(statuses).toEqual([500, 500, 200]);
    expect(said).toHaveBeenCalledTimes(2);
  });

  it('hurries for a while, and then keeps its own pace again', async () => {
    const paced = (ms: unknown) =>
      asked('/practice/pace', {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ ms }),
      });
    expect((await paced(0)).status).toBe(200);
    // Shares of it are told.
    expect(settings.pace).toBe(1);
    await paced(null);
    expect(settings.pace).toBe(5000);
    spyOn(console, 'error');
    expect([(await paced(-1)).status, settings.pace]).toEqual([400, 5000]);
  });

  it('ticks on by its pace', async () => {
    let ticks = 0;
    await new Promise<void>((done) => {
      keepTicking({ pace: 1 }, () => {
        if (++ticks === 3) done();
      });
    });
    expect(ticks).toBe(3);
  });

  it('refuses a token, with words', async () => {
    await arm('token', 1);
    const answer = await asked();
    expect([answer.status, await answer.json()]).toEqual([401, { trouble: 'token refused' }]);
  });

  it('is not there, or says nothing at all', async () => {
    failures.arm('down', 1);
    await expectAsync(asked()).toBeRejected();
    failures.arm('silence', 1);
    const patience = new AbortController();
    const waiting = asked('/courses', { signal: patience.signal });
    // Another call is answered meanwhile: only the one is left hanging.
    expect((await asked()).status).toBe(200);
    patience.abort();
    await expectAsync(waiting).toBeRejected();
  });

  it('cuts a download off half-way, and nothing else', async () => {
    failures.arm('cut', 1);
    expect((await asked()).status).toBe(200);
    const cut = await asked('/exports/1/file');
    let came = 0;
    const read = (async () => {
      for await (const part of cut.body ?? []) came += part.length;
    })();
    await expectAsync(read).toBeRejected();
    expect(came).toBeLessThan(FILE.length);
    expect((await (await asked('/exports/1/file')).arrayBuffer()).byteLength).toBe(FILE.length);
  });

  it('is armed on a page that says what is to come', async () => {
    await asked('/practice', {
      method: 'POST',
      body: new URLSearchParams({ failure: 'hang', times: '3' }),
      redirect: 'manual',
    });
    const page = await (await asked('/practice')).text();
    expect(page).toContain('3 to come');
    expect(page).toContain('Harbour &#38; Co');
    expect(page.match(/<form/g)?.length).toBe(Object.keys(FAILURES).length);
    expect([failures.take('hang'), failures.take('hang'), failures.take('hang'), failures.take('hang')]).toEqual([
      true,
      true,
      true,
      false,
    ]);
  });

  it('refuses what it can not do', async () => {
    expect((await arm('explode', 1)).status).toBe(400);
    expect((await arm('hang', -1)).status).toBe(400);
    expect((await arm('hang', 'often')).status).toBe(400);
  });
});

describe('What a platform remembers', () => {
  const Shape = z.object({ courses: z.array(z.string()) });

  it('is there after a kill: the old or the new, never half of it', () => {
    const path = join(FOLDER, 'deep', 'state.json');
    const store = new JsonStore(path, Shape, () => ({ courses: [] }));
    expect(existsSync(path)).toBeFalse();
    store.state.courses.push('BTB 210');
    store.save();
    // A kill in the middle of the next write leaves what is written beside it.
    writeFileSync(`${path}.next`, '{"courses":["BT');
    expect(new JsonStore(path, Shape, () => ({ courses: [] })).state.courses).toEqual(['BTB 210']);
  });

  it('is refused where it is not what it should be', () => {
    const path = join(FOLDER, 'spoilt.json');
    writeFileSync(path, '{"courses":"all"}');
    expect(() => new JsonStore(path, Shape, () => ({ courses: [] }))).toThrowError(/array/);
    expect(readFileSync(path, 'utf8')).toBe('{"courses":"all"}');
  });
});

describe('How a platform is set up', () => {
  const names = ['STANDIN_PORT', 'STANDIN_FOLDER', 'STANDIN_TOKEN', 'STANDIN_PACE_MS', 'STANDIN_SMTP'];
  const before = names.map((name) => [name, process.env[name]] as const);
  afterEach(() => {
    for (const [name, value] of before) {
      if (value === undefined) delete process.env[name];
      else process.env[name] = value;
    }
  });

  it('is read from its environment, with what is usual where nothing is said', () => {
    Object.assign(process.env, { STANDIN_PORT: '4711', STANDIN_FOLDER: '/tmp/x', STANDIN_TOKEN: 't' });
    delete process.env['STANDIN_PACE_MS'];
    delete process.env['STANDIN_SMTP'];
    expect(settingsFromEnvironment()).toEqual(
      jasmine.objectContaining({ port: 4711, pace: 5000, expiryMs: 86_400_000, smtp: null }),
    );
    process.env['STANDIN_TOKEN'] = '';
    expect(() => settingsFromEnvironment()).toThrowError('STANDIN_TOKEN is not set');
  });
});

describe('How a platform tells its people', () => {
  it('is by mail, where it has a server for that and somebody to tell', async () => {
    const mails: { from: string; to: string[]; text: string }[] = [];
    let came: () => void = () => {};
    const mail = new Promise<void>((done) => (came = done));
    const smtp = new SMTPServer({
      authOptional: true,
      disabledCommands: ['STARTTLS'],
      onData(stream, session, done) {
        const parts: Buffer[] = [];
        stream.on('data', (part: Buffer) => parts.push(part));
        stream.on('end', () => {
          const { mailFrom, rcptTo } = session.envelope;
          mails.push({
            from: mailFrom ? mailFrom.address : '',
            to: rcptTo.map((r) => r.address),
            text: Buffer.concat(parts).toString(),
          });
          done();
          came();
        });
      },
    });
    await new Promise<void>((done) => smtp.listen(0, '127.0.0.1', done));
    const { port } = smtp.server.address() as AddressInfo;
    const post = new Post('Marrowick Live', `smtp://127.0.0.1:${port}`);
    post.tell('', 'nobody', 'x');
    post.tell('office@marrowick.example', 'Export ready', 'BTB 210 is packed.');
    await mail;
    expect(mails.length).toBe(1);
    expect(mails[0]?.from).toBe('marrowick-live@platforms.marrowick.example');
    expect(mails[0]?.to).toEqual(['office@marrowick.example']);
    expect(mails[0]?.text).toContain('BTB 210 is packed.');
    await new Promise<void>((done) => smtp.close(done));
    // Without a server nothing is sent, and nothing is wrong.
    expect(() => new Post('Quiet', null).tell('a@marrowick.example', 'x', 'y')).not.toThrow();
  });
});

describe('What a platform is sent', () => {
  it('is opened by its entries, folders left out', async () => {
    const path = join(FOLDER, 'sent.zip');
    const zip = new yazl.ZipFile();
    zip.addEmptyDirectory('m');
    zip.addBuffer(Buffer.from('chart'), 'm/chart.pdf');
    zip.end();
    await pipeline(zip.outputStream, createWriteStream(path));
    const sent = await unzip(path);
    expect(sent.names).toEqual(['m/chart.pdf']);
    expect([sent.size('m/chart.pdf'), String(await sent.bytes('m/chart.pdf'))]).toEqual([5, 'chart']);
    expect([sent.size('gone'), await sent.bytes('gone')]).toEqual([0, null]);
    sent.close();
    writeFileSync(path, 'no zip');
    await expectAsync(unzip(path)).toBeRejected();
  });

  it('is read as plain objects, whatever prefixes it has', () => {
    const root = parseXml(
      Buffer.from('<x:a xmlns:x="u"><x:item n="1">one &amp; two</x:item><item/><b><c>in</c></b></x:a>'),
    );
    const a = one(root, 'a');
    expect(many(a, 'item').map((i) => [attr(i, 'n'), words(i)])).toEqual([
      ['1', 'one & two'],
      ['', ''],
    ]);
    expect(words(one(a, 'b', 'c'))).toBe('in');
    expect([one(a, 'no', 'where'), many(a, 'no'), attr(undefined, 'n'), words(undefined)]).toEqual([
      undefined,
      [],
      '',
      '',
    ]);
  });
});
