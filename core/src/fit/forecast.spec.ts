import { momentOf } from '../model/index.ts';
import type { Target } from '../formats/index.ts';
import type { Course, Item, Profile, Question, SimpleQuestion } from '../model/index.ts';
import { common, courseOf, page, question, text } from '../testing/made.ts';
import { declaredLosses, forecast, keepsMore, profileChanges, profileOn } from './index.ts';

const OPEN: Profile = {
  id: 'open',
  label: 'Open',
  version: 1,
  kinds: {},
  settings: {},
  questions: {},
  questionParts: {},
  limits: {},
};
const talk: Item = { ...common('d', 'Talk'), kind: 'discussion', text: text('Hi'), settings: { points: 3 } };
const quiz = (...questions: Question[]): Item => ({ ...common('q', 'Check'), kind: 'quiz', questions });
const course = (...items: Item[]): Course => courseOf(items, {});
const first = (of: Course, ...profiles: Profile[]) => {
  const [line] = forecast(of, profiles).lines;
  if (!line) throw new Error('no line');
  return line;
};

describe('What will become of a course', () => {
  it('is whole where a profile says nothing', () => {
    const { totals, profiles } = forecast(course(page('p'), talk, quiz(question('a'))), [OPEN]);
    expect([totals.whole, totals.reworked, totals['left behind']]).toEqual([3, 0, 0]);
    expect(profiles).toEqual([{ id: 'open', label: 'Open', version: 1 }]);
    expect(declaredLosses(course(talk), OPEN)).toEqual([]);
  });

  it('names what is set of folders, and the further places of an item', () => {
    const outline = [
      { id: 'f', title: 'Later', settings: { opens: momentOf('2026-10-05'), hidden: true }, children: [] },
      { id: 'n1', title: 'P', item: 'p', children: [{ id: 'n2', title: 'Below', item: 'd', children: [] }] },
      { id: 'n3', title: 'P once more', item: 'p', settings: { hidden: true }, children: [] },
    ];
    const placed = { ...course(page('p'), talk), outline };
    const told = (profile: Profile) =>
      forecast(placed, [profile]).lines.map((l) => [
        l.title,
        l.kind,
        l.outcome,
        ...l.settings.filter((s) => s.outcome !== 'whole').map((s) => s.name),
      ]);
    expect(told({ ...OPEN, settings: { folder: { hidden: 'all is shown' } } })).toEqual([
      ['Later', 'folder', 'reworked', 'hidden'],
      ['P', 'page', 'whole'],
      ['Below', 'discussion', 'whole'],
      ['P once more', 'occurrence', 'whole'],
    ]);
    const flat: Profile = {
      ...OPEN,
      kinds: { occurrence: { carry: 'never', reason: 'one place only' } },
      limits: { belowItems: { reason: 'it stands after it' } },
    };
    expect(told(flat)).toEqual([
      ['Later', 'folder', 'whole'],
      ['P', 'page', 'reworked'],
      ['Below', 'discussion', 'whole'],
      ['P once more', 'occurrence', 'left behind', 'hidden'],
    ]);
    // What is left behind stands nowhere.
    const noPages: Profile = { ...OPEN, kinds: { page: { carry: 'never', reason: 'no pages' } } };
    expect(told(noPages)[3]).toEqual(['P once more', 'occurrence', 'left behind', 'hidden']);
  });

  it('says where points that several parts earn only together are given one by one', () => {
    const part = (id: string, points: number | null): SimpleQuestion => {
      const asked = question(id, { points });
      if (asked.type !== 'choice') throw new Error(asked.type);
      return asked;
    };
    const asking = (...points: (number | null)[]) =>
      quiz(
        question('whole', { type: 'several parts', points: 4, subquestions: points.map((p, i) => part(`p${i}`, p)) }),
      );
    const apart: Profile = { ...OPEN, questionParts: { 'points given together': 'each by itself' } };
    expect(first(course(asking(null, null)), apart).parts.map((p) => p.reason)).toEqual(['each by itself']);
    expect(first(course(asking(2, 2)), apart).outcome).toBe('whole');
  });

  it('takes the first way, with what it drops, and each setting by its name', () => {
    const asPage: Profile = {
      ...OPEN,
      kinds: {
        discussion: {
          carry: 'as',
          ways: [
            { as: 'page', reason: 'it has no forums', drops: ['points'] },
            { as: 'assignment', reason: 'or as work', drops: [] },
          ],
        },
      },
    };
    const line = first(course(talk), asPage);
    expect([line.as, line.outcome, line.reasons]).toEqual(['page', 'reworked', ['it has no forums']]);
    expect(line.settings).toEqual([
      { name: 'points', was: 3, is: null, outcome: 'left behind', reason: 'it has no forums' },
    ]);
  });

  it('goes through the profiles one after another: what the first makes of it is what the second gets', () => {
    const toPage: Profile = {
      ...OPEN,
      kinds: { discussion: { carry: 'as', ways: [{ as: 'page', reason: 'no forums', drops: [] }] } },
    };
    const noPages: Profile = { ...OPEN, kinds: { page: { carry: 'never', reason: 'no pages' } } };
    const line = first(course(talk), toPage, noPages);
    expect([line.as, line.outcome, line.reasons]).toEqual([null, 'left behind', ['no forums', 'no pages']]);
    expect(line.settings.map((s) => s.reason)).toEqual(['the item is left behind']);
    // The other way round nothing is in the way of a discussion.
    expect(first(course(talk), noPages, toPage).as).toBe('page');
  });

  it('promises no setting that a profile with a list does not list', () => {
    const keeps: Profile = { ...OPEN, keeps: { discussion: ['due'] } };
    const dated: Item = { ...talk, settings: { points: 3, due: momentOf('2026-10-02T22:00:00Z') } };
    expect(first(course(dated), keeps).settings.map((s) => [s.name, s.outcome, s.reason])).toEqual(
      jasmine.arrayWithExactContents([
        ['points', 'left behind', 'Open has no place for it'],
        ['due', 'whole', ''],
      ]),
    );
  });

  it('knows the limits: depth, length, size', () => {
    const limited: Profile = {
      ...OPEN,
      limits: {
        folderDepth: { at: 1, reason: 'one level only' },
        fileBytes: { at: 10, reason: 'too long' },
        titleLength: { at: 5, reason: 'the title is cut' },
      },
    };
    const file = (id: string, body: string): [Item, string] => [
      { ...common(id), kind: 'file', file: `${id}.bin`, definitionPath: `${id}.bin` },
      body,
    ];
    const [small, long] = [file('s', '0123456789'), file('l', '0123456789x')];
    const of: Course = {
      ...courseOf([small[0], long[0]], { 's.bin': small[1], 'l.bin': long[1] }),
      outline: [
        {
          id: 'a',
          title: 'Outer',
          children: [{ id: 'b', title: 'In it', children: [{ id: 'n', title: 's', item: 's', children: [] }] }],
        },
      ],
    };
    const lines = new Map(forecast(of, [limited]).lines.map((l) => [l.title, l]));
    expect(lines.get('Outer')?.outcome).toBe('whole');
    expect([lines.get('In it')?.as, lines.get('In it')?.reasons]).toEqual(['heading', ['one level only']]);
    expect(lines.get('s')?.outcome).toBe('whole');
    expect([lines.get('l')?.outcome, lines.get('l')?.reasons]).toEqual(['left behind', ['too long']]);
    // Counted as a person counts: a sign of two units is one character.
    expect(first(course({ ...talk, title: '😀😀😀😀😀' }), limited).outcome).toBe('whole');
    expect(first(course({ ...talk, title: 'Gaffs!' }), limited).reasons).toEqual(['the title is cut']);
  });

  it('does not foretell whole what the destination steps over for its name, nor what shows or hands it out', () => {
    const limits = { nameCharacters: { not: '–', reason: 'steps over files with dashes' } };
    const file: Item = { ...common('f', 'Sheet'), kind: 'file', file: 'docs/Wk 3 – knots.docx' };
    const [lost] = forecast(courseOf([file], {}), [{ ...OPEN, limits }]).lines;
    expect([lost?.outcome, lost?.reasons]).toEqual(['left behind', ['Open steps over files with dashes']]);
    const talking: Item = { ...talk, settings: { attachments: ['docs/Wk 3 – knots.docx'] } };
    const [reworked] = forecast(courseOf([talking], {}), [{ ...OPEN, limits }]).lines;
    expect([reworked?.outcome, reworked?.settings[0]?.reason]).toEqual([
      'reworked',
      'Open steps over files with dashes',
    ]);
    // In the folder's name alone it does no harm.
    const plain: Item = { ...file, file: 'Wk 3 – knots/sheet.docx' };
    expect(forecast(courseOf([plain], {}), [{ ...OPEN, limits }]).lines[0]?.outcome).toBe('whole');
  });

  it('prefers the way that leaves the least behind, then the one that keeps the most whole', () => {
    const of = (whole: number, left: number) => ({ whole, reworked: 0, 'left behind': left, extra: 0, unsure: 0 });
    expect(keepsMore(of(5, 1), of(9, 2))).toBeGreaterThan(0);
    expect(keepsMore(of(5, 1), of(6, 1))).toBeLessThan(0);
    expect(keepsMore(of(5, 1), of(5, 1))).toBe(0);
  });

  it('names each question once, with all that it loses', () => {
    const poor: Profile = {
      ...OPEN,
      questions: {
        ordering: { carry: 'as', as: 'matching', reason: 'becomes matching' },
        hotspot: { carry: 'never', reason: 'no hotspots' },
      },
      questionParts: { category: 'no categories', correct: 'no feedback' },
    };
    const ask = quiz(
      question('plain'),
      question('both', { category: 'hull', feedback: { correct: text('Yes') } }),
      question('order', { type: 'ordering', order: ['ordera'] }),
      question('spot', { type: 'hotspot' }),
    );
    const line = first(course(ask), poor);
    expect(line.outcome).toBe('reworked');
    expect(line.parts).toEqual([
      { title: 'both', outcome: 'reworked', reason: 'no feedback; no categories' },
      { title: 'order', outcome: 'reworked', reason: 'becomes matching' },
      { title: 'spot', outcome: 'left behind', reason: 'no hotspots' },
    ]);
    // A second profile sees the question as the first one made it, and not those that it dropped.
    const noMatching: Profile = {
      ...OPEN,
      questions: {
        matching: { carry: 'never', reason: 'no matching' },
        hotspot: { carry: 'never', reason: 'not asked' },
      },
    };
    expect(first(course(ask), poor, noMatching).parts.map((p) => [p.title, p.outcome, p.reason])).toEqual([
      ['both', 'reworked', 'no feedback; no categories'],
      ['order', 'left behind', 'becomes matching; no matching'],
      ['spot', 'left behind', 'no hotspots'],
    ]);
  });
});

