import { encode } from 'cborg';
import fc from 'fast-check';
import { gzipSync } from 'node:zlib';
import { bytesSource } from '../../container/index.ts';
import { nodeEngine } from '../../container/node.ts';
import { momentOf, partsOf, Refusal, walkOutline, type Item } from '../../model/index.ts';
import { CRATE, PARCEL, entryOf } from '../../testing/archives.ts';
import { zipOf } from '../../testing/packages.ts';
import { openCourse, readCourse } from '../index.ts';

const read = async (bytes: Uint8Array) => {
  const pkg = await openCourse(bytesSource(bytes), { engine: nodeEngine });
  const { course, notes } = await readCourse(pkg);
  return { pkg, course, notes, codes: notes.map((n) => n.code) };
};
const codeOf = async (work: Promise<unknown>) =>
  work.then(
    () => 'read',
    (error: unknown) => (error instanceof Refusal ? error.problem.code : String(error)),
  );
const find = (items: readonly Item[], id: string) => items.find((i) => i.id === id);

const HEAD = { k: 'quern/4', code: 'TST 1', sec: '01', term: 'T', ttl: 'Tests', own: 'o', abt: 'About', kw: ['a'] };
const question = {
  ref: 'q1',
  title: 'One',
  prompt: '<p>Which? <img src="$PLACE$plate.png" alt="x"></p>',
  points: 2,
  topic: 'oak',
  type: 'choice',
  choices: [
    { text: 'this & that', right: true },
    { text: 'neither', right: false },
  ],
  answers: [],
  feedback: 'Look again.',
  model: null,
};
const node = (ref: string, up: string | null, place: number, sort: string, has: object = {}) => ({
  k: 'node',
  up,
  place,
  ref,
  sort,
  ttl: `Title ${ref}`,
  has,
});
const file = (at: string, text: string) => [
  { k: 'file', at, size: text.length },
  ...(text.match(/.{1,4}/gs) ?? []).map((piece) => ({ k: 'piece', d: new TextEncoder().encode(piece) })),
];
const RECORDS: object[] = [
  HEAD,
  node('f', null, 1, 'folder'),
  node('p', 'f', 0, 'page', { path: 'content/p.html', tutorsOnly: true, use: null }),
  node('k', null, 0, 'quiz', { intro: '<p>Go</p>', tries: 2, minutes: 10, questions: [question] }),
  { k: 'notices', has: { ref: 'n', title: 'News', text: '<p>Old</p>', posted: '2022-01-01T00:00:00Z' } },
  { k: 'checklists', has: { ref: 'c', title: 'First', steps: ['one', 'two'] } },
  {
    k: 'automations',
    has: { ref: 'a', title: 'Word', when: 'score-below', item: 'k', value: 50, mailTo: 'learner', text: 'Come.' },
  },
  {
    k: 'ledger',
    has: {
      letters: { Pass: 50 },
      categories: [{ ref: 'g', title: 'Quizzes', weight: 40, dropLowest: 1, equal: true }],
      columns: [
        { ref: 'l', title: 'Quiz', points: 20, category: 'g', item: 'k', bonus: false },
        { ref: 'm', title: 'Conduct', points: 5, category: null, item: null, bonus: true },
      ],
    },
  },
  {
    k: 'rules',
    has: {
      item: 'k',
      opens: null,
      due: '2026-10-01T16:00:00Z',
      closes: null,
      after: { item: 'p', score: 60 },
      done: 'passed',
      password: 'oakum',
      lockdown: true,
      originality: false,
      group: null,
      rubric: null,
      starter: null,
    },
  },
  { k: 'people', has: { name: 'Wren Aldous', mail: 'w@x.example', number: 'M1' } },
  { k: 'work', has: { person: 'M1', item: 'k', score: 70 } },
  ...file('content/p.html', '<html><body><p>Words</p></body></html>'),
  ...file('q/k/plate.png', 'not a picture'),
];
const archive = (records: readonly object[], end = true) =>
  new Uint8Array(
    gzipSync(Buffer.concat([...records, ...(end ? [{ k: 'end', n: records.length }] : [])].map((r) => encode(r)))),
  );

