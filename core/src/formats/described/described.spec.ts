import type { Format } from '../format.ts';
import fc from 'fast-check';
import { stringify } from 'yaml';
import { bytesSource, openAny, type Package } from '../../container/index.ts';
import { nodeEngine } from '../../container/node.ts';
import { momentOf, Refusal, walkOutline, type Course } from '../../model/index.ts';
import { withParts } from '../../testing/made.ts';
import { FOLIO, askOf, crates, entryOf } from '../../testing/archives.ts';
import { zipOf, type Files } from '../../testing/packages.ts';
import { openCourse, readCourse } from '../index.ts';
import {
  EXAMPLE_DESCRIPTIONS,
  Trace,
  describedFormat,
  openArchive,
  readDescribed,
  readDescription,
  starter,
  tryDescription,
  type Description,
} from './index.ts';

const example = (name: string): Description => {
  const read = readDescription(EXAMPLE_DESCRIPTIONS.find((e) => e.name === name)?.text ?? '');
  if (!read.description) throw new Error(JSON.stringify(read.problems));
  return read.description;
};
const TARNHALL = example('tarnhall');
const DUNLIN = example('dunlin');

const unpackersOf = ({ unpacker }: Format) => (unpacker ? [unpacker] : []);

async function readBy(description: Description, bytes: Uint8Array) {
  const format = describedFormat(description);
  const pkg = await openAny(bytesSource(bytes), { engine: nodeEngine, unpackers: unpackersOf(format) });
  expect(await format.detect(pkg)).toBe(description.version);
  return { pkg, ...(await format.read(pkg)) };
}
const textIn = async (pkg: Package, path: string) => new TextDecoder().decode(await pkg.bytes(path));
const codeOf = async (work: Promise<unknown>) =>
  work.then(
    () => 'read',
    (error: unknown) => (error instanceof Refusal ? error.problem.code : String(error)),
  );
const bare = (course: Course) => ({
  ...course,
  origin: null,
  // A description says what is in a course, not what its platform calls it.
  identity: null,
  files: [...course.files].sort((a, b) => (a.path < b.path ? -1 : 1)),
});

