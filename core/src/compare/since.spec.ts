import fc from 'fast-check';
import { nodeEngine } from '../container/node.ts';
import { survey } from '../inspect/index.ts';
import { Course } from '../model/index.ts';
import { courses } from '../testing/courses.ts';
import { page } from '../testing/made.ts';
import { packageOf } from '../testing/packages.ts';
import { changedSince } from './since.ts';

const COURSE: Course = {
  title: 'T',
  origin: { format: 't', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: ['a', 'b', 'c'].map((id) => ({ id: `n${id}`, title: id, item: id, children: [] })),
  items: ['a', 'b', 'c'].map((id) => page(id)),
  files: ['a', 'b', 'c'].map((id) => ({
    path: `${id}.html`,
    size: 1,
    mediaType: 'text/html',
    role: 'content',
    sha256: id.repeat(64),
  })),
};
const since = (before: Course, now: Course) =>
  Object.fromEntries(changedSince(before, now).items.map((i) => [i.id, i.since]));

describe('What changed in a course since', () => {
  it('is nothing where nothing did, and every item is named once', async () => {
    await fc.assert(
      fc.asyncProperty(courses, async ({ course, bodies }) => {
        const { course: whole } = await survey(await packageOf(bodies), course, { engine: nodeEngine });
        // Kept and read again: what is said of an item is said in another order.
        const { items, gone } = changedSince(whole, Course.parse(JSON.parse(JSON.stringify(whole))));
        expect(items.map((i) => i.id).sort()).toEqual(whole.items.map((i) => i.id).sort());
        expect(items.filter((i) => i.since !== 'same')).toEqual([]);
        expect(gone).toEqual([]);
      }),
      { numRuns: 60 },
    );
  });

  it('is seen in a file, a title, a setting; and what came and went is told', () => {
    const files = COURSE.files.map((f) => (f.path === 'a.html' ? { ...f, sha256: 'x'.repeat(64) } : f));
    expect(since(COURSE, { ...COURSE, files })).toEqual({ a: 'changed', b: 'same', c: 'same' });
    const set = COURSE.items.map((i) => (i.id === 'b' ? { ...i, settings: { points: 4 } } : i));
    expect(since(COURSE, { ...COURSE, items: set })).toEqual({ a: 'same', b: 'changed', c: 'same' });
    const outline = COURSE.outline.map((n) => (n.item === 'c' ? { ...n, title: 'Another name' } : n));
    expect(since(COURSE, { ...COURSE, outline })).toEqual({ a: 'same', b: 'same', c: 'changed' });
    const without = { ...COURSE, items: COURSE.items.slice(1), outline: COURSE.outline.slice(1) };
    expect(since(without, COURSE)).toEqual({ a: 'new', b: 'same', c: 'same' });
    expect(changedSince(COURSE, without).gone.map((g) => g.id)).toEqual(['a']);
  });

  it('is not that a platform calls things by other names', () => {
    const renamed: Course = {
      ...COURSE,
      outline: COURSE.outline.map((n) => ({ ...n, id: `x${n.id}`, item: `z${n.item}` })),
      items: ['a', 'b', 'c'].map((id) => ({
        ...page(id),
        id: `z${id}`,
        definitionPath: `p/${id}.html`,
        file: `p/${id}.html`,
      })),
      files: COURSE.files.map((f) => ({ ...f, path: `p/${f.path}` })),
    };
    const told = changedSince(COURSE, renamed);
    expect(told.items.map(({ id, since: what, was }) => `${was} ${id} ${what}`)).toEqual([
      'a za same',
      'b zb same',
      'c zc same',
    ]);
    expect(told.gone).toEqual([]);
  });
});