describe('What is new in a profile', () => {
  it('is said as sentences, and nothing where nothing is', () => {
    expect(profileChanges(OPEN, { ...OPEN, version: 2 })).toEqual([]);
    const after: Profile = {
      ...OPEN,
      kinds: { discussion: { carry: 'never', reason: 'x' } },
      settings: { assignment: { due: 'lost' } },
      questions: { ordering: { carry: 'as', as: 'matching', reason: 'x' } },
      limits: { fileBytes: { at: 1000, reason: 'x' }, nameCharacters: { not: '?*', reason: 'x' } },
    };
    expect(profileChanges(OPEN, after)).toEqual([
      'discussion: carried whole before, left behind now',
      'assignment, due: kept before, lost now',
      'question, ordering: carried whole before, carried as matching now',
      'limit of bytes a file: none before, 1000 now',
      'limit of characters that names may not have: none before, ?* now',
    ]);
    expect(profileChanges(after, OPEN)).toContain('assignment, due: lost before, kept now');
  });

  it('is said wherever there is something, though it be only why', () => {
    const full: Profile = {
      ...OPEN,
      kinds: {
        discussion: { carry: 'never', reason: 'no talk' },
        announcement: { carry: 'as', ways: [{ as: 'page', reason: 'no news', drops: ['due'] }] },
      },
      keeps: { page: ['due', 'points'], quiz: [] },
      settings: { assignment: { due: 'no dates' } },
      untitled: { bank: 'banks have no names' },
      questions: { hotspot: { carry: 'never', reason: 'no pictures' } },
      questionParts: { points: 'one each' },
      limits: { fileBytes: { at: 1000, reason: 'small' }, nameCharacters: { not: '?', reason: 'odd' } },
      html: {
        embeds: { hosts: ['a.example', 'b.example'], reason: 'frames only of its own' },
        scripts: 'runs none',
        deadClasses: [{ prefix: 'fa-', reason: 'has no such font' }],
      },
    };
    const paths = (value: unknown): string[][] =>
      typeof value !== 'object' || value === null
        ? [[]]
        : Object.entries(value).flatMap(([key, inner]) => paths(inner).map((rest) => [key, ...rest]));
    const at = (value: unknown, [key, ...rest]: string[], change: (old: unknown) => unknown): unknown => {
      if (key === undefined) return change(value);
      const copy = structuredClone(value) as Record<string, unknown>;
      copy[key] = at(copy[key], rest, change);
      return copy;
    };
    // What is chosen from a list is not changed by another text.
    const free = paths(full).filter(
      (path) => !['id', 'label', 'version', 'carry', 'as', 'drops', 'keeps'].some((name) => path.includes(name)),
    );
    expect(free.length).toBe(16);
    for (const path of free) {
      const changed = at(full, path, (old) => (typeof old === 'number' ? old + 1 : `${String(old)}!`)) as Profile;
      expect(profileChanges(full, changed).length)
        .withContext(path.join('.'))
        .toBe(path.includes('prefix') ? 2 : 1);
      expect(profileChanges(changed, changed)).toEqual([]);
    }
    for (const top of ['kinds', 'settings', 'questions', 'questionParts', 'limits'] as const) {
      expect(profileChanges(full, { ...full, [top]: {} }).length)
        .withContext(top)
        .toBeGreaterThan(0);
    }
    const { html, keeps, ...without } = full;
    expect(profileChanges(full, { ...without, keeps }).length).toBe(3);
    expect(profileChanges(full, { ...without, html })).toContain(
      'page, other settings: lost but for due, points before, kept now',
    );
    expect(profileChanges(full, { ...full, keeps: { ...keeps, page: ['points', 'due'] } })).toEqual([]);
    expect(profileChanges(full, { ...full, keeps: { ...keeps, page: ['due'] } }).length).toBe(1);
  });
});

