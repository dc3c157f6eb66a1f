import fc from 'fast-check';
import { nodeEngine } from '../container/node.ts';
import type { Course, OutlineNode } from '../model/index.ts';
import { courses } from '../testing/courses.ts';
import { common, courseOf, page, text } from '../testing/made.ts';
import { packageOf } from '../testing/packages.ts';
import { AS_IT_WAS, alongIn, isAsItWas, type Along } from './along.ts';
import { emptyFolders } from './select.ts';
import { workingCopy } from './working.ts';

const FILES = { 'a.html': '<p>a</p>', 'b.html': '<p>b</p>' };
const COURSE: Course = courseOf(
  [
    page('a'),
    { ...page('b'), settings: { hidden: true } },
    { kind: 'discussion', ...common('d'), text: text('<p>Talk</p>'), settings: { starterPost: '<p>I begin.</p>' } },
    { kind: 'tool', ...common('t'), url: 'https://calc.example/launch', description: '' },
    { kind: 'tool', ...common('u'), url: 'https://calc.example/launch', description: '' },
  ],
  FILES,
  {
    outline: [
      {
        id: 'week',
        title: 'Week 1',
        settings: { hidden: true },
        children: [{ id: 'n-b', title: 'b', item: 'b', children: [] }],
      },
      { id: 'n-a', title: 'a', item: 'a', children: [] },
      { id: 'n-d', title: 'd', item: 'd', children: [] },
      { id: 'empty', title: 'Later', children: [{ id: 'deep', title: 'Deep', children: [] }] },
    ],
  },
);

async function arriving(along: Along, course = COURSE, files: Record<string, string | Uint8Array> = FILES) {
  const pkg = await packageOf(files);
  const before = { course, links: [] };
  return (await workingCopy(pkg, before, [], [], { engine: nodeEngine, along })).course;
}
const hiddenIn = (course: Course): string[] => {
  const places = (nodes: readonly OutlineNode[]): string[] =>
    nodes.flatMap((n) => [...(n.settings?.hidden === true ? [n.id] : []), ...places(n.children)]);
  return [...places(course.outline), ...course.items.flatMap((i) => (i.settings.hidden === true ? [i.id] : []))];
};

describe('How what goes is to arrive', () => {
  it('is told with what there is of it to decide', () => {
    expect(alongIn(COURSE)).toEqual({
      posts: 1,
      hidden: 2,
      tools: [{ address: 'https://calc.example/launch', titles: ['t', 'u'] }],
    });
    expect(isAsItWas(AS_IT_WAS)).toBeTrue();
    expect(isAsItWas({ ...AS_IT_WAS, posts: false })).toBeFalse();
  });

  it('is all seen, or all hidden at its topmost places; and what it came as is not touched', async () => {
    const before = JSON.stringify(COURSE);
    expect(hiddenIn(await arriving({ ...AS_IT_WAS, shown: 'shown' }))).toEqual([]);
    expect(hiddenIn(await arriving({ ...AS_IT_WAS, shown: 'hidden' }))).toEqual(['week', 'empty', 'a', 'b', 'd']);
    expect(hiddenIn(await arriving(AS_IT_WAS))).toEqual(['week', 'b']);
    expect(JSON.stringify(COURSE)).toBe(before);
  });

  it('goes with first posts or without, and its tools start what is connected there', async () => {
    const tools = { 'https://calc.example/launch': 'https://tools.example/planks/' };
    const after = await arriving({ shown: 'as it was', posts: false, tools });
    expect(after.items.map((i) => [i.id, i.settings.starterPost, i.kind === 'tool' ? i.url : null])).toEqual([
      ['a', undefined, null],
      ['b', undefined, null],
      ['d', undefined, null],
      ['t', undefined, 'https://tools.example/planks/'],
      ['u', undefined, 'https://tools.example/planks/'],
    ]);
  });

  it('as it was changes nothing, and all seen leaves nothing hidden, of any course', async () => {
    await fc.assert(
      fc.asyncProperty(courses, async ({ course, bodies }) => {
        expect(await arriving(AS_IT_WAS, course, bodies)).toEqual(course);
        expect(hiddenIn(await arriving({ ...AS_IT_WAS, shown: 'shown' }, course, bodies))).toEqual([]);
        const hidden = await arriving({ ...AS_IT_WAS, shown: 'hidden' }, course, bodies);
        for (const { heading, item, settings } of hidden.outline) {
          const own = hidden.items.find((i) => i.id === item);
          expect(heading === true || (own?.settings ?? settings)?.hidden === true).toBeTrue();
        }
      }),
      { numRuns: 25 },
    );
  });

  it('takes no folders along in which nothing of it stands', () => {
    expect(emptyFolders(COURSE.outline, new Set())).toEqual(['empty', 'deep']);
    expect(emptyFolders(COURSE.outline, new Set(['b']))).toEqual(['week', 'empty', 'deep']);
  });
});