describe('The archive of Quernhold', () => {
  it('is read whole: outline in its order, items, rules, gradebook, what is personal', async () => {
    const { course, codes, pkg } = await read(archive(RECORDS));
    expect(codes).toEqual(['archive']);
    expect([course.title, course.origin.format]).toEqual(['Tests', 'quernhold']);
    expect([...walkOutline(course.outline)].map(({ node: n, depth }) => `${depth} ${n.title}`)).toEqual([
      '0 Title k',
      '0 Title f',
      '1 Title p',
    ]);
    const quiz = find(course.items, 'k');
    expect(quiz?.settings).toEqual({
      attempts: 2,
      timeLimit: 10,
      instructions: '<p>Go</p>',
      due: momentOf('2026-10-01T16:00:00Z'),
      visibleWhen: [{ is: 'score', item: 'p', side: 'at least', percent: 60 }],
      doneWhen: 'passed',
      password: 'oakum',
      lockdown: true,
    });
    const [asked] = quiz?.kind === 'quiz' ? quiz.questions : [];
    expect([asked?.prompt.text, asked?.files, asked?.category]).toEqual([
      '<p>Which? <img src="q/k/plate.png" alt="x"></p>',
      ['q/k/plate.png'],
      'oak',
    ]);
    expect(asked && partsOf(asked).choices.map((c) => [c.text.text, c.correct])).toEqual([
      ['this &amp; that', true],
      ['neither', false],
    ]);
    expect(find(course.items, 'p')?.settings).toEqual({ audience: 'Instructor' });
    expect(find(course.items, 'g')?.settings).toEqual({ weight: 40, dropLowest: 1, equalPoints: true });
    expect(find(course.items, 'm')?.settings).toEqual({ points: 5, bonus: true });
    expect(find(course.items, 'a')?.settings).toEqual({
      visibleWhen: [{ is: 'score', item: 'k', side: 'below', percent: 50 }],
      audience: 'learner',
    });
    const checklist = find(course.items, 'c');
    expect(checklist?.kind === 'checklist' && checklist.steps).toEqual(['one', 'two']);
    expect(course.personal).toEqual({ people: 1, submissions: 1, grades: 1, posts: 0, files: [] });
    expect(new TextDecoder().decode(await pkg.bytes('content/p.html'))).toContain('Words');
  });

  it('keeps what it does not understand, and says so', async () => {
    const { codes } = await read(archive([...RECORDS, { k: 'spells', has: {} }]));
    expect(codes).toEqual(['archive', 'foreign-record']);
  });

  it('is refused where it is cut off, ends too soon, or would leave its folder', async () => {
    const whole = archive(RECORDS);
    expect(await codeOf(read(archive(RECORDS, false)))).toBe('archive-damaged');
    expect(await codeOf(read(whole.subarray(0, whole.length - 60)))).not.toBe('read');
    expect(await codeOf(read(archive([HEAD, ...file('../../evil.html', 'x')])))).toBe('entry-leaves-package');
    expect(await codeOf(read(archive([{ k: 'quern/4' }])))).toBe('archive-damaged');
    expect(await codeOf(read(archive([HEAD, { k: 'late', at: 2n ** 62n }])))).toBe('archive-damaged');
  });

  it('never crashes a reader, however its bytes are spoiled', async () => {
    const plain = Buffer.concat([...RECORDS, { k: 'end', n: RECORDS.length }].map((r) => encode(r)));
    await fc.assert(
      fc.asyncProperty(fc.nat(plain.length - 1), fc.nat(255), async (at, byte) => {
        const spoiled = Buffer.from(plain);
        spoiled[at] = byte;
        const code = await codeOf(read(new Uint8Array(gzipSync(spoiled))));
        expect(code).toMatch(/^[a-z-]+$/);
      }),
      { numRuns: 300 },
    );
  });
});

describe('The parcel of Oxlea', () => {
  it('is read in the order of its folders, its texts as pages', async () => {
    const { course, codes, pkg } = await read(await zipOf(PARCEL));
    expect(codes).toEqual([]);
    expect([...walkOutline(course.outline)].map(({ node: n, depth }) => `${depth} ${n.title}`)).toEqual([
      '0 First',
      '1 Causes',
      '2 To read',
      '2 To do',
      '2 Sheet',
      '0 Second',
      '1 Streams',
      '2 Check',
    ]);
    const page = find(course.items, 'ox-a');
    expect(page?.kind === 'page' && new TextDecoder().decode(await pkg.bytes(page.file))).toContain(
      '<em>moon</em> pulls',
    );
    expect(find(course.items, 'ox-b')?.settings).toEqual({
      points: 30,
      due: momentOf('2026-05-29'),
      opens: momentOf('2025-09-14'),
    });
    const test = find(course.items, 'ox-d');
    expect(
      test?.kind === 'quiz' && test.questions.flatMap((q) => partsOf(q).choices.map((c) => c.correct)).slice(0, 2),
    ).toEqual([true, false]);
    expect(course.personal?.people).toBe(1);
  });

  it('says what is missing or strange, and refuses what is no YAML', async () => {
    const { codes } = await read(
      await zipOf({
        ...PARCEL,
        '1/01/03.yaml': 'key: c\nname: Sheet\nsort: handout\nfile: gone.pdf\n',
        '1/01/04.yaml': 'key: x\nname: X\nsort: spell\n',
      }),
    );
    expect(codes).toEqual(['file-missing', 'foreign-record']);
    expect(await codeOf(zipOf({ ...PARCEL, 'book.yaml': 'a: [' }).then(read))).toBe('yaml-malformed');
    expect(await codeOf(zipOf({ ...PARCEL, 'book.yaml': 'oxlea: two' }).then(read))).toBe('archive-damaged');
    const bomb = 'a: &a [x]\nb: &b [*a, *a]\nc: [*b, *b]\n';
    expect(await codeOf(zipOf({ ...PARCEL, 'book.yaml': bomb }).then(read))).toBe('yaml-malformed');
  });
});