describe('A described archive', () => {
  it('of Tarnhall is the same course as the coded reader gives, for whatever a crate holds', async () => {
    await fc.assert(
      fc.asyncProperty(crates, async (files) => {
        const bytes = await zipOf(files);
        const coded = await openCourse(bytesSource(bytes), { engine: nodeEngine });
        const { course } = await readCourse(coded);
        const described = await readBy(TARNHALL, bytes);
        expect(bare(described.course)).toEqual(bare(course));
        for (const item of course.items) {
          if (item.kind === 'page') {
            expect(await textIn(described.pkg, item.file)).toBe(await textIn(coded, item.file));
          }
        }
      }),
      { numRuns: 60 },
    );
  });

  it('says which parts of a question its type has no place for', async () => {
    const text = EXAMPLE_DESCRIPTIONS.find((e) => e.name === 'dunlin')?.text ?? '';
    const wrong = readDescription(text.replace('numeric', 'essay')).description;
    if (!wrong) throw new Error('the description can not be read');
    const { notes } = await readBy(wrong, await zipOf(FOLIO));
    expect(notes.map((n) => n.code)).toContain('description-part');
    expect(notes.find((n) => n.code === 'description-part')?.message).toContain('which has no numbers');
  });

  it('of a platform without a reader is read from XML: chapters in chapters, texts looked up, links between them', async () => {
    const { course, notes, pkg } = await readBy(DUNLIN, await zipOf(FOLIO));
    expect(notes).toEqual([]);
    expect([course.title, course.metadata]).toEqual([
      'Night tides',
      {
        keywords: ['tides', 'night'],
        catalogEntry: 'TID 9',
        description: 'For those who work by day.',
        rights: 'By leave of the harbour',
        language: 'en',
      },
    ]);
    const shown = [...walkOutline(course.outline)].map(({ node, depth }) => `${depth} ${node.title}`);
    expect(shown).toEqual([
      '0 Moon and water',
      '1 Why it rises',
      '1 When it falls',
      '1 Table of heights',
      '1 Tides so far',
      '1 Tables',
      '1 Seen at night',
      '1 Springs',
      '2 Draw a curve',
    ]);
    const item = (id: string) => course.items.find((i) => i.id === `dunlin-${id}`);
    expect(item('21')).toEqual(
      jasmine.objectContaining({
        kind: 'assignment',
        text: { format: 'html', text: '<p>Use <strong>soft</strong> pencil.</p>\n' },
        settings: {
          points: 20,
          due: momentOf('2026-10-19T16:00:00Z'),
          hidden: true,
          attachments: ['hold/heights 1.csv'],
        },
      }),
    );
    expect(await textIn(pkg, 'dunlin-11.html')).toContain(
      '<p>See <a href="dunlin-12.html">the next</a> and <img src="hold/heights%201.csv" alt="heights"/>.</p>',
    );
    const quiz = item('14');
    expect(quiz?.settings).toEqual({ timeLimit: 20, attempts: 2, password: 'ebb' });
    const questions = quiz?.kind === 'quiz' ? quiz.questions.map(withParts) : [];
    expect(questions.map((q) => [q.type, q.points])).toEqual([
      ['choice', 2],
      ['numeric', 1],
      ['matching', 4],
      ['short answer', 1],
    ]);
    expect(questions[0]?.choices.map((c) => [c.id, c.correct, c.feedback?.text])).toEqual([
      ['a', true, 'It does.'],
      ['b', false, undefined],
    ]);
    expect(questions[0]?.prompt.text).toBe('What pulls <b>most</b>?');
    expect(questions[1]?.numbers).toEqual([{ value: 12.4, low: 12.3, high: 12.5 }]);
    expect(questions[2]?.pairs).toEqual([
      { choice: 'l1', target: 'r1' },
      { choice: 'l2', target: 'r2' },
    ]);
    expect(questions[3]?.answers.map((a) => a.text)).toEqual(['ebb', 'low tide']);
    expect(item('R')).toEqual(
      jasmine.objectContaining({
        marks: [
          { code: 'H', label: 'Here', percent: 100 },
          { code: 'L', label: 'Late', percent: 50 },
        ],
      }),
    );
    expect(item('N')?.settings).toEqual({ posted: momentOf('2026-09-14T08:00:00Z') });
    expect(course.personal).toEqual({ people: 2, submissions: 0, grades: 1, posts: 0, files: [] });
  });

  it('is opened like any other format once it is known, and never in place of one that is coded', async () => {
    const described = [describedFormat(DUNLIN), describedFormat({ ...TARNHALL, name: 'Another' })];
    const open = async (files: Files) => {
      const pkg = await openCourse(bytesSource(await zipOf(files)), { engine: nodeEngine, described });
      return (await readCourse(pkg, described)).course.origin;
    };
    expect(await open(FOLIO)).toEqual({ format: 'described', version: 'Dunlin folio 2', untouched: true });
    expect(
      (
        await open({
          'crate.json': JSON.stringify({ crate: 1, code: '', title: 'T', units: [], pools: [], files: [] }),
        })
      ).format,
    ).toBe('tarnhall');
    expect((await open({ 'a.html': '<title>A</title>', 'folio.xml': '<other/>' })).format).toBe('site');
  });

  it('may be one document with its files inside', async () => {
    const { description } = readDescription(
      stringify({
        description: 1,
        id: 'one-file',
        name: 'One file',
        version: 1,
        fits: { file: 'course.json' },
        container: { document: 'course.json', begins: '{"satchel"' },
        files: { find: '$.papers[*]', key: '$.n', base64: '$.data', path: { fill: 'papers/{$.n}' } },
        course: { find: { in: 'course.json' }, title: '$.satchel' },
        outline: [{ find: '$.papers[*]', kind: 'file', id: '$.n', title: '$.n', file: '$.n' }],
      }),
    );
    if (!description) throw new Error('not read');
    const text = JSON.stringify({ satchel: 'Knots', papers: [{ n: 'a.txt', data: btoa('bowline') }] });
    const { course, pkg } = await readBy(description, new TextEncoder().encode(text));
    expect([course.title, course.outline[0]?.item]).toEqual(['Knots', 'a.txt']);
    expect(await textIn(pkg, 'papers/a.txt')).toBe('bowline');
    const spoiled = JSON.stringify({ satchel: 'Knots', papers: [{ n: 'a.txt', data: 'no base64!' }] });
    expect(await codeOf(readBy(description, new TextEncoder().encode(spoiled)))).toBe('archive-damaged');
  });
});

