import { momentOf, partsOf } from '../model/index.ts';
import { forecast } from '../fit/index.ts';
import type { Course, Item, Profile, Question } from '../model/index.ts';
import { common, courseOf, question, text, withParts } from '../testing/made.ts';
import { CheckedLine, compare } from './index.ts';

const print = (item: Item, of: string): Item => ({ ...item, fingerprint: of });
const page = (id: string, title: string, of = id): Item =>
  print({ ...common(id, title), kind: 'page', file: `${id}.html` }, of);
const quiz = (id: string, ...questions: Question[]): Item => ({ ...common(id), kind: 'quiz', questions });
const course = (...items: Item[]): Course => courseOf(items, {});
const inFolder = (folder: string, ...items: Item[]): Course => ({
  ...course(...items),
  outline: [
    {
      id: `o-${folder}`,
      title: folder,
      children: items.map((i) => ({ id: `n-${i.id}`, title: i.title, item: i.id, children: [] })),
    },
  ],
});
/** What became of each thing, in words. */
const told = (a: Course, b: Course) =>
  compare(a, b).lines.map((l) => [l.title, l.outcome, ...l.reasons, ...l.parts.map((p) => `${p.title}: ${p.reason}`)]);

describe('A comparison that was kept before', () => {
  it('is read with what its forecast said, under the name that it has now', () => {
    const line = { source: 'a', arrived: null, title: 'A', kind: 'page', trail: [], as: null, outcome: 'whole' };
    const kept = { ...line, reasons: [], settings: [], parts: [], foretold: 'reworked' };
    expect(CheckedLine.parse(kept).predicted).toBe('reworked');
    expect(CheckedLine.parse({ ...kept, foretold: undefined, predicted: null }).predicted).toBeNull();
    expect(CheckedLine.safeParse({ ...kept, foretold: 'perhaps' }).success).toBeFalse();
  });
});

