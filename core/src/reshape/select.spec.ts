import fc from 'fast-check';
import { nodeEngine } from '../container/node.ts';
import { survey } from '../inspect/index.ts';
import { subjects, walkOutline, type Course } from '../model/index.ts';
import { courses } from '../testing/courses.ts';
import { page } from '../testing/made.ts';
import { packageOf } from '../testing/packages.ts';
import { leaveOutOf, needsOf, selectionOf } from './select.ts';

const nothing = { items: new Set<string>(), nodes: new Set<string>() };
const titles = (course: Course) => [...walkOutline(course.outline)].map(({ node }) => node.title);

describe('What goes', () => {
  it('keeps the law: leaving nothing out changes nothing, and nothing is touched', async () => {
    await fc.assert(
      fc.asyncProperty(courses, fc.array(fc.nat(50)), async ({ course, bodies }, picks) => {
        const seen = await survey(await packageOf(bodies), course, { engine: nodeEngine });
        expect(leaveOutOf(seen.course, nothing, seen.links).course).toEqual(seen.course);
        const before = structuredClone(seen.course);
        const ids = seen.course.items.map((i) => i.id);
        const out = new Set(picks.flatMap((n) => ids[n] ?? []));
        const { pulledIn } = selectionOf(seen.course, out, seen.links);
        for (const { item } of pulledIn) out.delete(item);
        const { course: left, files } = leaveOutOf(seen.course, { ...nothing, items: out }, seen.links);
        expect(seen.course).toEqual(before);
        expect(left.items.map((i) => i.id)).toEqual(ids.filter((id) => !out.has(id)));
        expect(left.files.length + files.size).toBe(seen.course.files.length);
        const there = new Set(left.files.map((f) => f.path));
        const kept = new Set(left.items.map((i) => i.id));
        for (const item of left.items) {
          const needs = needsOf(item, left);
          for (const path of needs.files)
            expect(there.has(path) || !before.files.some((f) => f.path === path)).toBeTrue();
          for (const id of needsOf(item, seen.course).items) expect(kept.has(id)).withContext(id).toBeTrue();
        }
        expect(subjects(left).every((s) => s.item === null || kept.has(s.item.id))).toBeTrue();
      }),
      { numRuns: 60 },
    );
  });

  it('takes a folder out with the last that was in it, and leaves one that was empty', () => {
    const course: Course = {
      title: 'T',
      origin: { format: 't', version: '1', untouched: true },
      metadata: { keywords: [] },
      outline: [
        {
          id: 'f',
          title: 'Full',
          children: [{ id: 'g', title: 'Inner', children: [{ id: 'n', title: 'a', item: 'a', children: [] }] }],
        },
        { id: 'e', title: 'Empty', children: [] },
        { id: 'm', title: 'b', item: 'b', children: [] },
      ],
      items: [page('a'), page('b')],
      files: [],
    };
    const { course: left } = leaveOutOf(course, { ...nothing, items: new Set(['a']) });
    expect(titles(left)).toEqual(['Empty', 'b']);
    expect(titles(leaveOutOf(course, { ...nothing, nodes: new Set(['e']) }).course)).toEqual([
      'Full',
      'Inner',
      'a',
      'b',
    ]);
  });

  it('says what is pulled in, and what will lead nowhere', () => {
    const course: Course = {
      title: 'T',
      origin: { format: 't', version: '1', untouched: true },
      metadata: { keywords: [] },
      outline: [],
      items: [
        { kind: 'quiz', id: 'q', title: 'Quiz', definitionPath: null, questions: [], settings: { draws: { k: '2' } } },
        { kind: 'bank', id: 'k', title: 'Bank', definitionPath: null, questions: [], settings: {} },
        {
          kind: 'page',
          id: 'p',
          title: 'Page',
          definitionPath: null,
          file: 'p.html',
          settings: { visibleWhen: [{ is: 'unread', words: 'once q was tried' }] },
        },
      ],
      files: [],
    };
    expect(selectionOf(course, new Set(['k']), []).pulledIn).toEqual([{ item: 'k', by: 'q' }]);
    expect(selectionOf(course, new Set(['q', 'k']), [])).toEqual({
      pulledIn: [],
      dangling: [{ item: 'p', to: 'q', is: 'condition', words: 'hangs on “Quiz”' }],
    });
  });
});