describe('The crate of Tarnhall', () => {
  it('is read from document to document, texts as pages, files under their names', async () => {
    const { course, codes, pkg } = await read(await zipOf(CRATE));
    expect(codes).toEqual([]);
    expect(course.outline.map((u) => [u.id, u.children.map((c) => c.item ?? `heading ${c.id}`)])).toEqual([
      ['folder-1', ['heading tarnhall-h', 'page-1', 'tarnhall-f', 'tarnhall-k']],
    ]);
    const page = find(course.items, 'page-1');
    expect(page?.kind === 'page' && new TextDecoder().decode(await pkg.bytes(page.file))).toContain(
      '<img src="../files/f1/plate%20one.png">',
    );
    const file = find(course.items, 'tarnhall-f');
    expect(file?.kind === 'file' && file.file).toBe('files/f1/plate one.png');
    const quiz = find(course.items, 'tarnhall-k');
    expect(quiz?.settings).toEqual({ attempts: 2, timeLimit: 9 });
    expect(quiz?.kind === 'quiz' && quiz.questions[0]?.files).toEqual(['files/f1/plate one.png']);
    expect(find(course.items, 'tarnhall-p')?.kind).toBe('bank');
  });

  it('is refused where it points at nothing or at what is none', async () => {
    const spoiled = async (more: Record<string, object | string>) =>
      codeOf(
        zipOf({
          ...CRATE,
          ...Object.fromEntries(
            Object.entries(more).map(([p, v]) => [p, typeof v === 'string' ? v : JSON.stringify(v)]),
          ),
        }).then(read),
      );
    expect(await spoiled({ 'units/u.json': { id: 'u', title: 'U', origin: null, entries: ['nowhere.json'] } })).toBe(
      'archive-damaged',
    );
    expect(await spoiled({ 'entries/t.json': '{"id":' })).toBe('archive-damaged');
    expect(await spoiled({ 'entries/t.json': entryOf('t', 'spell') })).toBe('archive-damaged');
    // A document that points at itself is read once, and not for ever.
    expect(
      await spoiled({
        'units/u.json': { id: 'u', title: 'U', origin: null, entries: ['entries/t.json', 'entries/t.json'] },
      }),
    ).toBe('read');
  });
});

describe('Archives that were zipped once more by hand', () => {
  const wrapped = (files: Parameters<typeof zipOf>[0]) =>
    zipOf(Object.fromEntries(Object.entries(files).map(([path, body]) => [`BTB 210/${path}`, body])));

  it('are read from one more folder, and say so', async () => {
    for (const [files, format] of [
      [PARCEL, 'oxlea'],
      [CRATE, 'tarnhall'],
    ] as const) {
      const { pkg, course } = await read(await wrapped(files));
      const whole = await read(await zipOf(files));
      expect([course.origin.format, course.items.length]).toEqual([format, whole.course.items.length]);
      expect(pkg.notes.map((n) => n.code)).toContain('wrapped-folder');
    }
  });

  it('are read where they lie in a zip by themselves, and no deeper', async () => {
    const own = archive(RECORDS);
    const { pkg, course } = await read(await zipOf({ 'backup of BTB.quern': own }));
    expect([course.title, course.origin.format]).toEqual(['Tests', 'quernhold']);
    expect(pkg.notes.map((n) => n.code)).toContain('wrapped-file');
    const twice = await zipOf({ 'a.zip': await zipOf({ 'b.quern': own }) });
    expect(await codeOf(read(twice))).not.toBe('read');
    // With something beside it, it is a file among others.
    expect((await read(await zipOf({ 'x.quern': own, 'index.html': '<title>T</title>' }))).course.origin.format).toBe(
      'site',
    );
  });

  it('say what their platform calls the course', async () => {
    const { course } = await read(archive(RECORDS));
    expect(course.identity).toEqual({ id: '', code: 'TST 1', section: '01', term: 'T' });
    expect((await read(await zipOf(CRATE))).course.identity?.code).not.toBe('');
  });
});
