import { mkdtempSync, rmSync } from 'node:fs';
import { mkdir, mkdtemp, writeFile } from 'node:fs/promises';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Express } from 'express';
import yauzl from 'yauzl';
import yazl from 'yazl';
import { buildCourse } from './demo/build.ts';
import { BTB210, EST120, NAV101 } from './demo/index.ts';
import type { NodePlan } from './demo/plan.ts';
import { oxlea } from './oxlea/app.ts';
import { buildBook } from './oxlea/build.ts';
import { quernhold } from './quernhold/app.ts';
import type { Settings } from './shared/settings.ts';
import { tarnhall } from './tarnhall/app.ts';

async function until<T>(look: () => Promise<T | null>): Promise<T> {
  for (const end = Date.now() + 60_000; Date.now() < end;) {
    const found = await look();
    if (found !== null) return found;
    await new Promise((done) => setTimeout(done, 10));
  }
  throw new Error('it did not come to that');
}

async function zipOf(files: Record<string, string>): Promise<Buffer> {
  const zip = new yazl.ZipFile();
  for (const [path, body] of Object.entries(files)) zip.addBuffer(Buffer.from(body), path);
  zip.end();
  const parts: Buffer[] = [];
  for await (const part of zip.outputStream) parts.push(part as Buffer);
  return Buffer.concat(parts);
}

/** A platform goes on working when nobody calls any more, so its folder may go only when the process does. */
const ROOT = mkdtempSync(join(tmpdir(), 'standins-'));
process.once('exit', () => rmSync(ROOT, { recursive: true, force: true }));

/** A question that they all know, and one that none of them does. */
const QUESTIONS = {
  'imsmanifest.xml':
    '<manifest><organizations/><resources><resource identifier="r1" type="imsqti_item_xmlv2p1" href="q1.xml"><file href="q1.xml"/></resource><resource identifier="r2" type="imsqti_item_xmlv2p1" href="q2.xml"><file href="q2.xml"/></resource></resources></manifest>',
  'q1.xml':
    '<assessmentItem identifier="q1" title="One"><responseDeclaration identifier="R" cardinality="single"><correctResponse><value>b</value></correctResponse></responseDeclaration><itemBody><p>Which?</p><choiceInteraction responseIdentifier="R"><simpleChoice identifier="a">this</simpleChoice><simpleChoice identifier="b">that</simpleChoice></choiceInteraction></itemBody></assessmentItem>',
  'q2.xml':
    '<assessmentItem identifier="q2" title="Two"><itemBody><orderInteraction responseIdentifier="R"><simpleChoice identifier="a">x</simpleChoice></orderInteraction></itemBody></assessmentItem>',
};