describe('What a description finds', () => {
  it('is written down rule by rule, with what no rule reads and which files nothing speaks of', async () => {
    const pkg = await openAny(bytesSource(await zipOf(FOLIO)), {
      engine: nodeEngine,
      unpackers: unpackersOf(describedFormat(DUNLIN)),
    });
    const trace = new Trace();
    const { foreign } = await readDescribed(pkg, DUNLIN, trace);
    expect(foreign).toEqual(['fenwright/seal.sig']);
    const rules = trace.rules();
    const of = (rule: string) => rules.find((r) => r.rule === rule);
    expect(of('chapter')?.records).toBe(2);
    expect(of('chapter.inside.0')?.records).toBe(7);
    expect(of('chapter.inside.0')?.fields.find((f) => f.name === 'title')).toEqual({
      name: 'title',
      found: 7,
      sample: 'Why it rises',
    });
    expect(of('course')?.unread).toEqual([
      { place: '@dunlin', found: 1, sample: '2' },
      { place: 'lanterns/@trimmed', found: 1, sample: 'nightly' },
    ]);
    expect(of('in fenwright/leaves.xml')?.unread).toEqual([{ place: 'leaves/errata', found: 1, sample: 'none' }]);
    expect(of('personal.people')?.unread.map((u) => u.place)).toEqual(['@name', 'mark']);
  });

  it('of JSON leaves out what was read, whole lists included', async () => {
    const files = {
      'crate.json': JSON.stringify({
        crate: 1,
        code: '',
        title: 'T',
        units: ['u.json'],
        pools: [],
        files: [],
        packer: 'x',
      }),
      'u.json': JSON.stringify({ id: 'u', title: 'U', origin: null, entries: ['e.json'] }),
      'e.json': JSON.stringify(entryOf('e', 'test', { asks: ['q.json'], colour: 'teal', tags: ['a', 'b'] })),
      'q.json': JSON.stringify(askOf()),
    };
    const trace = new Trace();
    const pkg = await openAny(bytesSource(await zipOf(files)), { engine: nodeEngine });
    await readDescribed(pkg, TARNHALL, trace);
    expect(trace.rules().flatMap((r) => r.unread.map((u) => `${r.rule} ${u.place} ${u.found}`))).toEqual([
      'course $.crate 1',
      'course $.packer 1',
      'outline.0.inside.0 $.colour 1',
      'outline.0.inside.0 $.tags[*] 2',
    ]);
  });
});

