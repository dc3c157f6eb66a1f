import { momentOf } from '../../model/index.ts';
import { nodeEngine } from '../../container/node.ts';
import { common, courseOf, question, text } from '../../testing/made.ts';
import { packageOf, type Files } from '../../testing/packages.ts';
import type { Course, Item, Profile } from '../../model/index.ts';
import { relationsOf } from '../relations.ts';
import { survey } from '../survey.ts';
import { FINDING_KINDS, type FindingOptions } from './index.ts';

async function findingsOf(
  items: Item[],
  files: Files = { x: '' },
  options: Partial<FindingOptions> = {},
  outline: Course['outline'] = [],
) {
  const course = courseOf(items, files, { outline });
  const { findings } = await survey(await packageOf(files), course, {
    engine: nodeEngine,
    findings: { today: '2026-11-25', ...options },
  });
  return findings.map((f) => ({ ...f, said: `${f.kind}: ${f.title}: ${f.evidence}` }));
}

describe('Findings', () => {
  it('each say why they matter, under a name of their own', () => {
    for (const kind of FINDING_KINDS) {
      expect(kind.why(null)).toMatch(/\.$/);
    }
    expect(new Set(FINDING_KINDS.map((k) => k.id)).size).toBe(FINDING_KINDS.length);
  });

  it('are made of what a course is made of', async () => {
    const found = await findingsOf(
      [
        {
          ...common('q1'),
          kind: 'quiz',
          questions: [question('k', { choices: [{ id: 'x', text: text('X'), correct: false }] })],
        },
        {
          ...common('q2'),
          kind: 'quiz',
          settings: { password: 'oak', lockdown: true, points: 5 },
          questions: [question('m')],
        },
        { ...common('q3'), kind: 'quiz', questions: [] },
        { ...common('b1'), kind: 'bank', questions: [question('n')] },
        { ...common('t1'), kind: 'tool', url: 'https://calc.example/launch', description: '' },
        {
          ...common('a1'),
          kind: 'announcement',
          text: text('Old'),
          settings: { posted: momentOf('2022-09-01T08:00:00Z') },
        },
        {
          ...common('a2'),
          kind: 'announcement',
          text: text('New'),
          settings: { posted: momentOf('2026-11-01T08:00:00Z') },
        },
        {
          ...common('e1'),
          kind: 'assignment',
          text: text('Do'),
          settings: { due: momentOf('2026-10-01T08:00:00Z'), hidden: true },
        },
        { ...common('c1', 'Tests'), kind: 'category', text: text(''), settings: { weight: 60 } },
        { ...common('c2', 'Tasks'), kind: 'category', text: text(''), settings: { weight: 30 } },
      ],
      { x: '' },
      {},
      [
        { id: 'f', title: 'Nothing here', children: [] },
        { id: 'n1', title: 'q1', item: 'q1', children: [] },
        {
          id: 'g',
          title: 'Week 2',
          settings: { hidden: true, closes: momentOf('2026-10-02T08:00:00Z') },
          children: [{ id: 'n2', title: 'q1 again', item: 'q1', settings: { hidden: true }, children: [] }],
        },
      ],
    );
    expect(found.map((f) => f.said)).toEqual([
      'quiz-without-questions: q3: it has no questions, and draws none',
      'question-without-key: q1: choice: Ask k',
      'points-do-not-add-up: q2: set to 5 points, its questions give 1',
      'points-do-not-add-up: Gradebook: the weights of 2 grade categories come to 90 %',
      'guarded: q2: a password, a locked-down browser',
      'tool: t1: tool at https://calc.example/launch',
      'date-past: Week 2: closes 2 Oct 2026',
      'date-past: e1: due 1 Oct 2026',
      'announcement-stale: a1: posted on 1 Sep 2022',
      'hidden: Week 2: hidden in the outline, with all that is in it',
      'hidden: q1 again: hidden in the outline',
      'hidden: e1: hidden in the outline',
      'folder-empty: Nothing here: “Nothing here” holds nothing',
      'quiz-unused: q2: quiz with 1 question',
      'quiz-unused: q3: quiz with 0 questions',
      'quiz-unused: b1: question bank with 1 question',
      'file-unused: x: x, 0\u00a0B',
    ]);
  });

  it('follow the destination', async () => {
    const profile: Profile = {
      id: 'p',
      label: 'Port',
      version: 1,
      kinds: {},
      settings: {},
      questions: {},
      questionParts: {},
      limits: {
        fileBytes: { at: 200, reason: 'Port takes files up to 200 B' },
        titleLength: { at: 4, reason: 'short' },
        nameCharacters: { not: ' &', reason: 'writes names without blanks' },
      },
      html: {
        embeds: { hosts: ['sim.example'], reason: 'shows frames of few sites' },
        deadClasses: [{ prefix: 'quern-', reason: 'has another style sheet' }],
      },
    };
    const files = {
      'a.html':
        '<p class="quern-box">x</p><iframe src="https://sim.example/a"></iframe><iframe src="https://other.example/b"></iframe>',
      'b & c.pdf': 'l'.repeat(300),
    };
    const items: Item[] = [
      { ...common('p1', 'Page one'), kind: 'page', file: 'a.html', definitionPath: 'a.html' },
      { ...common('f1', 'F'), kind: 'file', file: 'b & c.pdf', definitionPath: 'b & c.pdf' },
    ];
    const found = await findingsOf(items, files, { profile });
    expect(found.map((f) => f.said)).toEqual([
      'embed: Page one: frame of https://other.example/b',
      'style-class: Page one: class quern-box of a p',
      'file-too-long: b & c.pdf: b & c.pdf has 300\u00a0B, the limit is 200\u00a0B',
      'name-unfit: b & c.pdf: b & c.pdf has a space & in its name',
      'name-unfit: Page one: a title of 8 characters, where 4 are held',
    ]);
    const long = FINDING_KINDS.find((k) => k.id === 'file-too-long');
    expect(long?.why(profile)).toBe('Port takes files up to 200 B: a longer one is left behind.');
  });

  it('see doubled items and files, and what outside addresses answered', async () => {
    const files = {
      'a.html': '<p>Same <a href="https://gone.example/x#part">x</a></p>',
      'b.html': '<p>Same <a href="https://gone.example/x#part">x</a></p>',
      'u.bin': 'z'.repeat(2000),
      'v.bin': 'z'.repeat(2000),
    };
    const page = (id: string, file: string): Item => ({
      ...common(id, 'Twin'),
      kind: 'page',
      file,
      definitionPath: file,
    });
    const item = (id: string, file: string): Item => ({ ...common(id), kind: 'file', file, definitionPath: file });
    const found = await findingsOf(
      [page('p1', 'a.html'), page('p2', 'b.html'), item('f1', 'u.bin'), item('f2', 'v.bin')],
      files,
      {
        outside: [
          { address: 'https://gone.example/x', state: 'gone', to: null, words: 'there is no such page', askedAt: '' },
        ],
      },
    );
    expect(found.map((f) => f.said)).toEqual([
      'link-outside-gone: Twin: link “x” to https://gone.example/x#part: there is no such page',
      'link-outside-gone: Twin: link “x” to https://gone.example/x#part: there is no such page',
      'doubled: Twin: the same as another page “Twin”, and in no place of the outline',
      'doubled: v.bin: v.bin (2.0\u00a0kB) is byte for byte u.bin',
    ]);
    expect(new Set(found.map((f) => f.key)).size).toBe(found.length);
  });

  it('tell addresses of a disk, a machine, a network or a site’s root from links that are broken', async () => {
    const addresses = [
      'file:///C:/Users/tutor/tides.doc',
      'C:\\tides.doc',
      'http://localhost:8080/x',
      'https://192.168.1.4/x',
      'https://[::1]/',
      '/files/12/tides.html',
      'gone.html',
      'https://10.example/x',
    ];
    const links = addresses.map((address) => `<a href="${address}">x</a>`).join(' ');
    const files = { 'p/a.html': `<p>${links}</p>` };
    const item: Item = { ...common('p1', 'P'), kind: 'page', file: 'p/a.html', definitionPath: 'p/a.html' };
    const found = await findingsOf([item], files, {}, [{ id: 'n', title: 'P', item: 'p1', children: [] }]);
    const kindOf = (address: string) => found.find((f) => f.evidence.endsWith(` to ${address}`))?.kind;
    expect(addresses.map(kindOf)).toEqual([
      ...Array.from({ length: 5 }, () => 'link-own-machine'),
      'link-from-root',
      'link-broken',
      undefined,
    ]);
  });
});

