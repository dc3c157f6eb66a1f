import yauzl from 'yauzl';
import { tarnhall } from './app.ts';
import { standIns, until, zipOf } from '../testing.ts';

describe('The stand-in Tarnhall', () => {
  const { settings, serve } = standIns();
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