describe('A description that is wrong', () => {
  const GOOD = `description: 1
id: abc
name: Abc
version: '1'
fits: { file: a.json }
course:
  find: { in: a.json }
  title: $.title
outline:
  - find: $.things[*]
    kind: page
    id: $.id
    title: $.title
    text: $.text
`;
  const told = (text: string) => (readDescription(text).problems ?? []).map((p) => `${p.code} ${p.line}: ${p.message}`);

  it('is told line by line', () => {
    expect(told(GOOD)).toEqual([]);
    expect(told(GOOD.replace('title: $.title\noutline', 'titel: $.title\noutline'))).toEqual([
      'description-malformed 7: course.title is missing.',
      'description-malformed 8: titel is no word of course.',
    ]);
    expect(told(`${GOOD}    txt: $.b\n`)).toEqual(['description-malformed 15: txt is no word of outline.0.']);
    expect(told(GOOD.replace('kind: page', 'kind: { table: { a: page } }'))[0]).toContain(
      'description-malformed 11: outline.0.kind',
    );
    expect(told(GOOD.replace('$.text', "'$.text[?(@.a)]'"))[0]).toContain('description-path 14');
    expect(told(GOOD.replace('$.text', "'//a['"))[0]).toContain('description-path 14');
    expect(told(GOOD.replace('$.text', '{ path: $.x, look: texts, then: $.body }'))).toEqual([
      'description-name 14: There are no records named texts.',
    ]);
    expect(told(GOOD + '    inside: [{ again: chapter }]\n')).toEqual([
      'description-name 15: There is no rule named chapter.',
    ]);
    expect(told(GOOD.replace('outline:', 'outline: ]'))[0]).toContain('description-yaml 9');
    expect(told('')[0]).toContain('description-malformed');
  });

  it('is refused where it would never end, finds no course, or seeks one kind of path in the other', async () => {
    const tryIt = async (text: string, files: Files) => {
      const { description, problems } = readDescription(text);
      if (!description) return problems?.[0]?.code ?? '';
      const pkg = await openAny(bytesSource(await zipOf(files)), { engine: nodeEngine });
      return codeOf(readDescribed(pkg, description));
    };
    const round =
      GOOD.replace('find: $.things[*]', 'name: thing\n    find: { at: "$.things[*]", follow: true }') +
      '    inside: [{ again: thing }]\n';
    expect(
      await tryIt(round, {
        'a.json': '{"title":"T","things":["b.json"]}',
        'b.json': '{"id":"b","title":"B","things":["b.json"]}',
      }),
    ).toBe('description-endless');
    const same = GOOD.replace('find: $.things[*]', 'name: thing\n    find: $') + '    inside: [{ again: thing }]\n';
    expect(await tryIt(same, { 'a.json': '{"title":"T"}' })).toBe('description-endless');
    expect(await tryIt(GOOD, { 'b.json': '{}' })).toBe('description-course');
    expect(await tryIt(GOOD.replace('$.text', 'text'), { 'a.json': '{"title":"T","things":[{"id":"x"}]}' })).toBe(
      'description-path',
    );
    expect(await tryIt(GOOD, { 'a.json': '{"title":' })).toBe('archive-document');
    expect(await tryIt(GOOD, { 'a.json': '{"title":"T","things":[{"id":"../../x","title":"X","text":"t"}]}' })).toBe(
      'read',
    );
  });

  it('has its starter, which reads what it was made of', async () => {
    const archives = [
      await zipOf(FOLIO),
      await zipOf({
        'basket.json': '{"title":"T","units":["u.json"]}',
        'u.json': '{"id":"u","title":"U","entries":[{"id":1,"name":"N","text":"words"}]}',
      }),
      new TextEncoder().encode(
        '<?xml version="1.0"?><satchel title="S"><paper no="1" name="One">words</paper></satchel>',
      ),
    ];
    for (const bytes of archives) {
      const archive = await openArchive(bytesSource(bytes), { engine: nodeEngine });
      const { description, problems } = readDescription(await starter(archive, 'An archive.zip'));
      expect(problems).toBeUndefined();
      if (!description) continue;
      const { course, fits } = await tryDescription(archive.pkg, description);
      expect(fits).toBeTrue();
      expect(course.items.length).toBeGreaterThan(0);
      // What was tried is what it then reads like any other format.
      const described = [describedFormat(description)];
      const pkg = await openCourse(bytesSource(bytes), { engine: nodeEngine, described });
      expect((await readCourse(pkg, described)).course.outline).toEqual(course.outline);
    }
  });
});