describe('What arrived, beside what was sent', () => {
  it('may be the same question twice, and is told where it is asked once only', () => {
    const [a, b] = [question('a'), question('b')];
    expect(told(course(quiz('z', a, b, a)), course(quiz('z', a, b, a)))).toEqual([['z', 'whole']]);
    expect(told(course(quiz('z', a, b, a)), course(quiz('z', a, b)))).toEqual([
      ['z', 'reworked', 'a: the question is not there'],
    ]);
  });

  describe('finds a thing again', () => {
    it('by its title and words, when the platform has given everything new identifiers', () => {
      const sent = course(page('p1', 'Scarf joints'), page('p2', 'Fairing'));
      const there = course(page('901', 'Fairing', 'p2'), page('902', 'Scarf joints', 'p1'));
      expect(told(sent, there)).toEqual([
        ['Scarf joints', 'whole'],
        ['Fairing', 'whole'],
      ]);
    });

    it('by its words alone, when it was renamed', () => {
      expect(told(course(page('p1', 'Scarf joints')), course(page('9', 'Scarfs', 'p1')))).toEqual([
        ['Scarf joints', 'reworked', 'its title is now “Scarfs”'],
      ]);
    });

    it('in each of its places, and says what leads elsewhere or hangs below it no more', () => {
      const places = (second: string, inside: boolean): Course => {
        const below = { id: 'n-b', title: 'b', item: 'b', children: [] };
        const first = { id: 'n-a', title: 'a', item: 'a', children: inside ? [below] : [] };
        const again = { id: 'again', title: 'Again', item: second, settings: { hidden: true }, children: [] };
        const outline = inside ? [first, again] : [first, below, again];
        return { ...course(page('a', 'a'), page('b', 'b')), outline };
      };
      expect(told(places('a', true), places('a', true)).map(([, outcome]) => outcome)).toEqual([
        'whole',
        'whole',
        'whole',
      ]);
      expect(told(places('a', true), places('b', false))).toEqual([
        ['a', 'reworked', 'what hung below it does so no more'],
        ['b', 'whole'],
        ['Again', 'reworked', 'it leads to something else'],
      ]);
      const settings = compare(places('a', true), course(page('a', 'a'), page('b', 'b'))).lines.at(-1)?.settings;
      expect(settings?.map((s) => [s.name, s.outcome])).toEqual([['hidden', 'left behind']]);
    });

    it('by the folder it is in, when two have one title and no words to tell them by', () => {
      const bare = (id: string): Item => ({ ...common(id, 'Checklist'), kind: 'discussion', text: text('') });
      const two = (first: string, second: string): Course => {
        const a = inFolder('Week 1', bare(first));
        const b = inFolder('Week 2', bare(second));
        return { ...a, items: [...a.items, ...b.items], outline: [...a.outline, ...b.outline] };
      };
      const { lines } = compare(two('d1', 'd2'), two('x2', 'x1'));
      const key = (id: string) => lines.find((l) => l.source?.includes(id))?.arrived;
      expect(key('d1')).toContain('x2');
      expect(key('d2')).toContain('x1');
    });

    it('by its identifier as something else, where another of its title is gone', () => {
      const gone: Item = { ...common('c1', 'Rigging'), kind: 'checklist', text: text(''), steps: [] };
      const talk: Item = { ...common('t1', 'Rigging'), kind: 'discussion', text: text('Why?') };
      expect(told(course(gone, talk), course(page('t1', 'Rigging')))).toEqual([
        ['Rigging', 'left behind', 'it is not there'],
        ['Rigging', 'reworked', 'arrived as page'],
      ]);
    });

    it('by the beginning of a title that was cut', () => {
      const long = 'How a lapstrake hull is planked from the garboard up';
      const sent: Item = { ...common('a', long), kind: 'link', url: 'https://a.example/' };
      const there: Item = { ...common('z', long.slice(0, 30)), kind: 'link', url: 'https://a.example/' };
      expect(told(course(sent), course(there))[0]?.[1]).toBe('reworked');
      expect(compare(course(sent), course(there)).totals.extra).toBe(0);
    });

    it('as something else, and says as what', () => {
      const sent: Item = { ...common('a', 'Log'), kind: 'assignment', text: text('Write') };
      const there: Item = { ...common('b', 'Log'), kind: 'discussion', text: text('Write') };
      expect(told(course(sent), course(there))).toEqual([['Log', 'reworked', 'arrived as discussion']]);
    });
  });

  it('says what is not there, with every setting that went with it, and what nobody sent', () => {
    const gone: Item = {
      ...common('a', 'Knots'),
      kind: 'assignment',
      text: text('Tie'),
      settings: { points: 5, due: momentOf('2026-10-02T22:00:00Z') },
    };
    const extra = page('x', 'Welcome');
    const { lines, totals, otherwise } = compare(course(gone), course(extra));
    expect([totals['left behind'], totals.extra, otherwise]).toEqual([1, 1, 1]);
    expect(lines[0]?.settings.map((s) => [s.name, s.outcome]).sort()).toEqual([
      ['due', 'left behind'],
      ['points', 'left behind'],
    ]);
    expect(lines[1]?.reasons).toEqual(['nobody sent it']);
  });

  it('pairs a thing that came twice with one of the two, and calls the other extra', () => {
    const { totals } = compare(course(page('p', 'Tides')), course(page('1', 'Tides', 'p'), page('2', 'Tides', 'p')));
    expect([totals.whole, totals.extra]).toEqual([1, 1]);
  });

  it('tells words that differ from words that could not be read', () => {
    const sent = course(page('p', 'Tides', 'one'));
    expect(told(sent, course(page('p', 'Tides', 'two')))).toEqual([['Tides', 'reworked', 'its text is not the same']]);
    const unread: Item = { ...common('p', 'Tides'), kind: 'page', file: 'p.html' };
    expect(told(sent, course(unread))).toEqual([['Tides', 'unsure', 'its content could not be read on both sides']]);
    const file = (of: string): Item => print({ ...common('f', 'Chart'), kind: 'file', file: 'c.pdf' }, of);
    expect(told(course(file('a')), course(file('b')))).toEqual([['Chart', 'reworked', 'its bytes are not the same']]);
  });

  describe('judges settings', () => {
    it('by what a person reads: a text that says nothing may as well not be there, a picture may not', () => {
      const told = (instructions: string) => ({ ...quiz('q'), settings: { instructions } });
      const became = (a: Item, b: Item) => compare(course(a), course(b)).lines.map((l) => l.outcome);
      for (const empty of ['<a a', '<p>&nbsp;</p>', '<div></div>']) {
        expect(became(told(empty), quiz('q')))
          .withContext(empty)
          .toEqual(['whole']);
        expect(became(quiz('q'), told(empty)))
          .withContext(empty)
          .toEqual(['whole']);
      }
      expect(became(told('<img src="plan.png">'), quiz('q'))).toEqual(['reworked']);
      expect(became(told('a < b'), quiz('q'))).toEqual(['reworked']);
    });

    it('by the minute: a date that arrived an hour off is one that did not arrive', () => {
      const due = (at: string): Course => {
        const settings = { due: momentOf(at) };
        return course({ ...common('a'), kind: 'assignment', text: text(''), settings });
      };
      const settingsOf = (a: Course, b: Course) =>
        compare(a, b).lines.flatMap((l) => l.settings.map((s) => `${s.name}: ${s.outcome}`));
      expect(settingsOf(due('2027-01-22T17:00:00Z'), due('2027-01-22T18:00:00+01:00'))).toEqual(['due: whole']);
      expect(settingsOf(due('2027-01-22T17:00:00Z'), due('2027-01-22T16:00:00Z'))).not.toEqual(['due: whole']);
      expect(compare(due('2027-01-22T17:00:00Z'), due('2027-01-22T16:00:00Z')).totals.whole).toBe(0);
    });

    const with_ = (settings: Item['settings'], id = 'a'): Item => ({
      ...common(id, 'Log'),
      kind: 'assignment',
      text: text('Write'),
      settings,
    });
    const settings = (a: Item['settings'], b: Item['settings'], files: [Course['files'], Course['files']] = [[], []]) =>
      compare(
        { ...course(with_(a)), files: files[0] },
        { ...course(with_(b)), files: files[1] },
      ).lines[0]?.settings.map((s) => [s.name, s.outcome, s.reason]);
    const file = (path: string, sha256: string) => ({
      path,
      size: 1,
      mediaType: 'application/pdf',
      role: 'content' as const,
      sha256,
    });

    it('each by itself: the same, another, gone, new', () => {
      expect(settings({ points: 5, attempts: 2, password: 'x' }, { points: 5, attempts: 3, timeLimit: 9 })).toEqual(
        jasmine.arrayWithExactContents([
          ['points', 'whole', ''],
          ['attempts', 'reworked', 'has another value'],
          ['password', 'left behind', 'it is not there'],
          ['timeLimit', 'extra', 'nobody set it'],
        ]),
      );
    });

    it('texts by what they say', () => {
      const was = { instructions: '<p>No <b>notes</b>.</p>' };
      expect(settings(was, { instructions: '<div>No <strong>notes</strong>.</div>' })?.[0]?.[1]).toBe('whole');
      expect(settings(was, { instructions: '<div>No notes.</div>' })?.[0]?.[1]).toBe('reworked');
      expect(settings(was, { instructions: '<p>Notes.</p>' })?.[0]?.[1]).toBe('reworked');
    });

    it('attachments by what they hold, wherever they lie now', () => {
      const both: [Course['files'], Course['files']] = [
        [file('old/rope.pdf', 'h1'), file('old/knot.pdf', 'h2')],
        [file('f/77.pdf', 'h1'), file('f/78.pdf', 'h3')],
      ];
      expect(settings({ attachments: ['old/rope.pdf'] }, { attachments: ['f/77.pdf'] }, both)).toEqual([
        ['attachments', 'whole', ''],
      ]);
      // Handed out in the text instead: there all the same.
      expect(settings({ attachments: ['old/rope.pdf'] }, { embeds: ['f/77.pdf'] }, both)).toEqual([
        ['attachments', 'whole', ''],
      ]);
      expect(settings({ attachments: ['old/rope.pdf', 'old/knot.pdf'] }, { attachments: ['f/77.pdf'] }, both)).toEqual([
        ['attachments', 'reworked', 'not there: knot.pdf'],
      ]);
      expect(settings({ attachments: ['old/knot.pdf'] }, {}, both)).toEqual([
        ['attachments', 'left behind', 'it is not there'],
      ]);
      expect(settings({ attachments: ['old/rope.pdf'] }, { attachments: ['f/77.pdf', 'f/78.pdf'] }, both)).toEqual([
        ['attachments', 'reworked', 'added: 78.pdf'],
      ]);
    });

    it('draws by how many, since banks are called otherwise after a platform has numbered them', () => {
      expect(settings({ draws: { b1: '3', b2: '1' } }, { draws: { 88: '1', 99: '3' } })).toEqual([
        ['draws', 'whole', ''],
      ]);
      expect(settings({ draws: { b1: '3' } }, { draws: { 88: '2' } })?.[0]?.[1]).toBe('reworked');
    });
  });

  describe('goes through a quiz question by question', () => {
    const parts = (a: Question[], b: Question[]) =>
      compare(course(quiz('q', ...a)), course(quiz('q', ...b))).lines[0]?.parts.map((p) => [
        p.title,
        p.outcome,
        p.reason,
      ]);

    it('and names only those that are not whole', () => {
      const kept = question('k');
      const changed = question('c', { points: 3 });
      expect(parts([kept, changed, question('gone')], [kept, { ...changed, points: 1 }, question('new')])).toEqual([
        ['c', 'reworked', '3 points became 1'],
        ['gone', 'left behind', 'the question is not there'],
        ['new', 'extra', 'nobody sent this question'],
      ]);
    });

    it('finding a question again by its prompt', () => {
      const was = question('a', { title: 'Overlap' });
      expect(parts([was], [{ ...was, id: '4711' }])).toEqual([]);
    });

    it('and says every part that changed', () => {
      const was = question('a', { feedback: { correct: text('Yes') }, category: 'hull', files: ['m/hull.png'] });
      const [choice] = partsOf(was).choices;
      const other: [Parameters<typeof question>[1], string][] = [
        [{ type: 'multiple response' }, 'choice became multiple response'],
        [{ title: 'b' }, 'its title is not the same'],
        [{ points: null }, '1 points became none'],
        [{ category: 'keel' }, 'its category is not the same'],
        [{ choices: choice ? [{ ...choice, correct: false }] : [] }, 'its choices or keys are not the same'],
        [{ feedback: {} }, 'its feedback is not the same'],
        [{ files: [] }, 'its pictures are not the same'],
      ];
      for (const [change, reason] of other) {
        expect(parts([was], [question('a', { ...withParts(was), ...change })])).toEqual([['a', 'reworked', reason]]);
      }
      const answers = [{ text: 'x', caseSensitive: false, match: 'equal' as const }];
      expect(parts([question('a', { type: 'pattern', answers })], [question('a', { type: 'pattern' })])).toEqual([
        ['a', 'reworked', 'its accepted answers are not the same'],
      ]);
      const numbers = [{ value: 1, low: 1, high: 2 }];
      expect(parts([question('a', { type: 'numeric', numbers })], [question('a', { type: 'numeric' })])).toEqual([
        ['a', 'reworked', 'its accepted numbers are not the same'],
      ]);
    });

    it('comparing pairs and orders by their places, since their identifiers change', () => {
      const choices = (a: string, b: string) => [
        { id: a, text: text('bow'), correct: false },
        { id: b, text: text('stern'), correct: false },
      ];
      const order = (a: string, b: string, ...right: string[]) =>
        question('o', { type: 'ordering', choices: choices(a, b), order: right, shuffled: true });
      expect(parts([order('1', '2', '1', '2')], [order('x', 'y', 'x', 'y')])).toEqual([]);
      expect(parts([order('1', '2', '1', '2')], [order('x', 'y', 'y', 'x')])?.[0]?.[2]).toBe(
        'what belongs together is not the same',
      );
    });
  });

  it('says what came otherwise than foretold', () => {
    const never: Profile = {
      id: 'p',
      label: 'Place',
      version: 1,
      kinds: { discussion: { carry: 'never', reason: 'it has none' } },
      settings: {},
      questions: {},
      questionParts: {},
      limits: {},
    };
    const talk: Item = { ...common('d', 'Talk'), kind: 'discussion', text: text('Hi') };
    const sent = course(page('p', 'Tides'), talk);
    const said = forecast(sent, [never]);
    const asForetold = compare(sent, course(page('p', 'Tides')), said);
    expect([asForetold.otherwise, asForetold.lines.map((l) => l.predicted)]).toEqual([0, ['whole', 'left behind']]);
    // It arrived though it was not to, and what was to arrive whole did not.
    const other = compare(sent, course(talk), said);
    expect(other.otherwise).toBe(2);
  });
});
