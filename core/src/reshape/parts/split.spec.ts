import fc from 'fast-check';
import { nodeEngine } from '../../container/node.ts';
import { survey } from '../../inspect/index.ts';
import { Refusal, momentOf, walkOutline, type Course, type Item, type OutlineNode } from '../../model/index.ts';
import { courses } from '../../testing/courses.ts';
import { common, courseOf, page, text } from '../../testing/made.ts';
import { packageOf } from '../../testing/packages.ts';
import { AUTUMN, SPRING } from '../../testing/terms.ts';
import { mergeParts, seamOf } from '../merge.ts';
import { checkSplit, type SplitPlan } from './plan.ts';
import { proposeSplits } from './propose.ts';
import { partAsCourse, splitOf, type Part } from './split.ts';
import { reweighed } from './weights.ts';

const TERMS = [AUTUMN, SPRING];
const at = (item: string, id = `n-${item}`): OutlineNode => ({ id, title: item, item, children: [] });
const folder = (title: string, ...children: OutlineNode[]): OutlineNode => ({ id: `f-${title}`, title, children });
const two = (of: SplitPlan['of']): SplitPlan => ({
  parts: [
    { title: 'One', term: AUTUMN },
    { title: 'Two', term: SPRING },
  ],
  of,
});
const task = (id: string, settings: Item['settings']): Item => ({
  ...common(id),
  kind: 'assignment',
  text: text(''),
  settings,
});
const weighed = (id: string, weight: number): Item => ({
  ...common(id),
  kind: 'category',
  text: text(''),
  settings: { weight },
});
const codeOf = (work: () => unknown): string => {
  try {
    work();
    return '';
  } catch (error) {
    return error instanceof Refusal ? error.problem.code : String(error);
  }
};