describe('Relations', () => {
  it('tell what points at what', async () => {
    const files = { 'a.html': '<a href="b.html">b</a><img src="p.png">', 'b.html': 'B', 'p.png': 'P' };
    const course = courseOf(
      [
        { ...common('a'), kind: 'page', file: 'a.html', definitionPath: 'a.html' },
        {
          ...common('b'),
          kind: 'page',
          file: 'b.html',
          definitionPath: 'b.html',
          settings: { visibleWhen: [{ is: 'score', item: 'q', side: 'at least', percent: 60 }] },
        },
        { ...common('q'), kind: 'quiz', questions: [], settings: { draws: { k: '2' } } },
        { ...common('k'), kind: 'bank', questions: [] },
      ],
      files,
    );
    const { course: seen, links } = await survey(await packageOf(files), course, { engine: nodeEngine });
    const { pointsAt, pointedAtBy } = relationsOf(seen, links);
    const words = (list: readonly { how: string; title: string }[] = []) => list.map((r) => `${r.how} ${r.title}`);
    expect(words(pointsAt.get('a'))).toEqual(['links to b', 'shows p.png']);
    expect(words(pointedAtBy.get('b'))).toEqual(['links to a']);
    expect(words(pointsAt.get('b'))).toEqual(['hangs on q']);
    expect(words(pointedAtBy.get('k'))).toEqual(['draws from q']);
  });
});