describe('The stand-ins', () => {
  let folder: string;
  const servers: Server[] = [];
  const settings = (more: Partial<Settings> = {}): Settings => ({
    port: 0,
    folder,
    token: 'secret',
    name: 'Test',
    pace: 60,
    othersAhead: 2,
    expiryMs: 60_000,
    smtp: null,
    ...more,
  });
  const serve = async (app: Express): Promise<string> => {
    const server = await new Promise<Server>((done) => {
      const listening = app.listen(0, '127.0.0.1', () => done(listening));
    });
    servers.push(server);
    return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  };
  beforeEach(async () => {
    folder = await mkdtemp(join(ROOT, 'data-'));
  });
  afterEach(async () => {
    for (const server of servers.splice(0)) {
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
    }
  });

  describe('Quernhold', () => {
    interface Bundle {
      bundle: string;
      state: string;
      ahead: number;
      bytes: number | null;
    }
    const seed = (at: string) => buildCourse(NAV101, 'c1', join(at, 'c1')).then((course) => [course]);
    const call = async <T>(base: string, path: string, init: RequestInit = {}): Promise<T> => {
      const answer = await fetch(`${base}/api${path}`, {
        ...init,
        headers: { 'X-Quernhold-Token': 'secret', 'content-type': 'application/json' },
      });
      return (await answer.json()) as T;
    };
    const ask = (base: string) =>
      call<Bundle>(base, '/courses/c1/bundles', {
        method: 'POST',
        body: JSON.stringify({ form: 'cartridge-1.1', note: 'mine' }),
      });

    it('puts an export behind two other people and builds it in its turn', async () => {
      const base = await serve(await quernhold(settings(), seed));
      const asked = Date.now();
      const { bundle, ahead } = await ask(base);
      expect(ahead).toBe(2);
      const seen = [ahead];
      const ready = await until(async () => {
        const now = await call<Bundle>(base, `/bundles/${bundle}`);
        seen.push(now.ahead);
        return now.state === 'ready' ? now : null;
      });
      // A busy machine looks seldom and may miss a place; it never sees the queue grow, and is served at its end.
      expect(seen).toEqual([...seen].sort((a, b) => b - a));
      expect(seen.at(-1)).toBe(0);
      expect(Date.now() - asked).toBeGreaterThanOrEqual(60 * (0.6 + 0.6 + 1));
      const file = await fetch(`${base}/api/bundles/${bundle}/file`, {
        headers: { 'X-Quernhold-Token': 'secret', Range: 'bytes=4-' },
      });
      expect(file.status).toBe(206);
      expect((await file.arrayBuffer()).byteLength).toBe((ready.bytes ?? 0) - 4);
    });

    it('says what its pages call it by, and gives what lies in the repository and nothing beside it', async () => {
      const base = await serve(await quernhold(settings(), seed));
      const about = await call<{ home: string }>(base, '/about');
      expect(about.home).toMatch(/^https:\/\/[a-z.]+\.example$/);
      await mkdir(join(folder, 'repository', 'safety'), { recursive: true });
      await writeFile(join(folder, 'repository', 'safety', 'eyes.txt'), 'Goggles');
      const given = async (path: string, token = 'secret') => {
        const answer = await fetch(`${base}/api/repository/${path}`, { headers: { 'X-Quernhold-Token': token } });
        return [answer.status, answer.ok ? await answer.text() : ''];
      };
      expect(await given('safety/eyes.txt')).toEqual([200, 'Goggles']);
      expect(await given('safety/eyes.txt', 'other')).toEqual([401, '']);
      expect((await given('safety/gone.txt'))[0]).toBe(404);
      expect((await given('..%2fstate.json'))[0]).not.toBe(200);
    });

    it('keeps its queue over a restart, and turns away who has no token', async () => {
      const base = await serve(await quernhold(settings({ pace: 60_000 }), seed));
      const { bundle } = await ask(base);
      const again = await serve(await quernhold(settings({ pace: 60_000 }), seed));
      expect((await call<Bundle>(again, `/bundles/${bundle}`)).ahead).toBe(2);
      expect((await fetch(`${again}/api/courses`)).status).toBe(401);
    });
  });

  describe('Tarnhall', () => {
    interface Run {
      run: string;
      state: string;
      log: string[];
    }
    interface Contents {
      units: { title: string; entries: { sort: string; title: string; url: string }[] }[];
      pools: { title: string }[];
    }
    const call = async <T>(base: string, path: string, init: RequestInit = {}): Promise<T> => {
      const answer = await fetch(`${base}/api${path}`, {
        ...init,
        headers: { Authorization: 'Key secret', 'content-type': 'application/json' },
      });
      return (await answer.json()) as T;
    };
    const post = <T>(base: string, path: string, body: unknown) =>
      call<T>(base, path, { method: 'POST', body: JSON.stringify(body) });

    async function imported(
      files: Record<string, string>,
    ): Promise<{ run: Run; contents: Contents; base: string; space: string }> {
      const base = await serve(tarnhall(settings(), () => []));
      const shell = { code: 'X 1', section: '01', term: 'Autumn 2026', title: 'A course', remark: 'r' };
      const space = await post<{ id: string }>(base, '/spaces', shell);
      const zip = await zipOf(files);
      const drop = await post<{ id: string }>(base, '/drops', { bytes: zip.length, remark: 'r' });
      // In two pieces, as after a cut connection.
      await call(base, `/drops/${drop.id}?from=0`, { method: 'PUT', body: new Uint8Array(zip.subarray(0, 100)) });
      await call(base, `/drops/${drop.id}?from=100`, { method: 'PUT', body: new Uint8Array(zip.subarray(100)) });
      const asked = await post<Run>(base, `/spaces/${space.id}/runs`, { drop: drop.id, mode: 'beside', remark: 'r' });
      const run = await until(async () => {
        const now = await call<Run>(base, `/runs/${asked.run}`);
        return now.state === 'ended' || now.state === 'broken' ? now : null;
      });
      const contents = await call<Contents>(base, `/spaces/${space.id}/contents`);
      return { run, contents, base, space: space.id };
    }
    const manifest = (items: string, resources: string) =>
      `<manifest><organizations><organization><item>${items}</item></organization></organizations><resources>${resources}</resources></manifest>`;

    it('makes headings of folders below the first level, and says so in its way', async () => {
      const { run, contents } = await imported({
        'imsmanifest.xml': manifest(
          '<item identifier="a"><title>Unit</title><item identifier="b"><title>Below</title><item identifier="c" identifierref="p"><title>Page</title></item></item></item>',
          '<resource identifier="p" type="webcontent" href="p.html"><file href="p.html"/></resource>',
        ),
        'p.html': '<html><body><p>Words</p></body></html>',
      });
      expect(run.state).toBe('ended');
      expect(contents.units.map((u) => [u.title, u.entries.map((e) => [e.sort, e.title])])).toEqual([
        [
          'Unit',
          [
            ['heading', 'Below'],
            ['text', 'Page'],
          ],
        ],
      ]);
      expect(run.log).toContain('T-210 FLT b d>1');
    });

    it('takes scripts out of pages, and frames of sites that are not on its list', async () => {
      const { base, space } = await imported({
        'imsmanifest.xml': manifest(
          '<item identifier="c" identifierref="p"><title>Page</title></item>',
          '<resource identifier="p" type="webcontent" href="p.html"><file href="p.html"/></resource>',
        ),
        'p.html':
          '<body><p>Words</p><script>track()</script><iframe src="https://elsewhere.example/x"></iframe><iframe src="https://films.marrowick.example/y"></iframe></body>',
      });
      const whole = await call<{ units: { entries: { body?: string }[] }[] }>(base, `/spaces/${space}/contents`);
      const text = JSON.stringify(whole);
      expect(text).toContain('Words');
      expect(text).toContain('films.marrowick.example/y');
      expect(text).not.toContain('track()');
      expect(text).not.toContain('elsewhere.example');
    });

    it('has habits that it says nothing of', async () => {
      const long = 'A title that goes on and on until nobody can read it in a narrow column any more';
      const { run, contents } = await imported({
        'imsmanifest.xml': manifest(
          `<item identifier="a"><title>Unit</title><item identifier="c" identifierref="l"><title>${long}</title></item></item>`,
          '<resource identifier="l" type="imswl_xmlv1p3"><file href="l.xml"/></resource>',
        ),
        'l.xml': '<webLink><title>x</title><url href="https://x.example/a?b=1&amp;c=2"/></webLink>',
      });
      const entry = contents.units[0]?.entries[0];
      expect(entry?.title.length).toBe(60);
      expect(entry?.url).toBe('https://x.example/a?b=1');
      expect(run.log.filter((l) => !/T-100|T-900/.test(l))).toEqual([]);
    });

    it('packs chosen parts only, with the files that they hold', async () => {
      const { base, space, contents } = await imported({
        'crate.json': JSON.stringify({
          ...{ crate: 1, code: 'X', title: 'A course', units: ['u.json'], pools: [] },
          files: [
            { id: 'f1', path: 'one.png', blob: 'b1' },
            { id: 'f2', path: 'two.png', blob: 'b2' },
          ],
        }),
        'u.json': JSON.stringify({ title: 'Unit', origin: null, entries: ['e1.json', 'e2.json'] }),
        'e1.json': JSON.stringify({ id: 'e1', sort: 'text', title: 'One', origin: null, body: '<img src="held:f1">' }),
        'e2.json': JSON.stringify({ id: 'e2', sort: 'file', title: 'Two', origin: null, file: 'f2' }),
        b1: 'one',
        b2: 'two',
      });
      const entries = contents.units[0]?.entries as unknown as { id: string }[];
      const asked = { remark: 'r', as: 'crate', parts: [entries[0]?.id] };
      const crate = await post<{ crate: string }>(base, `/spaces/${space}/crates`, asked);
      const text = await until(async () => {
        const answer = await fetch(`${base}/api/crates/${crate.crate}/crate`, {
          headers: { Authorization: 'Key secret' },
        });
        return answer.ok ? Buffer.from(await answer.arrayBuffer()).toString('latin1') : null;
      });
      expect((text.match(/entries\/e\d+\.json/g) ?? []).length).toBeGreaterThan(0);
      expect(text).toContain(`entries/${entries[0]?.id}.json`);
      expect(text).not.toContain(`entries/${entries[1]?.id}.json`);
      expect((text.match(/blobs\/f\d+/g) ?? []).filter((n, i, all) => all.indexOf(n) === i).length).toBe(1);
    });

    it('leaves in a cartridge without what that has no place for', async () => {
      const { base, space } = await imported({
        'crate.json': JSON.stringify({
          ...{ crate: 1, code: 'X', title: 'A course', units: ['u.json'], pools: ['p.json'] },
          files: [{ id: 'f1', path: 'plate one.png', blob: 'b' }],
        }),
        'u.json': JSON.stringify({ title: 'Unit', origin: null, entries: ['e1.json', 'e2.json'] }),
        'e1.json': JSON.stringify({
          id: 'e1',
          sort: 'task',
          title: 'Draw',
          origin: null,
          body: 'Draw it.',
          files: ['f1'],
        }),
        'e2.json': JSON.stringify({
          id: 'e2',
          sort: 'pointer',
          title: 'Out',
          origin: null,
          url: 'https://x.example/?a=1&b=2',
        }),
        'p.json': JSON.stringify({ title: 'Bends', origin: null, asks: [] }),
        b: 'a picture',
      });
      const crate = await post<{ crate: string }>(base, `/spaces/${space}/crates`, { remark: 'r', as: 'cartridge' });
      const bytes = await until(async () => {
        const answer = await fetch(`${base}/api/crates/${crate.crate}/crate`, {
          headers: { Authorization: 'Key secret' },
        });
        return answer.ok ? Buffer.from(await answer.arrayBuffer()) : null;
      });
      const zip = await yauzl.fromBufferPromise(bytes, { lazyEntries: true });
      const names: string[] = [];
      for await (const entry of zip.eachEntry()) names.push(entry.fileName);
      expect(names.filter((n) => !/e\d|f\d/.test(n))).toEqual(['pools/1.xml', 'imsmanifest.xml']);
      expect(names.some((n) => /^files\/f\d+\/plate one\.png$/.test(n))).toBeTrue();
    });

    it('unpacks its own crate exactly, and overwrites what came from the same thing', async () => {
      const crate = {
        'crate.json': JSON.stringify({
          crate: 1,
          code: 'X 1',
          title: 'A course',
          about: { text: 'About it', words: ['a'] },
          units: ['units/u1.json'],
          pools: ['pools/p1.json'],
          files: [{ id: 'f1', path: 'plate one.png', blob: 'blobs/f1', media: 'image/png' }],
        }),
        'units/u1.json': JSON.stringify({
          title: 'Unit',
          origin: 'o-u',
          entries: ['entries/e1.json', 'entries/e2.json'],
        }),
        'entries/e1.json': JSON.stringify({
          ...{
            id: 'e1',
            sort: 'text',
            title: 'Words',
            origin: 'o-1',
            body: '<img src="held:f1"> <a href="entry:e2">on</a>',
          },
        }),
        'entries/e2.json': JSON.stringify({
          ...{ id: 'e2', sort: 'test', title: 'Check', origin: 'o-2', tries: 2, asks: ['asks/1.json'] },
        }),
        'asks/1.json': JSON.stringify({
          ...{ key: 'q', label: 'One', form: 'one', ask: 'Which? <img src="held:f1">', marks: null, words: [] },
          options: [{ key: 'a', text: 'this', right: true, reply: null }],
          replies: { any: null, right: 'Good.', wrong: null },
        }),
        'pools/p1.json': JSON.stringify({ title: 'Bends', origin: 'o-p', asks: ['asks/1.json'] }),
        'blobs/f1': 'a picture',
      };
      const { run, contents } = await imported(crate);
      expect([run.state, run.log[0]]).toEqual(['ended', 'T-100 CRT ok u=1 n=3']);
      const [text, check] = contents.units[0]?.entries ?? [];
      expect(contents.units.map((u) => [u.title, u.entries.map((e) => [e.sort, e.title])])).toEqual([
        [
          'Unit',
          [
            ['text', 'Words'],
            ['test', 'Check'],
          ],
        ],
      ]);
      expect(contents.pools.map((p) => p.title)).toEqual(['Bends']);
      expect(JSON.stringify(text)).toMatch(/held:f\d+.*entry:e\d+/);
      expect(check).toEqual(jasmine.objectContaining({ tries: 2 }));
      const twice = await imported({
        ...crate,
        'units/u1.json': JSON.stringify({
          title: 'Unit',
          origin: 'o-u',
          entries: ['entries/e1.json', 'entries/e1.json'],
        }),
      });
      expect(twice.contents.units[0]?.entries.length).toBe(1);
      expect((await imported({ ...crate, 'units/u1.json': '{}' })).run.log.at(-1)).toContain('T-003 CRT units/u1.json');
    });

    it('takes in questions of QTI 2.1 and 3.0 as one pool, and steps over what it has no form for', async () => {
      const item = (n: number, body: string, key: string, cardinality = 'single') =>
        `<assessmentItem xmlns="x" identifier="q${n}" title="Question ${n}"><responseDeclaration identifier="R" cardinality="${cardinality}"><correctResponse><value>${key}</value></correctResponse></responseDeclaration><itemBody>${body}</itemBody></assessmentItem>`;
      const { contents, run } = await imported({
        'imsmanifest.xml':
          '<manifest><organizations/><resources>' +
          [1, 2, 3, 4]
            .map(
              (n) =>
                `<resource identifier="r${n}" type="imsqti_item_xmlv${n === 4 ? '3p0' : '2p1'}" href="q${n}.xml"><file href="q${n}.xml"/></resource>`,
            )
            .join('') +
          '</resources></manifest>',
        'q1.xml': item(
          1,
          '<p>Which?</p><choiceInteraction responseIdentifier="R"><simpleChoice identifier="a">this</simpleChoice><simpleChoice identifier="b">that</simpleChoice></choiceInteraction>',
          'b',
        ),
        'q2.xml': item(2, '<p>The word is <textEntryInteraction responseIdentifier="R"/>.</p>', 'ebb'),
        'q3.xml': item(
          3,
          '<orderInteraction responseIdentifier="R"><simpleChoice identifier="a">x</simpleChoice></orderInteraction>',
          'a',
        ),
        'q4.xml':
          '<qti-assessment-item identifier="q4" title="Four"><qti-item-body><p>Write.</p><qti-extended-text-interaction response-identifier="R"/></qti-item-body></qti-assessment-item>',
      });
      expect(run.log).toContain('T-530 ITM r3 frm?');
      const [pool] = contents.pools as unknown as {
        questions: { form: string; ask: string; options: object[]; words: object[] }[];
      }[];
      expect(pool?.questions.map((q) => [q.form, q.ask])).toEqual([
        ['one', 'Which?'],
        ['word', 'The word is .'],
        ['prose', 'Write.'],
      ]);
      expect(pool?.questions[0]?.options.map((o) => (o as { right: boolean }).right)).toEqual([false, true]);
      expect(pool?.questions[1]?.words).toEqual([{ text: 'ebb', strict: false }]);
    });

    it('takes in what would report to a player as plain texts, and says so in its way', async () => {
      const { contents, run } = await imported({
        'imsmanifest.xml':
          '<manifest><metadata><schema>ADL SCORM</schema></metadata><organizations><organization><item identifier="u"><title>Unit</title><item identifier="i" identifierref="s"><title>Object</title></item></item></organization></organizations><resources><resource identifier="s" type="webcontent" href="go.html"><file href="go.html"/></resource></resources></manifest>',
        'go.html': '<html><body><p>Go</p></body></html>',
      });
      expect(run.log).toContain('T-430 SCO n=1 trk drop');
      expect(contents.units[0]?.entries.map((e) => [e.sort, e.title])).toEqual([['text', 'Object']]);
    });

    it('breaks off with a line when what was sent is no cartridge', async () => {
      const { run } = await imported({ 'a.txt': 'x'.repeat(200) });
      expect(run.state).toBe('broken');
      expect(run.log.at(-1)).toContain('T-999');
    });
  });

  it('restores its own archive exactly, and refuses one that is cut off', async () => {
    const app = await quernhold(settings({ othersAhead: 0 }), async (at) => [
      await buildCourse(EST120, 'c1', join(at, 'c1')),
    ]);
    const base = await serve(app);
    const headers = { 'X-Quernhold-Token': 'secret' };
    const ask = { form: 'archive', note: 'n', people: true, linked: 'copy' };
    const asked = await fetch(`${base}/api/courses/c1/bundles`, {
      method: 'POST',
      headers: { ...headers, 'content-type': 'application/json' },
      body: JSON.stringify(ask),
    });
    const { bundle } = (await asked.json()) as { bundle: string };
    const file = await until(async () => {
      const answer = await fetch(`${base}/api/bundles/${bundle}/file`, { headers });
      return answer.ok ? Buffer.from(await answer.arrayBuffer()) : null;
    });
    const partsOf = async (id: string) =>
      ((await (await fetch(`${base}/api/courses/${id}/parts`, { headers })).json()) as { parts: unknown }).parts;
    const send = async <T>(path: string, body: unknown): Promise<T> =>
      (
        await fetch(`${base}/api${path}`, {
          method: 'POST',
          headers: { ...headers, 'content-type': 'application/json' },
          body: JSON.stringify(body),
        })
      ).json() as Promise<T>;
    /** In two pieces, as after a cut connection. */
    const restore = async (bytes: Buffer) => {
      const shell = { code: 'X 1', section: '02', term: 'Spring 2027', title: 'A rehearsal', note: 'n' };
      const { id } = await send<{ id: string }>('/courses', shell);
      const arrival = await send<{ id: string }>('/arrivals', { bytes: bytes.length, note: 'n' });
      for (const [from, to] of [
        [0, Math.floor(bytes.length / 2)],
        [Math.floor(bytes.length / 2), bytes.length],
      ] as const) {
        const body = new Uint8Array(bytes.subarray(from, to));
        const sent = await fetch(`${base}/api/arrivals/${arrival.id}?from=${from}`, { method: 'PUT', headers, body });
        expect(sent.status).toBe(200);
      }
      const asked = await send<{ id: string }>(`/courses/${id}/restores`, { arrival: arrival.id, note: 'n' });
      const state = await until(async () => {
        const answer = await fetch(`${base}/api/restores/${asked.id}`, { headers });
        const { state: now } = (await answer.json()) as { state: string };
        return now === 'restored' || now === 'failed' ? now : null;
      });
      return { id, state };
    };
    const whole = await restore(file);
    expect(whole.state).toBe('restored');
    expect(await partsOf(whole.id)).toEqual(await partsOf('c1'));
    // What it says an export will hold is what its list says that there is.
    const listed = (await (await fetch(`${base}/api/courses`, { headers })).json()) as {
      courses: { id: string; parts: number }[];
    };
    const cost = await send<{ parts: number }>('/courses/c1/estimate', { form: 'archive' });
    expect(cost.parts).toBe(listed.courses.find((c) => c.id === 'c1')?.parts ?? -1);
    expect((await restore(file.subarray(0, file.length / 2))).state).toBe('failed');
    // A cartridge goes beside what is there, under numbers of its own; file names are made lower case.
    const cartridge = await zipOf({
      'imsmanifest.xml':
        '<manifest><organizations><organization><item><item identifier="f"><title>Folder</title><item identifier="a" identifierref="p"><title>Page</title></item><item identifier="b" identifierref="k"><title>Check</title></item></item></item></organization></organizations><resources><resource identifier="p" type="webcontent" href="Read/One.HTML"><file href="Read/One.HTML"/></resource><resource identifier="k" type="imsqti_xmlv1p2/imscc_xmlv1p1/assessment"><file href="k.xml"/></resource></resources></manifest>',
      'Read/One.HTML': '<html><body><p>Words</p></body></html>',
      'k.xml':
        '<questestinterop><assessment ident="k"><qtimetadata><qtimetadatafield><fieldlabel>qmd_timelimit</fieldlabel><fieldentry>20</fieldentry></qtimetadatafield></qtimetadata><section><item ident="q" title="One"><itemmetadata><qtimetadata><qtimetadatafield><fieldlabel>cc_profile</fieldlabel><fieldentry>cc.multiple_choice.v0p1</fieldentry></qtimetadatafield></qtimetadata></itemmetadata><presentation><material><mattext>Which?</mattext></material><response_lid ident="r"><render_choice><response_label ident="a"><material><mattext>this</mattext></material></response_label><response_label ident="b"><material><mattext>that</mattext></material></response_label></render_choice></response_lid></presentation><resprocessing><respcondition><conditionvar><varequal respident="r">b</varequal></conditionvar><setvar>100</setvar></respcondition></resprocessing></item></section></assessment></questestinterop>',
    });
    const questions = await restore(await zipOf(QUESTIONS));
    expect(await partsOf(questions.id)).toEqual([jasmine.objectContaining({ kind: 'bank', title: 'Bank 1' })]);
    const beside = await restore(cartridge);
    expect(beside.state).toBe('restored');
    expect((await partsOf(beside.id)) as object[]).toEqual([
      jasmine.objectContaining({
        title: 'Folder',
        inside: [jasmine.objectContaining({ kind: 'page', bytes: 38 }), jasmine.objectContaining({ kind: 'quiz' })],
      }),
    ]);
  });

  it('fails as it is told to, as often as it is told to, and is well again', async () => {
    const app = await quernhold(settings({ othersAhead: 0 }), async (at) => [
      await buildCourse(NAV101, 'c1', join(at, 'c1')),
    ]);
    const base = await serve(app);
    const statusOf = async () =>
      fetch(`${base}/api/courses`, { headers: { 'X-Quernhold-Token': 'secret' } }).then(
        (r) => r.status,
        () => 'nobody there',
      );
    const arm = (failure: string, times: number) =>
      fetch(`${base}/practice`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ failure, times }),
      });
    for (const [failure, status] of [
      ['errors', 500],
      ['token', 401],
      ['down', 'nobody there'],
    ] as const) {
      await arm(failure, 2);
      expect([await statusOf(), await statusOf(), await statusOf()]).toEqual([status, status, 200]);
    }
    expect((await arm('spells', 1)).status).toBe(400);
    expect(await (await fetch(`${base}/practice`)).text()).toContain('what goes wrong next');
  });

  it('throws Oxlea parcels away when their time is over', async () => {
    const seed = async (at: string) => [await buildBook(EST120, 'b1', join(at, 'b1'))];
    const base = await serve(await oxlea(settings({ expiryMs: 50 }), seed));
    const headers = { Authorization: 'Bearer secret', 'content-type': 'application/json' };
    const body = JSON.stringify({ as: 'cartridge', reference: 'x' });
    const asked = await fetch(`${base}/v1/books/b1/parcels`, { method: 'POST', headers, body });
    const { id } = (await asked.json()) as { id: string };
    const gone = await until(async () => {
      const answer = await fetch(`${base}/v1/parcels/${id}/parcel`, { headers });
      return answer.status === 410 ? ((await answer.json()) as { error?: string }) : null;
    });
    expect(JSON.stringify(gone)).toContain('thrown away');
    const state = (await (await fetch(`${base}/v1/parcels/${id}`, { headers })).json()) as { state: string };
    expect(state.state).toBe('expired');
  });

  it('gives Oxlea parcels once for a reference, with tests only in its own form', async () => {
    const app = await oxlea(settings(), async (at) => [await buildBook(EST120, 'b1', join(at, 'b1'))]);
    const base = await serve(app);
    const headers = { Authorization: 'Bearer secret', 'content-type': 'application/json' };
    const wrapped = async (as: string, reference: string) => {
      const asked = await fetch(`${base}/v1/books/b1/parcels`, {
        method: 'POST',
        headers,
        body: JSON.stringify({ as, reference }),
      });
      return ((await asked.json()) as { id: string }).id;
    };
    const [parcel, cartridge] = [await wrapped('parcel', 'x'), await wrapped('cartridge', 'y')];
    expect(await wrapped('parcel', 'x')).toBe(parcel);
    const namesOf = (id: string) =>
      until(async () => {
        const answer = await fetch(`${base}/v1/parcels/${id}/parcel`, { headers });
        return answer.ok ? Buffer.from(await answer.arrayBuffer()).toString('latin1') : null;
      });
    const bytes = async (id: string) =>
      Buffer.from(await (await fetch(`${base}/v1/parcels/${id}/parcel`, { headers })).arrayBuffer());
    await until(async () => ((await fetch(`${base}/v1/parcels/${parcel}/parcel`, { headers })).ok ? true : null));
    const sendIn = async (body: Buffer) => {
      const answer = await fetch(`${base}/v1/books`, { method: 'POST', headers, body: new Uint8Array(body) });
      return { status: answer.status, ...((await answer.json()) as { id: string; log?: string[] }) };
    };
    const lessonsOf = async (id: string) =>
      ((await (await fetch(`${base}/v1/books/${id}/lessons`, { headers })).json()) as { halves: unknown }).halves;
    const back = await sendIn(await bytes(parcel));
    expect(back.status).toBe(201);
    expect(await lessonsOf(back.id)).toEqual(await lessonsOf('b1'));
    await until(async () => ((await fetch(`${base}/v1/parcels/${cartridge}/parcel`, { headers })).ok ? true : null));
    const other = await sendIn(await bytes(cartridge));
    const taken = JSON.stringify(await lessonsOf(other.id));
    expect(taken).toContain('Before the first visit');
    expect(taken).not.toContain('"sort":"test"');
    expect((await sendIn(Buffer.from('neither'))).status).toBe(422);
    const questions = await sendIn(await zipOf(QUESTIONS));
    expect(questions.log).toEqual(['stepped over: r2, a question of another sort']);
    expect(JSON.stringify(await lessonsOf(questions.id))).toContain('"sort":"test"');
    expect(await namesOf(parcel)).toContain('book.yaml');
    expect(await namesOf(cartridge)).not.toContain('assessment');
  });
});

describe('The demo', () => {
  const flat = (nodes: readonly NodePlan[], depth = 0): { node: NodePlan; depth: number }[] =>
    nodes.flatMap((node) => [{ node, depth }, ...(node.kind === 'folder' ? flat(node.inside, depth + 1) : [])]);

  for (const plan of [BTB210, EST120, NAV101]) {
    it(`${plan.code} is a real course: three levels, forty items, three quizzes, a bank of all six types`, () => {
      const all = flat(plan.outline);
      const of = (kind: NodePlan['kind']) => all.filter(({ node }) => node.kind === kind);
      expect(Math.max(...of('folder').map((f) => f.depth)) + 1).toBe(3);
      expect(all.length - of('folder').length).toBeGreaterThanOrEqual(40);
      expect(of('quiz').length).toBe(3);
      expect(of('tool').length).toBeGreaterThanOrEqual(1);
      expect(of('talk').length).toBeGreaterThanOrEqual(2);
      expect(of('task').length).toBeGreaterThanOrEqual(3);
      expect(plan.bank.questions.length).toBeGreaterThanOrEqual(25);
      expect(new Set(plan.bank.questions.map((q) => q.type)).size).toBe(6);
    });
  }
});
