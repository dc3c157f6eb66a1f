import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import yazl from 'yazl';
import { configFromEnvironment, type Config } from '../config.ts';
import { servicesOf } from '../services/context.ts';
import { addPerson, sessionKey, signIn, signOut } from '../services/people.ts';
import { openTicket, sealTicket, type Ticket } from '../services/play.ts';
import { testDatabase } from '../testing/database.ts';
import { createPlayApp } from './play.ts';

describe('The player of learning objects', () => {
  let folder: string;
  let drop: () => Promise<void>;
  let server: Server;
  let address: string;
  let config: Config;
  let ticket: Ticket;
  let token: string;

  beforeAll(async () => {
    const database = await testDatabase();
    drop = () => database.drop();
    folder = await mkdtemp(join(tmpdir(), 'treenail-play-'));
    config = { ...configFromEnvironment(), blobs: join(folder, 'blobs'), scratch: join(folder, 'scratch') };
    const services = servicesOf(config);
    await addPerson('Ada', 'ada@marrowick.example', 'administrator', 'right');
    ({ token } = await signIn('ada@marrowick.example', 'right'));
    const zip = new yazl.ZipFile();
    zip.addBuffer(Buffer.from('<p>Object</p>'), 'a b/start.html');
    zip.end();
    const parts: Buffer[] = [];
    for await (const part of zip.outputStream) parts.push(part as Buffer);
    await writeFile(join(folder, 'x.zip'), Buffer.concat(parts));
    const { sha256 } = await services.store.putFile(join(folder, 'x.zip'));
    ticket = {
      sha256,
      launch: 'a b/start.html',
      parameters: 'x=1&y="2"',
      version: '1.2',
      title: '<script>',
      launchData: '</script><b>',
      masteryScore: '80',
      until: Date.now() + 60_000,
      session: sessionKey(token),
    };
    server = createPlayApp(services, pino({ level: 'silent' })).listen(0, '127.0.0.1');
    await new Promise((done) => server.once('listening', done));
    address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });

  afterAll(async () => {
    await new Promise((done) => server.close(done));
    await drop();
    await rm(folder, { recursive: true });
  });

  it('takes tickets that Treenail gave, until their time is over, and no others', () => {
    const sealed = sealTicket(config.secret, ticket);
    expect(openTicket(config.secret, sealed)).toEqual(ticket);
    expect(openTicket(config.secret, sealed, ticket.until + 1)).toBeNull();
    expect(openTicket(Buffer.alloc(32, 1), sealed)).toBeNull();
    const [body = ''] = sealed.split('.');
    for (const forged of ['', '.', body, `${body}.`, `x${sealed}`]) {
      expect(openTicket(config.secret, forged)).withContext(forged).toBeNull();
    }
  });

  it('gives the player and the files of its package, and lets them reach nothing else', async () => {
    const sealed = sealTicket(config.secret, ticket);
    const player = await fetch(`${address}/${sealed}/player.html`);
    const policy = player.headers.get('content-security-policy') ?? '';
    expect(policy).toContain("connect-src 'self'");
    expect(policy).toContain(`frame-ancestors 'self' ${config.address}`);
    const html = await player.text();
    expect(html).toContain('src="files/a%20b/start.html?x=1&amp;y=&quot;2&quot;"');
    expect(html).toContain('<title>&lt;script&gt;</title>');
    expect(html).not.toContain('</script><b>');
    const file = await fetch(`${address}/${sealed}/files/a%20b/start.html`);
    expect([file.headers.get('content-type'), await file.text()]).toEqual([
      'text/html; charset=utf-8',
      '<p>Object</p>',
    ]);
    const statuses = await Promise.all(
      [
        `/${sealed}/files/gone.html`,
        `/${sealed}/files/..%2f..%2fx.zip`,
        '/x.y/files/a',
        '/x.y/player.html',
        '/runtime/scorm12.min.js',
        '/runtime/package.json',
      ].map(async (path) => (await fetch(address + path)).status),
    );
    expect(statuses).toEqual([404, 404, 410, 410, 200, 404]);
  });

  it('plays nothing any more once the person has signed out', async () => {
    const sealed = sealTicket(config.secret, ticket);
    const ask = (path: string) => fetch(`${address}/${sealed}/${path}`);
    expect((await ask('files/a%20b/start.html')).status).toBe(200);
    await signOut(token);
    expect([(await ask('player.html')).status, (await ask('files/a%20b/start.html')).status]).toEqual([410, 410]);
    ({ token } = await signIn('ada@marrowick.example', 'right'));
    ticket = { ...ticket, session: sessionKey(token) };
  });
});