describe('A course that is split', () => {
  it('keeps the law: every item is in one part or shared, and together the parts are the course', async () => {
    await fc.assert(
      fc.asyncProperty(courses, fc.array(fc.nat(2), { maxLength: 40 }), async ({ course: given, bodies }, picks) => {
        const pkg = await packageOf(bodies);
        const { course, links } = await survey(pkg, given, { engine: nodeEngine });
        const tops = course.outline.map(
          (node, i) => [node.id, [0, 1, 'all' as const][picks[i] ?? 2] ?? 'all'] as const,
        );
        const plan = two(Object.fromEntries(tops));
        if (codeOf(() => checkSplit(course, plan)) !== '') return;
        const before = structuredClone(course);
        const parts = splitOf(course, links, plan);
        const times = new Map<string, number>();
        for (const { items } of parts) for (const id of items) times.set(id, (times.get(id) ?? 0) + 1);
        expect([...times.keys()].sort()).toEqual(course.items.map((i) => i.id).sort());
        for (const { items, shared } of parts) {
          expect(shared.map((s) => s.item).sort()).toEqual([...items].filter((id) => (times.get(id) ?? 0) > 1).sort());
        }
        // With the weights that they had, since those of each part are its own.
        const made = await Promise.all(
          parts.map((part) => partAsCourse(pkg, { course, links }, { ...part, weights: [] }, { engine: nodeEngine })),
        );
        expect(course).toEqual(before);
        for (const { course: one, pkg: own } of made) {
          for (const { path } of one.files) expect(own.entries.has(path)).withContext(path).toBeTrue();
        }
        const [first, second] = made;
        if (!first || !second) throw new Error('two parts were asked for');
        // Read anew: what leads to an item of the other part was told to lead nowhere.
        const whole = mergeParts(first.course, second.course, seamOf(course));
        const { course: joined } = await survey(pkg, whole, { engine: nodeEngine });
        const plain = ({ outline, items, files }: Course) => ({ outline, items, files });
        // What stands in several places is, in each part, set as in the first that is there.
        const several = new Set<string>();
        const seen = new Set<string>();
        for (const { node } of walkOutline(course.outline)) {
          if (node.item !== undefined && seen.has(node.item)) several.add(node.item);
          if (node.item !== undefined) seen.add(node.item);
        }
        if (several.size === 0) expect(plain(joined)).toEqual(plain(course));
        else expect(joined.items.map((i) => i.id)).toEqual(course.items.map((i) => i.id));
      }),
      { numRuns: 60 },
    );
  }, 120_000);

  it('has what both need in both, and says so; a column goes with what it grades', () => {
    const quiz = (id: string): Item => ({
      ...common(id),
      kind: 'quiz',
      questions: [],
      settings: { draws: { bank: '3' } },
    });
    const course = courseOf(
      [
        quiz('q1'),
        quiz('q2'),
        { ...common('bank'), kind: 'bank', questions: [] },
        page('start'),
        { ...common('c1'), kind: 'column', text: text(''), settings: { gradesItem: 'q1', points: 10, category: 'k' } },
        { ...common('loose'), kind: 'column', text: text(''), settings: { points: 5 } },
        weighed('k', 40),
        weighed('k2', 60),
      ],
      {},
      { outline: [at('start'), folder('A', at('q1')), folder('B', at('q2'))] },
    );
    const parts = splitOf(course, [], two({ 'f-A': 0, 'f-B': 1 }));
    const shared = ({ shared: list }: Part) => list.map((s) => `${s.title}: ${s.why}`);
    expect(parts.map((p) => [...p.items].sort())).toEqual([
      ['bank', 'c1', 'k', 'k2', 'loose', 'q1', 'start'],
      ['bank', 'k2', 'loose', 'q2', 'start'],
    ]);
    expect(parts[0] && shared(parts[0])).toContain('bank: needed by “q1”');
    expect(parts[1] && shared(parts[1])).toContain('start: goes into all');
    expect(parts.map((p) => p.points)).toEqual([15, 5]);
    expect(parts.map((p) => p.weights)).toEqual([[], [{ item: 'k2', title: 'k2', was: 60, will: 100 }]]);
  });

  it('tells what leads over the cut', async () => {
    const bodies = { 'a.html': '<p>See <a href="b.html">b</a></p>', 'b.html': '<p>b</p>' };
    const given = courseOf([page('a'), page('b')], bodies, { outline: [folder('A', at('a')), folder('B', at('b'))] });
    const { course, links } = await survey(await packageOf(bodies), given, { engine: nodeEngine });
    const [one, other] = splitOf(course, links, two({ 'f-A': 0, 'f-B': 1 }));
    expect(one?.dangling).toEqual([
      { item: 'a', to: 'b', is: 'link', words: 'links to “b”', becomes: 'leads nowhere' },
    ]);
    expect(other?.dangling).toEqual([]);
  });

  it('leads over the cut to the other course once its address is known, or keeps only the words', async () => {
    const bodies = {
      'a.html': '<p>See <a href="b.html#k">b</a> and <a href="c.html">c</a> and <a href="a.html">a</a></p>',
      'b.html': '<p>b</p>',
      'c.html': '<p>c</p>',
    };
    const given = courseOf([page('a'), page('b'), page('c')], bodies, {
      outline: [folder('A', at('a')), folder('B', at('b')), folder('C', at('c'))],
    });
    const pkg = await packageOf(bodies);
    const before = await survey(pkg, given, { engine: nodeEngine });
    const address = 'https://new.example/course/7?a=1&b=2';
    const plan: SplitPlan = {
      parts: [
        { title: 'One', term: null },
        { title: 'Two', term: null, address },
        { title: 'Three', term: null },
      ],
      of: { 'f-A': 0, 'f-B': 1, 'f-C': 2 },
    };
    const textOfA = async (asked: SplitPlan) => {
      const [one] = splitOf(before.course, before.links, asked);
      if (!one) throw new Error('no part');
      const { pkg: own, course } = await partAsCourse(pkg, before, one, { engine: nodeEngine });
      const item = course.items.find((i) => i.id === 'a');
      const html = new TextDecoder().decode(await own.bytes(item?.kind === 'page' ? item.file : ''));
      return [html, one.dangling.map((d) => d.becomes)] as const;
    };
    const led = `<a href="https://new.example/course/7?a=1&amp;b=2">b</a>`;
    expect(await textOfA(plan)).toEqual([
      `<p>See ${led} and <a href="c.html">c</a> and <a href="a.html">a</a></p>`,
      ['leads to the other course', 'leads nowhere'],
    ]);
    expect(await textOfA({ ...plan, cutLinks: 'words' })).toEqual([
      `<p>See ${led} and c and <a href="a.html">a</a></p>`,
      ['leads to the other course', 'only its words are left'],
    ]);
  });

  it('is a course of its own: with its title, its term, its weights, and no files of the other', async () => {
    const bodies = { 'a.html': '<p>a</p>', 'b.html': '<p>b</p>' };
    const given = courseOf([page('a'), page('b'), weighed('k', 30), weighed('l', 30)], bodies, {
      identity: { id: 'c1', code: 'TID 200', section: '01', term: '2026-27' },
      outline: [folder('A', at('a')), folder('B', at('b'))],
    });
    const pkg = await packageOf(bodies);
    const seen = await survey(pkg, given, { engine: nodeEngine });
    const [part] = splitOf(seen.course, seen.links, two({ 'f-A': 0, 'f-B': 1 }));
    if (!part) throw new Error('there is a first part');
    const made = await partAsCourse(pkg, seen, part, { engine: nodeEngine });
    expect([made.course.title, made.course.identity?.term]).toEqual(['One', 'Autumn 2026']);
    expect([...made.pkg.entries.keys()]).toEqual(['a.html']);
    expect(made.course.items.map((i) => i.settings.weight ?? null)).toEqual([null, 50, 50]);
    expect(pkg.entries.has('b.html')).toBeTrue();
  });

  it('refuses a cut through an item, an empty part, and a part that there is not', () => {
    const course = courseOf(
      [page('a'), page('b')],
      {},
      {
        outline: [folder('A', { ...at('a'), children: [at('b')] })],
      },
    );
    expect(codeOf(() => splitOf(course, [], two({ 'n-a': 0, 'n-b': 1 })))).toBe('cut-through-item');
    expect(codeOf(() => splitOf(course, [], two({ 'f-A': 0 })))).toBe('part-empty');
    expect(codeOf(() => splitOf(course, [], two({ 'f-A': 4 })))).toBe('no-such-part');
  });
});

