import { mkdtemp, rm } from 'node:fs/promises';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { Readable } from 'node:stream';
import { join } from 'node:path';
import { Refusal, type Finding } from '@treenail/core';
import pino from 'pino';
import type { Sequelize } from 'sequelize';
import { configFromEnvironment, type Config } from '../config.ts';
import { AuditEntry, Job, type User, planOf, isDone, type WholeMove } from '../db/models/index.ts';
import { handlersOf } from '../handlers/index.ts';
import { enqueue } from '../jobs/queue.ts';
import { Worker } from '../jobs/worker.ts';
import { testDatabase, until } from '../testing/database.ts';
import { keptCourse } from '../testing/moves.ts';
import { isPublic } from '../platforms/reach.ts';
import { servicesOf, type Services } from './context.ts';
import { readDocument } from './documents.ts';
import { findingSettings, setFindingSettings } from './settings.ts';
import { addInstance } from './instances.ts';
import { acceptFit, moveById, moveSummary, previewOfItem, withFile } from './moves.ts';
import { askAddress, keepAnswer, outsideAddresses, startAsking, unasked } from './outside.ts';
import { addPerson } from './people.ts';
import { searchTexts } from './texts.ts';
import * as tidy from './tidy.ts';

const PAGE = `<html lang="en"><body><h1>Start</h1>
<p>Ask {~tutor.name~}; see <a href="gone.html">Caulking</a>, <a href="https://courses.old.example/course/c7/item/x">x</a>,
<a href="https://courses.old.example/repository/safety/eyes.pdf">eyes</a> and <a href="https://dead.example/page">a dead one</a>.</p>
</body></html>`;

