import fc from 'fast-check';
import { nodeEngine } from '../../container/node.ts';
import { survey } from '../../inspect/index.ts';
import { decodeText } from '../../markup/index.ts';
import { Refusal, itemAddress, walkOutline, type Course, type Item, type OutlineNode } from '../../model/index.ts';
import { courses } from '../../testing/courses.ts';
import { common, courseOf, page, text } from '../../testing/made.ts';
import { packageOf, type Files } from '../../testing/packages.ts';
import { doublesOf, joined, type JoinPlan } from './join.ts';
import { checkSplit, type SplitPlan } from './plan.ts';
import { partAsCourse, splitOf } from './split.ts';

const PLAN: JoinPlan = { title: 'Both', doubles: 'first', of: {}, folders: 'joined' };
const at = (item: string, title = item): OutlineNode => ({ id: `n-${item}`, title, item, children: [] });
const folder = (title: string, ...children: OutlineNode[]): OutlineNode => ({ id: `f-${title}`, title, children });
const task = (id: string, html = '', settings: Item['settings'] = {}, title = id): Item => ({
  ...common(id, title),
  kind: 'assignment',
  text: text(html),
  settings,
});

async function read(course: Course, bodies: Files) {
  const pkg = await packageOf(bodies);
  return { pkg, ...(await survey(pkg, course, { engine: nodeEngine })) };
}
const join = async (one: [Course, Files], other: [Course, Files], plan: Partial<JoinPlan> = {}) =>
  joined(await read(...one), await read(...other), { ...PLAN, ...plan }, { engine: nodeEngine });
const titles = ({ outline }: Course) =>
  [...walkOutline(outline)].map(({ node, depth }) => `${'-'.repeat(depth)}${node.title}`);
const ids = ({ items }: Course) => items.map((i) => i.id);

