import fc from 'fast-check';
import { nodeEngine } from '../container/node.ts';
import { survey } from '../inspect/index.ts';
import { walkOutline, type Course } from '../model/index.ts';
import { courses } from '../testing/courses.ts';
import { page } from '../testing/made.ts';
import { packageOf } from '../testing/packages.ts';
import { mergeParts, seamOf } from './merge.ts';
import { leaveOutOf } from './select.ts';

const without = (items: ReadonlySet<string>) => ({ items, nodes: new Set<string>() });

describe('Parts of a course', () => {
  it('keep the law: what was chosen, merged with the rest, is the course; and nothing is touched', async () => {
    await fc.assert(
      fc.asyncProperty(courses, fc.array(fc.nat(50)), async ({ course, bodies }, picks) => {
        const { course: whole, links } = await survey(await packageOf(bodies), course, { engine: nodeEngine });
        const ids = whole.items.map((i) => i.id);
        const chosen = new Set(picks.flatMap((n) => ids[n] ?? []));
        const rest = new Set(ids.filter((id) => !chosen.has(id)));
        const before = structuredClone(whole);
        const { course: one } = leaveOutOf(whole, without(rest), links);
        const { course: other } = leaveOutOf(whole, without(chosen), links);
        const [asOne, asOther] = [structuredClone(one), structuredClone(other)];
        expect(one.items.length + other.items.length).toBe(ids.length);
        const seam = seamOf(whole);
        expect(mergeParts(one, other, seam)).toEqual(whole);
        expect(mergeParts(other, one, seam)).toEqual(whole);
        expect([whole, one, other]).toEqual([before, asOne, asOther]);
      }),
      { numRuns: 60 },
    );
  });

  it('leave away what neither has, and put back what stood under an item under it', () => {
    const node = (id: string, children: Course['outline'] = []) => ({ id: `n${id}`, title: id, item: id, children });
    const whole: Course = {
      title: 'T',
      origin: { format: 't', version: '1', untouched: true },
      metadata: { keywords: [] },
      outline: [{ id: 'f', title: 'Week', children: [node('a', [node('b'), node('c')]), node('d')] }],
      items: ['a', 'b', 'c', 'd'].map((id) => page(id)),
      files: ['a', 'b', 'c', 'd'].map((id) => ({
        path: `${id}.html`,
        size: 1,
        mediaType: 'text/html',
        role: 'content',
      })),
    };
    const only = (...ids: string[]) =>
      leaveOutOf(whole, without(new Set(['a', 'b', 'c', 'd'].filter((id) => !ids.includes(id))))).course;
    const shape = (course: Course) =>
      [...walkOutline(course.outline)].map(({ node: n, depth }) => `${depth} ${n.title}`);
    expect(shape(only('b'))).toEqual(['0 Week', '1 b']);
    const seam = seamOf(whole);
    expect(shape(mergeParts(only('b', 'd'), only('a'), seam))).toEqual(['0 Week', '1 a', '2 b', '1 d']);
    const some = mergeParts(only('b'), only('d'), seam);
    expect(shape(some)).toEqual(['0 Week', '1 b', '1 d']);
    expect(some.files.map((f) => f.path)).toEqual(['b.html', 'd.html']);
  });
});