describe('A cut that is proposed', () => {
  const propose = (course: Course) => proposeSplits(course, { terms: TERMS, zone: 'UTC' });

  it('goes by what folders are called, and takes what follows with it', () => {
    const course = courseOf(
      [page('a'), page('b'), page('c'), page('d')],
      {},
      {
        title: 'Tides',
        outline: [
          folder(
            'All',
            at('a'),
            folder('Autumn half', at('b')),
            { ...at('c'), id: 'after' },
            folder('Spring half', at('d')),
          ),
        ],
      },
    );
    const [first] = propose(course);
    expect(first?.by).toBe('names');
    expect(first?.plan.of).toEqual({ 'n-a': 'all', 'f-Autumn half': 0, after: 0, 'f-Spring half': 1 });
    expect(first?.plan.parts.map((p) => [p.title, p.term?.name])).toEqual([
      ['Tides, Autumn half', 'Autumn 2026'],
      ['Tides, Spring half', 'Spring 2027'],
    ]);
    const counted = courseOf(
      [page('a'), page('b')],
      {},
      { outline: [folder('Semester one', at('a')), folder('Second semester', at('b'))] },
    );
    expect(propose(counted)[0]?.plan.of).toEqual({ 'f-Semester one': 0, 'f-Second semester': 1 });
  });

  it('goes by dates where names say nothing', () => {
    const items = [
      task('a', { due: momentOf('2026-10-01') }),
      task('b', { due: momentOf('2027-02-01') }),
      task('c', {}),
      { ...common('e'), kind: 'event' as const, text: text(''), settings: { opens: momentOf('2027-03-01') } },
    ];
    const course = courseOf(
      items,
      {},
      { outline: [folder('Oak', at('a')), folder('Ash', at('b')), folder('Elm', at('c'))] },
    );
    const [first] = propose(course);
    expect(first?.by).toBe('dates');
    expect(first?.plan.of).toEqual(jasmine.objectContaining({ 'f-Oak': 0, 'f-Ash': 1, 'f-Elm': 1, 'item:e': 1 }));
  });

  it('goes through the middle where nothing says more, and is none where there is nothing to cut', () => {
    const course = courseOf(
      [page('a'), page('b'), page('c')],
      {},
      {
        outline: [folder('Oak', at('a')), folder('Ash', at('b')), folder('Elm', at('c'))],
      },
    );
    expect(propose(course).map((p) => [p.by, Object.values(p.plan.of)])).toEqual([['halves', [0, 0, 1]]]);
    expect(propose(courseOf([page('a')], {}, { outline: [at('a')] }))).toEqual([]);
  });
});

describe('Weights of categories', () => {
  it('come to a hundred, in the proportion that they had', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 100 }), { minLength: 1, maxLength: 9 }), (list) => {
        const items = list.map((w, i) => weighed(`k${i}`, w));
        const changed = new Map(reweighed({ items }).map((r) => [r.item, r.will]));
        const after = items.map((i) => changed.get(i.id) ?? i.settings.weight ?? 0);
        expect(Math.round(after.reduce((a, b) => a + b, 0) * 10)).toBe(1000);
        const sum = list.reduce((a, b) => a + b, 0);
        after.forEach((w, i) => expect(Math.abs(w - ((list[i] ?? 0) / sum) * 100)).toBeLessThan(0.2));
      }),
    );
  });

  it('stay where they come to a hundred, or are none; a bonus is none of them', () => {
    expect(reweighed({ items: [weighed('a', 40), weighed('b', 60)] })).toEqual([]);
    expect(reweighed({ items: [page('a')] })).toEqual([]);
    const bonus: Item = { ...weighed('x', 10), settings: { weight: 10, bonus: true } };
    expect(reweighed({ items: [weighed('a', 100), bonus] })).toEqual([]);
  });
});