describe('Two courses that become one', () => {
  it('keep the law: a course that was split is, joined, the course again', async () => {
    let tried = 0;
    await fc.assert(
      fc.asyncProperty(courses, fc.array(fc.nat(2), { maxLength: 40 }), async ({ course: given, bodies }, picks) => {
        const pkg = await packageOf(bodies);
        const { course, links } = await survey(pkg, given, { engine: nodeEngine });
        const plan: SplitPlan = {
          parts: [
            { title: 'One', term: null },
            { title: 'Two', term: null },
          ],
          of: Object.fromEntries(
            course.outline.map(({ id }, i) => [id, [0, 1, 'all' as const][picks[i] ?? 2] ?? 'all']),
          ),
        };
        try {
          checkSplit(course, plan);
        } catch {
          return;
        }
        tried++;
        const parts = splitOf(course, links, plan).map((part) => ({ ...part, weights: [] }));
        const [one, two] = await Promise.all(
          parts.map((part) => partAsCourse(pkg, { course, links }, part, { engine: nodeEngine })),
        );
        if (!one || !two) throw new Error('two parts were asked for');
        const before = structuredClone([one.course, two.course]);
        const whole = await joined(one, two, { ...PLAN, title: course.title }, { engine: nodeEngine }).catch(
          (error: unknown) => {
            // All of it was in both.
            if (error instanceof Refusal && error.problem.code === 'join-itself') return null;
            throw error;
          },
        );
        expect([one.course, two.course]).toEqual(before);
        if (!whole) return;
        expect(ids(whole.course).sort()).toEqual(ids(course).sort());
        expect(whole.course.files.map((f) => f.path).sort()).toEqual(course.files.map((f) => f.path).sort());
        for (const { path } of whole.course.files) {
          expect(await whole.pkg.bytes(path))
            .withContext(path)
            .toEqual(await pkg.bytes(path));
        }
        const placed = (c: Course) => new Set([...walkOutline(c.outline)].flatMap(({ node }) => node.item ?? []));
        expect([...placed(whole.course)].sort()).toEqual([...placed(course)].sort());
      }),
      { numRuns: 60 },
    );
    expect(tried).toBeGreaterThan(10);
  }, 120_000);

  it('have folders of one title joined, or kept apart', async () => {
    const one: [Course, Files] = [courseOf([task('a', 'x')], {}, { outline: [folder('Week 1', at('a'))] }), {}];
    const two: [Course, Files] = [
      courseOf([task('b', 'y')], {}, { outline: [folder('Week 1', at('b')), folder('Week 2')] }),
      {},
    ];
    expect(titles((await join(one, two)).course)).toEqual(['Week 1', '-a', '-b', 'Week 2']);
    const apart = await join(one, two, { folders: 'apart' });
    expect(titles(apart.course)).toEqual(['Week 1', '-a', 'Week 1', '-b', 'Week 2']);
    const nodes = [...walkOutline(apart.course.outline)].map(({ node }) => node.id);
    expect(new Set(nodes).size).toBe(nodes.length);
  });

  it('tell what both have, by identifier and by substance', () => {
    const one = courseOf([task('a', 'splice'), task('b', 'whip'), task('c', 'seize')], {});
    const two = courseOf([task('a', 'splice it'), task('z', 'whip', {}, 'b'), task('y', '', {}, 'c')], {});
    expect(doublesOf(one, two).map((d) => [d.first, d.second, d.by, d.same])).toEqual([
      ['a', 'a', 'identifier', false],
      ['b', 'z', 'substance', true],
    ]);
  });

  it('keep the one, the other or both of a double, and lead everything to what stays', async () => {
    const bodies = { 'a.html': '<p>See <a href="b.html">b</a></p>', 'b.html': '<p>old</p>' };
    const others = { 'c.html': '<p>See <a href="b.html">b</a></p>', 'b.html': '<p>new</p>' };
    const one: [Course, Files] = [courseOf([page('a'), page('b')], bodies, { outline: [at('a'), at('b')] }), bodies];
    const two: [Course, Files] = [courseOf([page('c'), page('b')], others, { outline: [at('c'), at('b')] }), others];
    const bodyOf = async (made: Awaited<ReturnType<typeof join>>, path: string) =>
      decodeText(await made.pkg.bytes(path));
    const first = await join(one, two);
    expect(ids(first.course)).toEqual(['a', 'b', 'c']);
    expect(await bodyOf(first, 'c.html')).toContain('href="b.html"');
    expect(await bodyOf(first, 'b.html')).toBe('<p>old</p>');
    const second = await join(one, two, { of: { b: 'second' } });
    expect(ids(second.course)).toEqual(['a', 'c', 'b']);
    expect(await bodyOf(second, 'a.html')).toContain('href="b-2.html"');
    expect(await bodyOf(second, 'b-2.html')).toBe('<p>new</p>');
    expect(second.pkg.entries.has('b.html')).toBeFalse();
    const both = await join(one, two, { doubles: 'both' });
    expect(ids(both.course)).toEqual(['a', 'b', 'c', 'b-2']);
    expect(await bodyOf(both, 'c.html')).toContain('href="b-2.html"');
    expect(both.links.every((link) => link.state === 'inside')).toBeTrue();
  });

  it('keep identifiers apart, and whatever names an item follows', async () => {
    const one: [Course, Files] = [courseOf([task('t', 'mine')], {}, { outline: [at('t')] }), {}];
    const speaks = task('s', `<p>After <a href="${itemAddress('t')}">t</a></p>`, {
      visibleWhen: [{ is: 'done', item: 't' }],
      category: 'k',
    });
    const category: Item = { ...common('k'), kind: 'category', text: text('') };
    const two: [Course, Files] = [
      courseOf([task('t', 'another', {}, 'T'), speaks, category], {}, { outline: [at('t'), at('s')] }),
      {},
    ];
    const { course, links } = await join(one, two, { doubles: 'both' });
    expect(ids(course)).toEqual(['t', 't-2', 's', 'k']);
    const [, , said] = course.items;
    expect(said?.settings.visibleWhen).toEqual([{ is: 'done', item: 't-2' }]);
    expect(links.find((l) => l.item === 's')?.to).toBe('t-2');
    expect([...walkOutline(course.outline)].map(({ node }) => node.item)).toEqual(['t', 't-2', 's']);
  });

  it('have one gradebook, whose weights come to a hundred', async () => {
    const weighed = (id: string, weight: number): Item => ({
      ...common(id),
      kind: 'category',
      text: text(''),
      settings: { weight },
    });
    const { course, weights } = await join(
      [courseOf([weighed('k', 40), weighed('l', 60)], {}), {}],
      [courseOf([weighed('m', 100)], {}), {}],
    );
    expect(course.items.map((i) => i.settings.weight)).toEqual([20, 30, 50]);
    expect(weights.map((w) => [w.title, w.was, w.will])).toEqual([
      ['k', 40, 20],
      ['l', 60, 30],
      ['m', 100, 50],
    ]);
  });

  it('hold a file that both have once, and two of one path apart', async () => {
    const [mine, theirs] = [
      { 'a.html': '<img src="same.png"><img src="x.png">', 'same.png': 'S', 'x.png': '1' },
      { 'b.html': '<img src="same.png"><img src="x.png">', 'same.png': 'S', 'x.png': '2' },
    ];
    const { course, pkg } = await join(
      [courseOf([page('a')], mine, { outline: [at('a')] }), mine],
      [courseOf([page('b')], theirs, { outline: [at('b')] }), theirs],
    );
    expect(course.files.map((f) => f.path).sort()).toEqual(['a.html', 'b.html', 'same.png', 'x-2.png', 'x.png']);
    expect(decodeText(await pkg.bytes('b.html'))).toBe('<img src="same.png"><img src="x-2.png">');
    expect(decodeText(await pkg.bytes('x-2.png'))).toBe('2');
  });

  it('take of the second what the first has not, and tell what they do not', async () => {
    const outline = (settings: OutlineNode['settings'], item: string) => [
      { ...folder('Week 1', at(item)), ...(settings ? { settings } : {}) },
    ];
    const { course, notTaken } = await join(
      [
        courseOf(
          [task('a', 'x')],
          {},
          {
            metadata: { keywords: ['rope'], description: 'Mine' },
            settings: { unread: [{ name: 'x', file: 'a.xml', line: 1, times: 1 }] },
            outline: outline({ hidden: true }, 'a'),
          },
        ),
        {},
      ],
      [
        courseOf(
          [task('b', 'y')],
          {},
          {
            metadata: { keywords: ['knot', 'rope'], description: 'Theirs', rights: 'Free' },
            settings: { unread: [{ name: 'y', file: 'b.xml', line: 1, times: 1 }] },
            outline: outline({ hidden: false, onlyFor: 'Gannet' }, 'b'),
          },
        ),
        {},
      ],
    );
    expect(course.metadata).toEqual({ keywords: ['rope', 'knot'], description: 'Mine', rights: 'Free' });
    expect(course.outline[0]?.settings).toEqual({ hidden: true, onlyFor: 'Gannet' });
    // What no reader took is told of both.
    expect(course.settings?.unread?.length).toBe(2);
    expect(notTaken).toEqual(['description of the course', 'hidden in the outline of the folder “Week 1”']);
  });

  it('refuse a course that is to be joined with itself', async () => {
    const one: [Course, Files] = [courseOf([task('a', 'x')], {}, { outline: [at('a')] }), {}];
    await expectAsync(join(one, one)).toBeRejectedWithError(Refusal, /has nothing that/);
    expect(ids((await join(one, one, { doubles: 'both' })).course)).toEqual(['a', 'a-2']);
  });
});
