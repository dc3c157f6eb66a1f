import { compare, partsOf } from '@treenail/core';
import { explainLog } from './log.ts';
import { Contents, spaceAsItStands } from './read-back.ts';

type Entry = Contents['units'][number]['entries'][number];
const entry = (id: string, sort: Entry['sort'], more: Partial<Entry> = {}): Entry => ({
  id,
  sort,
  title: `The ${sort}`,
  origin: null,
  body: '',
  url: '',
  file: null,
  files: [],
  marks: null,
  ways: [],
  tries: null,
  minutes: null,
  questions: [],
  hidden: false,
  ...more,
});
const QUESTION = {
  key: 'q1',
  label: 'One',
  form: 'one' as const,
  ask: '<p>Which?<img src="held:f2"></p>',
  marks: 2,
  options: [
    { key: 'a', text: 'this', right: false, reply: 'No.' },
    { key: 'b', text: 'that', right: true, reply: null },
  ],
  words: [],
  replies: { any: 'Look again.', right: null, wrong: 'Not so.' },
};
const SPACE: Contents = Contents.parse({
  units: [
    {
      id: 'u1',
      title: 'Week 1',
      origin: 'w1',
      entries: [
        entry('e1', 'text', { origin: 'p', body: '<h1>Read</h1><p>this <img src="held:f2"> and <b>that</b></p>' }),
        entry('e2', 'heading', { origin: 'h' }),
        entry('e3', 'file', { file: 'f1' }),
        entry('e4', 'file', { file: 'f9' }),
        entry('e5', 'task', { marks: 20, ways: ['file'], files: ['f1', 'f9'], body: '<p>Do it</p>' }),
        entry('e6', 'test', { origin: 'p', body: '<p>Begin</p>', tries: 2, minutes: 30, questions: [QUESTION] }),
        entry('e7', 'pointer', { url: 'https://harbour.example/' }),
        entry('e8', 'launcher', { url: 'https://sim.example/', body: '<p>Steers</p>' }),
        entry('e9', 'talk', {
          body: '<p>Say of <a href="entry:e6">it</a>, <a href="entry:e1">that</a>, <a href="entry:e99">none</a></p>',
        }),
      ],
    },
  ],
  pools: [
    {
      id: 'o1',
      title: 'Pool',
      origin: null,
      questions: [{ ...QUESTION, form: 'word', words: [{ text: 'oak', strict: true }] }],
    },
  ],
  files: [
    { id: 'f1', path: 'chart.pdf', bytes: 10, sha256: 'c'.repeat(64) },
    { id: 'f2', path: 'rope.png', bytes: 20, sha256: 'd'.repeat(64) },
  ],
});

describe('What Tarnhall has, as a course', () => {
  const { course, pages } = spaceAsItStands('Rigging', SPACE);
  const item = (title: string) => {
    const found = course.items.find((i) => i.title === title);
    if (!found) throw new Error(`no ${title}`);
    return found;
  };

  it('has the texts of its pages, by the identifiers of their items', () => {
    expect(pages).toEqual({ p: '<h1>Read</h1><p>this <img src="held:f2"> and <b>that</b></p>' });
  });

  it('keeps the identifiers that came along, each once, and gives others one of their own', () => {
    expect(course.items.map((i) => [i.kind, i.id])).toEqual([
      ['page', 'p'],
      ['file', 'tarnhall-e3'],
      ['file', 'tarnhall-e4'],
      ['assignment', 'tarnhall-e5'],
      // The same origin twice, as after a second import.
      ['quiz', 'tarnhall-e6'],
      ['link', 'tarnhall-e7'],
      ['tool', 'tarnhall-e8'],
      ['discussion', 'tarnhall-e9'],
      ['bank', 'tarnhall-o1'],
    ]);
    const [week] = course.outline;
    expect([week?.id, week?.children.length]).toEqual(['w1', 9]);
    expect(week?.children[1]).toEqual({ id: 'h', title: 'The heading', heading: true, children: [] });
  });

  it('tells settings only where there are some, and files that are really there', () => {
    expect(item('The task').settings).toEqual({
      points: 20,
      submissionFormats: ['file'],
      attachments: ['f1/chart.pdf'],
    });
    expect(item('The test').settings).toEqual({
      attempts: 2,
      timeLimit: 30,
      instructions: '<p>Begin</p>',
      embeds: ['f2/rope.png'],
    });
    expect(item('The text').settings).toEqual({ embeds: ['f2/rope.png'] });
    // Another task or test that a text leads to; that it leads to another text or a file is no setting of it.
    expect(item('The talk').settings).toEqual({ leads: { e6: 'The test' } });
    expect(course.files.map((f) => [f.path, f.mediaType, f.size])).toEqual([
      ['f1/chart.pdf', 'application/pdf', 10],
      ['f2/rope.png', 'image/png', 20],
    ]);
  });

  it('has questions with keys, feedback and pictures', () => {
    const quiz = item('The test');
    if (quiz.kind !== 'quiz') throw new Error('no quiz');
    const [question] = quiz.questions;
    expect(question && partsOf(question).choices.map((c) => [c.id, c.correct, c.feedback?.text])).toEqual([
      ['a', false, 'No.'],
      ['b', true, undefined],
    ]);
    expect(question?.feedback).toEqual({
      general: { format: 'html', text: 'Look again.' },
      incorrect: { format: 'html', text: 'Not so.' },
    });
    expect(question?.files).toEqual(['f2/rope.png']);
    const pool = item('Pool');
    expect(pool.kind === 'bank' && pool.questions.map((q) => [q.type, partsOf(q).answers])).toEqual([
      ['short answer', [{ text: 'oak', caseSensitive: true, match: 'equal' }]],
    ]);
  });

  it('has fingerprints by which a page is found again under another number', () => {
    const numbered = {
      ...SPACE,
      units: SPACE.units.map((u) => ({
        ...u,
        entries: u.entries.map((e) => ({
          ...e,
          id: e.id.replace('e', 'e9'),
          body: e.body.replaceAll('entry:e', 'entry:e9'),
          origin: null,
        })),
      })),
    };
    const lines = compare(course, spaceAsItStands('Rigging', Contents.parse(numbered)).course).lines;
    expect(lines.filter((l) => l.outcome !== 'whole').map((l) => l.title)).toEqual([]);
  });
});

describe("Tarnhall's log", () => {
  it('is told in words, with the item that a line means; what is not known stays as it is', () => {
    expect(
      ['T-100 MNF ok r=9 n=8', 'T-320 FIL chart.pdf 0', 'T-520 POL b1 q=12 cat drop', 'T-777 ???'].map(explainLog),
    ).toEqual([
      { line: 'T-100 MNF ok r=9 n=8', words: 'The package was read: 9 resources, 8 entries.', item: null },
      {
        line: 'T-320 FIL chart.pdf 0',
        words: 'A file was not found in the package and was left out.',
        item: 'chart.pdf',
      },
      {
        line: 'T-520 POL b1 q=12 cat drop',
        words: 'A question bank became a pool; the categories of its 12 questions were dropped.',
        item: 'b1',
      },
      { line: 'T-777 ???', words: null, item: null },
    ]);
  });
});