describe('What a course goes through on its way', () => {
  const came = (version: string, untouched = true): Course => ({
    ...course({ kind: 'bank', ...common('b'), questions: [] }),
    origin: { format: 'cc', version, untouched },
  });
  const passthrough: Target['passthrough'] = ({ version }) => (version === '1.3' ? 'everything' : 'definitions');
  const profile: Profile = {
    ...OPEN,
    kinds: { assignment: { carry: 'never', reason: 'none' } },
    keeps: { bank: [], assignment: ['points'] },
    settings: { page: { due: 'no dates' }, assignment: { due: 'no dates' } },
    untitled: { bank: 'no names' },
    questions: { essay: { carry: 'never', reason: 'none' } },
    questionParts: { points: 'one each' },
  };

  it('is nothing where its package goes on as it came, and all of it where something was changed', () => {
    expect(profileOn(came('1.3'), { passthrough, profile })).toBeNull();
    expect(profileOn(came('1.3', false), { passthrough, profile })).toBe(profile);
    expect(profileOn(came('1.3'), { profile })).toBe(profile);
    expect(declaredLosses(came('1.3'), null)).toEqual([]);
  });

  it('is what becomes another kind, where all other definitions stay', () => {
    const left = profileOn(came('1.1'), { passthrough, profile });
    expect(left?.kinds).toEqual(profile.kinds);
    expect(left?.settings).toEqual({ assignment: { due: 'no dates' } });
    expect([left?.untitled, left?.questions, left?.questionParts]).toEqual([undefined, {}, {}]);
    expect(left?.keeps?.assignment).toEqual(['points']);
    expect(left?.keeps?.bank).toContain('due');
    expect(declaredLosses(came('1.1'), left)).toEqual([]);
    expect(declaredLosses(came('1.1'), profile).map((l) => l.reasons)).toEqual([['no names']]);
  });

  it('loses a title only where no outline gives it', () => {
    const shown = { ...came('1.1', false), outline: [{ id: 'n', title: 'Knots', item: 'b', children: [] }] };
    expect(declaredLosses(shown, profile)).toEqual([]);
  });

  it('loses a file that is attached only where the text does not show it too', () => {
    const task = (embeds: string[]): Item => ({
      ...common('t'),
      kind: 'discussion',
      text: { format: 'html', text: '' },
      settings: { attachments: ['a.pdf', 'b.pdf'], embeds },
    });
    const loses = (embeds: string[]) =>
      declaredLosses(course(task(embeds)), { ...OPEN, settings: { discussion: { attachments: 'no files' } } })
        .flatMap((l) => l.settings)
        .filter((s) => s.outcome !== 'whole')
        .map((s) => s.name);
    expect(loses(['a.pdf', 'b.pdf', 'c.png'])).toEqual([]);
    expect(loses(['a.pdf'])).toEqual(['attachments']);
  });
});