describe('Tidying a move', () => {
  const silent = pino({ level: 'silent' });
  let folder: string;
  let sequelize: Sequelize;
  let drop: () => Promise<void>;
  let platform: Server;
  let services: Services;
  let config: Config;
  let worker: Worker;
  let person: Parameters<typeof tidy.decide>[1];
  let newMove: () => Promise<WholeMove>;
  let moveId: number;
  /** Whether the platform says which addresses are its own. */
  let tells = true;
  const asked: string[] = [];

  beforeAll(async () => {
    const database = await testDatabase();
    ({ sequelize } = database);
    drop = () => database.drop();
    folder = await mkdtemp(join(tmpdir(), 'treenail-'));
    platform = createServer((req, res) => {
      const { url = '' } = req;
      asked.push(`${req.method} ${url}`);
      if (url === '/api/about' && tells)
        res.end(JSON.stringify({ queue: 0, each: 1, home: 'https://courses.old.example' }));
      else if (url === '/api/repository/safety/eyes.pdf') res.end('%PDF eyes');
      else if (url.startsWith('/moved.example')) res.writeHead(301, { location: 'https://new.example/there' }).end();
      else if (url.startsWith('/new.example')) res.end('here');
      else if (url.startsWith('/shy.example')) res.writeHead(req.method === 'HEAD' ? 405 : 200).end();
      else if (url.startsWith('/round.example')) res.writeHead(302, { location: 'https://round.example/' }).end();
      else if (url.startsWith('/ill.example')) res.writeHead(503).end();
      else res.writeHead(404).end();
    });
    await new Promise<void>((done) => platform.listen(0, '127.0.0.1', done));
    const baseUrl = `http://127.0.0.1:${(platform.address() as AddressInfo).port}`;
    config = {
      ...configFromEnvironment(),
      blobs: join(folder, 'blobs'),
      scratch: join(folder, 'scratch'),
      pollMs: 50,
      examplesAt: baseUrl,
      smtp: null,
    };
    services = servicesOf(config);
    await addPerson('Ada', 'ada@marrowick.example', 'administrator', 'right');
    const { User: Users } = await import('../db/models/index.ts');
    const row: User = await Users.findOne({ where: { email: 'ada@marrowick.example' }, rejectOnEmpty: true });
    person = { id: row.id, name: row.name, email: row.email, role: 'administrator' };
    const source = await addInstance(config.secret, { name: 'Old', platform: 'quernhold', baseUrl, credential: 't' });
    const destination = await addInstance(config.secret, {
      name: 'New',
      platform: 'tarnhall',
      baseUrl,
      credential: 't',
    });
    const files = { 'start.html': PAGE, 'caulking.html': '<h1>Caulking</h1><p>Cotton is rolled in.</p>' };
    const between = { from: source, to: destination, remoteId: 'c7', createdBy: person.id };
    ({ newMove } = await keptCourse(services, folder, files, between));
    work();
  }, 120_000);

  const work = () => {
    worker = new Worker({ sequelize, handlers: handlersOf(services), leaseMs: 5000, restMs: 20, log: silent });
    worker.start();
  };

  const look = async () => {
    moveId = (await newMove()).id;
    await enqueue({ kind: 'look', key: `look:move-${moveId}`, course: 'BTB', moveId, input: { round: 0 } });
    // The last that a look writes down.
    await until(async () => isDone(await moveById(moveId), 'look'));
  };
  beforeEach(async () => {
    tells = true;
    await look();
  });

  afterAll(async () => {
    await worker.stop();
    await drop();
    await new Promise((done) => platform.close(done));
    await rm(folder, { recursive: true });
  });

  const findings = async (kind: string): Promise<Finding[]> =>
    (await tidy.tidyOf(services, moveId)).findings.filter((f) => f.kind === kind);
  const one = async (kind: string): Promise<Finding> => {
    const [found] = await findings(kind);
    if (!found) throw new Error(`no ${kind}`);
    return found;
  };
  const decide = async (finding: Finding, mend: string, params = {}, reason = '') => {
    const match = { kind: finding.kind, groupKey: null, key: finding.key };
    await tidy.decide(services, person, moveId, { match, mend, params, reason });
  };
  const current = () => until(async () => (await tidy.tidyOf(services, moveId)).current);
  const pageText = async () => {
    const { course } = await readDocument(moveId, 'look');
    const item = course.items.find((i) => i.kind === 'page' && i.file === 'start.html');
    const shown = await previewOfItem(services, moveId, item?.id ?? '', { mended: true });
    return shown.form === 'page' ? shown.html : shown.form;
  };

  it('finds what there is, with the platform’s own addresses known for what they are', async () => {
    const { kinds, open } = await tidy.tidyOf(services, moveId);
    // What outside addresses answered is known to every move after.
    const own = kinds.map((k) => k.id).filter((id) => id !== 'link-outside-gone');
    expect(own).toEqual(['link-broken', 'link-old-platform', 'link-repository', 'placeholder']);
    expect(open).toBeTrue();
    const steps = (await moveSummary(await moveById(moveId))).steps;
    expect(steps.find((s) => s.step === 'tidy')?.result).toMatch(/^[45] to look at$/);
  });

  it('looks also where the platform does not say which addresses are its own, and notes that it did not', async () => {
    expect((await readDocument(moveId, 'look')).notes.map((n) => n.code)).not.toContain('addresses-untold');
    tells = false;
    await look();
    const noted = (await readDocument(moveId, 'look')).notes.find((n) => n.code === 'addresses-untold');
    expect(noted?.message).toMatch(/^The platform did not say .*: links into it are taken for outside ones\.$/);
    const { kinds } = await tidy.tidyOf(services, moveId);
    expect(kinds.map((k) => k.id)).not.toContain('link-old-platform');
  });

  it('puts mends into the working copy, takes them out again, and leaves what was kept as it was', async () => {
    const broken = await one('link-broken');
    const [suggested] = broken.suggestions;
    expect(suggested?.words).toBe('Lead it to “caulking”');
    const tried = await tidy.tryMend(services, moveId, {
      key: broken.key,
      mend: 'retarget',
      params: suggested?.params ?? {},
    });
    expect(tried.after).toContain('<a href="caulking.html">');
    await decide(broken, 'retarget', suggested?.params ?? {});
    await current();
    expect(await pageText()).toContain('<a href="caulking.html">');
    const { decisions } = await tidy.tidyOf(services, moveId);
    await tidy.undo(person, moveId, Number(decisions[0]?.id));
    await tidy.undo(person, moveId, Number(decisions[0]?.id));
    await current();
    expect(await pageText()).toContain('<a href="gone.html">');
    expect(await AuditEntry.count({ where: { act: 'decision undone', subject: `move ${moveId}` } })).toBe(1);
  });

  it('copies a file of the repository in', async () => {
    await decide(await one('link-repository'), 'copy-in');
    await current();
    const { course } = await readDocument(moveId, 'working');
    expect(course.files.find((f) => f.path === 'shared/repository/safety/eyes.pdf')?.size).toBe(9);
    expect(await pageText()).toContain('href="shared/repository/safety/eyes.pdf"');
    expect(asked).toContain('GET /api/repository/safety/eyes.pdf');
  });

  it('puts a person’s own file in the place of a broken link, and gives it part by part', async () => {
    const broken = await one('link-broken');
    const give = (name: string, text: string) =>
      tidy.give(services, person, moveId, name, Readable.from([Buffer.from(text)]));
    const { given } = await give('plan.png', 'picture');
    expect([given, (await give('plan.png', 'picture')).given, (await give('plan.png', 'other')).given]).toEqual([
      'given:plan.png',
      'given:plan.png',
      'given:plan-2.png',
    ]);
    const tried = await tidy.tryMend(services, moveId, { key: broken.key, mend: 'give-file', params: { given } });
    expect(tried.after).toContain('<a href="given/plan.png">');
    await decide(broken, 'give-file', { given });
    await current();
    const { course } = await readDocument(moveId, 'working');
    expect(course.files.find((f) => f.path === 'given/plan.png')?.size).toBe(7);
    let shown = '';
    const read = (path: string, mended: boolean) =>
      withFile(services, moveId, path, mended, async ({ size, mediaType, bytes }) => {
        shown = `${size} ${mediaType} `;
        for await (const part of bytes()) shown += Buffer.from(part).toString();
      });
    await read('given/plan.png', true);
    expect(shown).toBe('7 image/png picture');
    await expectAsync(read('given/plan.png', false)).toBeRejectedWithError(Refusal);
    // What could bear a script is not given as it is.
    await expectAsync(read('start.html', true)).toBeRejectedWithError(Refusal);
    const long = (async function* () {
      for (let n = 0; n < 66; n++) yield Buffer.alloc(2 ** 20);
    })();
    await expectAsync(tidy.give(services, person, moveId, 'long.mp4', long)).toBeRejectedWithError(Refusal, /too long/);
    const { decisions } = await tidy.tidyOf(services, moveId);
    await tidy.undo(person, moveId, Number(decisions.find((d) => d.mend === 'give-file')?.id));
    await current();
  });

  it('wants a reason for leaving something as it is, and a mend that there is', async () => {
    const placeholder = await one('placeholder');
    await expectAsync(decide(placeholder, 'leave')).toBeRejectedWithError(Refusal);
    await expectAsync(decide(placeholder, 'polish')).toBeRejectedWithError(Refusal);
    await decide(placeholder, 'leave', {}, 'the tutor fills it in');
    await current();
    expect(await pageText()).toContain('{~tutor.name~}');
  });

  it('keeps a rule under a name and uses it where it fits', async () => {
    const match = { kind: 'link-old-platform', groupKey: null, key: null };
    const [kept] = await tidy.saveRule(person, { name: 'No way back', match, mend: 'unlink', params: {}, reason: '' });
    const uses = await tidy.usesOf(kept?.id ?? 0);
    expect(uses.find((u) => u.moveId === moveId)).toEqual({
      moveId,
      course: 'BTB 210-01',
      title: 'Repair',
      findings: 1,
    });
    await tidy.applyRule(services, person, kept?.id ?? 0, [moveId]);
    await current();
    expect(await pageText()).not.toContain('courses.old.example/course');
    expect(await tidy.removeRule(person, kept?.id ?? 0)).toEqual([]);
  });

  it('searches titles and texts', async () => {
    const found = await searchTexts(services, moveId, 'cotton rolled');
    expect(found.hits.map((h) => [h.title, h.excerpt?.text])).toEqual([['caulking', 'Caulking Cotton is rolled in.']]);
    expect((await searchTexts(services, moveId, 'caulk')).hits[0]?.inTitle).toBeTrue();
  });

  it('asks outside addresses once, politely, and says what they answered', async () => {
    const key = `outside:move-${moveId}-x`;
    await enqueue({ kind: 'outside', key, course: 'BTB', moveId, input: { round: 0 } });
    await until(async () => (await Job.findOne({ where: { requestKey: key } }))?.state === 'done');
    const gone = await one('link-outside-gone');
    expect(gone.evidence).toBe('link “a dead one” to https://dead.example/page: there is no such page any more');
    const before = asked.length;
    await enqueue({ kind: 'outside', key: `${key}2`, course: 'BTB', moveId, input: { round: 0 } });
    await until(async () => (await Job.findOne({ where: { requestKey: `${key}2` } }))?.state === 'done');
    expect(asked.length).toBe(before);
    // What was not there may be asked again before long; what was there stays known for a week.
    const later = Date.now() + 3_600_000;
    await keepAnswer({
      address: 'https://there.example/',
      state: 'there',
      to: null,
      words: '',
      askedAt: new Date().toISOString(),
    });
    const both = ['https://dead.example/page', 'https://there.example/'];
    expect(await unasked(both)).toEqual([]);
    expect(await unasked(both, later)).toEqual(['https://dead.example/page']);
    expect(await unasked(both, later + 8 * 86_400_000)).toEqual(both);
    const first = await startAsking(services, person, moveId);
    expect((await startAsking(services, person, moveId)).id).toBe(first.id);
    await until(async () => (await Job.findByPk(first.id))?.state === 'done');
    const again = await startAsking(services, person, moveId);
    expect(again.id).not.toBe(first.id);
    await until(async () => (await Job.findByPk(again.id))?.state === 'done');
    const { signal } = new AbortController();
    const state = async (address: string) => {
      const { state, to } = await askAddress(address, config.examplesAt, signal);
      return to === null ? state : `${state} ${to}`;
    };
    expect(await state('https://moved.example/a')).toBe('moved https://new.example/there');
    expect(await state('https://new.example/a')).toBe('there');
    expect(await state('https://shy.example/a')).toBe('there');
    expect(await state('https://round.example/')).toBe('silent');
    expect(await state('https://ill.example/')).toBe('silent');
    expect(await state('http://127.0.0.1:1/')).toBe('unasked');
    expect(await state('http://[::1]/')).toBe('unasked');
    expect(await state('http://localhost/')).toBe('unasked');
  });

  it('knows public addresses from those of the house', () => {
    for (const inside of [
      '10.1.2.3',
      '127.0.0.1',
      '192.168.0.1',
      '169.254.169.254',
      '::1',
      'fd00::1',
      '::ffff:10.0.0.1',
      '0.0.0.0',
      'x',
    ]) {
      expect(isPublic(inside)).withContext(inside).toBeFalse();
    }
    expect(isPublic('93.184.216.34')).toBeTrue();
    const course = { items: [{ kind: 'link', url: 'https://a.example/x#y' }] } as unknown as Parameters<
      typeof outsideAddresses
    >[0];
    expect(outsideAddresses(course, [])).toEqual(['https://a.example/x']);
  });

  it('takes house rules that can be read and mean something, and no others', async () => {
    const rules = await findingSettings();
    const refused = ['(', '', '.', '(a)\\1', '(\\w+\\s?)*$', '((ab)*c)*'];
    for (const pattern of refused) {
      await expectAsync(setFindingSettings(person, { ...rules, placeholders: [pattern] })).toBeRejectedWithError(
        Refusal,
      );
    }
    // What would hang the engine that is built in is tried by another, and is no harm.
    await setFindingSettings(person, { ...rules, placeholders: [...rules.placeholders, '(\\d|\\d\\d)+X'] });
    await setFindingSettings(person, { ...rules, values: { 'tutor.name': 'the tutor' } });
    expect((await findingSettings()).values).toEqual({ 'tutor.name': 'the tutor' });
  });

  it('is closed once the fit is accepted, and the fit waits for the working copy', async () => {
    await worker.stop();
    const placeholder = await one('placeholder');
    await decide(placeholder, 'replace', { text: 'the tutor' });
    await expectAsync(acceptFit(person, moveId)).toBeRejectedWithError(/not in the working copy yet/);
    work();
    await current();
    await acceptFit(person, moveId);
    await expectAsync(decide(placeholder, 'remove')).toBeRejectedWithError(/accepted/);
    await until(async () => isDone(await moveById(moveId), 'build'));
    expect(planOf(await moveById(moveId)).built?.size).toBeGreaterThan(100);
  });
});
