import { nodeEngine } from '../../container/node.ts';
import type { Finding, KnownAddresses } from '../../inspect/index.ts';
import { FINDING_SETTINGS, survey } from '../../inspect/index.ts';
import { decodeText } from '../../markup/index.ts';
import type { Item } from '../../model/index.ts';
import { common, courseOf, page } from '../../testing/made.ts';
import { packageOf } from '../../testing/packages.ts';
import { workingCopy } from '../working.ts';
import { givenAddress, givenPath } from './index.ts';
import { mend, question, spotOf } from './testing.ts';

describe('Mends of texts', () => {
  const html = (source: string, id: string, params: Record<string, string>, finding: Partial<Finding>) =>
    mend(
      {
        items: [page('p', 'a/p.html'), page('q', 'b/q & r.html'), { ...common('z'), kind: 'quiz', questions: [] }],
        files: { 'a/p.html': source, 'b/q & r.html': 'Q' },
      },
      { kind: 'link-broken', item: 'p', part: 'page', file: 'a/p.html', ...finding },
      id,
      params,
    );
  const LINK = '<p><a href="gone.html#s" title="t">words</a></p>';
  const link = { spot: spotOf(LINK, 'gone.html#s', '<a href="gone.html#s" title="t">', '</a>') };

  it('lead a link to an item, a file or an address, and keep the place in the page', async () => {
    const led = async (to: string) =>
      (await (await html(LINK, 'retarget', { to }, link)).page('a/p.html')).slice(12, -25);
    expect(await led('item:q')).toBe('../b/q%20%26%20r.html#s');
    expect(await led('item:z')).toBe('treenail:item/z');
    expect(await led('file:b/q & r.html')).toBe('../b/q%20%26%20r.html#s');
    expect(await led('https://x.example/?a=1&b="2"')).toBe('https://x.example/?a=1&amp;b=&quot;2&quot;');
    for (const to of ['javascript:alert(1)', ' DATA:text/html,x', 'vbscript:x']) {
      expect((await html(LINK, 'retarget', { to }, link)).why).toMatch(/would run/);
    }
    expect((await html(LINK, 'retarget', {}, link)).why).toMatch(/not said/);
    expect((await html(LINK, 'retarget', { to: 'item:none' }, link)).why).toMatch(/no address/);
    expect((await html(LINK, 'retarget', { to: 'item:q' }, { spot: null })).why).toMatch(/not in a text/);
  });

  it('take a link off and keep its words, or take it out whole', async () => {
    expect(await (await html(LINK, 'unlink', {}, link)).page('a/p.html')).toBe('<p>words</p>');
    expect(await (await html(LINK, 'remove', {}, link)).page('a/p.html')).toBe('<p></p>');
    const PICTURE = '<p>x<img src="p.png">y</p>';
    const picture = { spot: spotOf(PICTURE, 'p.png', '<img src="p.png">') };
    expect(await (await html(PICTURE, 'unlink', {}, picture)).page('a/p.html')).toBe('<p>xy</p>');
  });

  it('take handlers off and leave what bears them, but take scripts out', async () => {
    const HANDLER = '<p class="a" onclick="x(\'>\')" id=b onload=y()>words</p>';
    const handler = { kind: 'script', spot: spotOf(HANDLER, 'words', HANDLER.slice(0, HANDLER.indexOf('words'))) };
    const after = await html(HANDLER, 'remove', {}, handler);
    expect(await after.page('a/p.html')).toBe('<p class="a" id=b>words</p>');
  });

  it('say what a picture shows, whether its tag closes itself or not', async () => {
    for (const tag of ['<img src="p.png">', '<img src="p.png"/>', '<img src="p.png" />']) {
      const after = await html(
        `x${tag}y`,
        'set-alt',
        { text: 'A "plate"' },
        { spot: spotOf(`x${tag}y`, 'p.png', tag) },
      );
      expect(await after.page('a/p.html')).toContain(' alt="A &quot;plate&quot;"');
      expect((await after.page('a/p.html')).replace(/ alt="[^"]*"/, '')).toBe(`x${tag}y`);
    }
  });

  it('put a link in the place of a frame, with its title for words', async () => {
    const FRAME = '<iframe src="https://s.example/?a=1&amp;b=2" title="Tides"></iframe>!';
    const frame = { spot: spotOf(FRAME, 's.example', FRAME.slice(0, FRAME.indexOf('></') + 1), '</iframe>') };
    expect(await (await html(FRAME, 'to-link', {}, frame)).page('a/p.html')).toBe(
      '<a href="https://s.example/?a=1&amp;b=2" target="_blank" rel="noopener">Tides</a>!',
    );
    expect(
      (
        await html(
          LINK.replace('href', 'name'),
          'to-link',
          {},
          { spot: spotOf(LINK.replace('href', 'name'), 'words', '<p>') },
        )
      ).why,
    ).toMatch(/names no address/);
  });

  it('level headings, head tables, take classes off', async () => {
    const H = '<h1>A</h1><H4 class="x">B</H4>';
    const heading = { spot: spotOf(H, 'B', '<H4 class="x">', '</H4>') };
    expect(await (await html(H, 'level-heading', { level: '2' }, heading)).page('a/p.html')).toBe(
      '<h1>A</h1><h2 class="x">B</h2>',
    );
    for (const level of ['0', '7', 'x'])
      expect((await html(H, 'level-heading', { level }, heading)).why).toMatch(/from 1 to 6/);
    const T = '<table><TR><TD class="k">a</TD><td>b</td></TR><tr><td>c</td></tr></table>';
    expect(await (await html(T, 'head-table', {}, { spot: spotOf(T, T) })).page('a/p.html')).toBe(
      '<table><TR><th scope="col" class="k">a</th><th scope="col">b</th></TR><tr><td>c</td></tr></table>',
    );
    expect(
      (await html('<table></table>', 'head-table', {}, { spot: spotOf('<table></table>', '<table></table>') })).why,
    ).toBe('it has no row');
    const C = `<p class='a b'>x</p>`;
    const classed = { spot: spotOf(C, 'x', `<p class='a b'>`, '</p>') };
    expect(await (await html(C, 'remove-class', { name: 'a' }, classed)).page('a/p.html')).toBe('<p class="b">x</p>');
    expect(
      (await html('<p>x</p>', 'remove-class', { name: 'a' }, { spot: spotOf('<p>x</p>', 'x', '<p>') })).why,
    ).toMatch(/no class/);
  });

  it('replace what stands in questions and instructions, and take a page longer than it was', async () => {
    const quiz: Item = {
      ...common('z'),
      kind: 'quiz',
      questions: [question('k')],
      settings: { instructions: '<p>{~x~}</p>' },
    };
    const inQuestion = await mend(
      { items: [quiz] },
      { kind: 'placeholder', item: 'z', part: 'question k: prompt', spot: spotOf('<p>Ask k</p>', 'Ask') },
      'replace',
      { text: 'Say <now>' },
    );
    const z = inQuestion.item('z');
    expect(z?.kind === 'quiz' && z.questions[0]?.prompt.text).toBe('<p>Say &lt;now&gt; k</p>');
    const inWords = await mend(
      { items: [quiz] },
      { kind: 'placeholder', item: 'z', part: 'instructions', spot: spotOf('<p>{~x~}</p>', '{~x~}') },
      'replace',
      { text: 'y' },
    );
    expect(inWords.item('z')?.settings.instructions).toBe('<p>y</p>');
    const long = 'long '.repeat(400);
    const after = await html(
      '<p>x</p>',
      'replace',
      { text: long },
      { kind: 'placeholder', spot: spotOf('<p>x</p>', 'x') },
    );
    expect(after.work.course.files.find((f) => f.path === 'a/p.html')?.size).toBe(long.length + 7);
    const again = await survey(after.work.pkg, after.work.course, { engine: nodeEngine });
    expect(again.course.items[0]?.fingerprint).toBe(after.work.course.items[0]?.fingerprint);
    expect(again.course.files).toEqual(after.work.course.files);
  });
});

describe('Copying in', () => {
  const KNOWN: KnownAddresses = {
    platform: ['https://old.example'],
    course: null,
    items: [],
    courses: [],
    repository: ['https://old.example/repository/'],
  };

  it('puts a person’s own file where a link led nowhere, in place of another, and under a free name', async () => {
    const files = {
      'a/p.html': '<img src="gone.png"> <a href="../film.mov">film</a>',
      'film.mov': 'long',
      'given/map.png': 'x',
    };
    const pkg = await packageOf(files);
    const course = courseOf([page('p', 'a/p.html')], files);
    const surveyed = await survey(pkg, course, {
      engine: nodeEngine,
      findings: { today: '2026-09-01', settings: { ...FINDING_SETTINGS, oversizeBytes: 3 } },
    });
    const { findings } = surveyed;
    const decide = (kind: string, given: string, key: string | null = null) => {
      const found = findings.find((f) => f.kind === kind && (key === null || f.file === key));
      if (!found) throw new Error(`no ${kind}`);
      const match = { kind, groupKey: null, key: found.key };
      return { id: kind, match, mend: 'give-file', params: { given }, reason: '' };
    };
    const own = (name: string, text: string) => {
      const bytes = new TextEncoder().encode(text);
      return [givenAddress(name), { path: givenPath(givenAddress(name)), bytes }] as const;
    };
    const supplies = new Map([own('map.png', 'picture'), own('film: short?.mp4', 'short')]);
    const decisions = [
      decide('link-broken', givenAddress('map.png')),
      decide('file-too-long', givenAddress('film: short?.mp4'), 'film.mov'),
    ];
    const work = await workingCopy(pkg, surveyed, findings, decisions, { engine: nodeEngine, supplies });
    expect(work.failed).toEqual([]);
    expect(decodeText(await work.pkg.bytes('a/p.html'))).toBe(
      '<img src="../given/map-2.png"> <a href="../given/film-%20short-.mp4">film</a>',
    );
    expect(work.course.files.map((f) => [f.path, f.size]).sort()).toEqual([
      ['a/p.html', 77],
      ['given/film- short-.mp4', 5],
      ['given/map-2.png', 7],
      ['given/map.png', 1],
    ]);
    expect(work.links.map((l) => l.state)).toEqual(['inside', 'inside']);
    const without = await workingCopy(pkg, surveyed, findings, decisions, { engine: nodeEngine });
    expect(without.failed.map((f) => f.why)).toEqual(Array(2).fill('the file was not uploaded'));
  });

  it('puts what was fetched beside the course, once for all that link to it', async () => {
    const address = 'https://old.example/repository/s/eyes.pdf';
    const files = { 'a/p.html': `<a href="${address}">1</a><a href="${address}">2</a>` };
    const pkg = await packageOf(files);
    const course = courseOf([page('p', 'a/p.html')], files);
    const surveyed = await survey(pkg, course, {
      engine: nodeEngine,
      findings: { today: '2026-11-25', known: KNOWN },
    });
    const { findings } = surveyed;
    expect(findings.map((f) => f.kind)).toEqual(['link-repository', 'link-repository']);
    const decision = {
      id: 'd',
      match: { kind: 'link-repository', groupKey: null, key: null },
      mend: 'copy-in',
      params: {},
      reason: '',
    };
    const without = await workingCopy(pkg, surveyed, findings, [decision], { engine: nodeEngine });
    expect(without.failed.map((f) => f.why)).toEqual(Array(2).fill('the file was not fetched from the repository'));
    const bytes = new TextEncoder().encode('%PDF');
    const supplies = new Map([[address, { path: 'shared/eyes.pdf', bytes }]]);
    const work = await workingCopy(pkg, surveyed, findings, [decision], { engine: nodeEngine, supplies });
    expect(decodeText(await work.pkg.bytes('a/p.html'))).toBe(
      '<a href="../shared/eyes.pdf">1</a><a href="../shared/eyes.pdf">2</a>',
    );
    expect(work.course.files.filter((f) => f.path === 'shared/eyes.pdf').map((f) => [f.size, f.mediaType])).toEqual([
      [4, 'application/pdf'],
    ]);
    expect(work.links.every((l) => l.path === 'shared/eyes.pdf')).toBeTrue();
  });
});
