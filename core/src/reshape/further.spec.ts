import fc from 'fast-check';
import { nodeEngine } from '../container/node.ts';
import { survey } from '../inspect/index.ts';
import { subjects, type Course } from '../model/index.ts';
import { courses } from '../testing/courses.ts';
import { packageOf } from '../testing/packages.ts';
import { ChangeSet } from './changes.ts';
import { besideWhatWent, hideUntil, sentSoFar } from './further.ts';
import { leaveOutOf, selectionOf } from './select.ts';

const without = (items: ReadonlySet<string>) => ({ items, nodes: new Set<string>() });

describe('Parts that follow one another', () => {
  it('keep the law: part now and the rest later is all at once, in three parts too, and one that is sent twice is there once', async () => {
    await fc.assert(
      fc.asyncProperty(courses, fc.array(fc.nat(50)), fc.array(fc.nat(50)), async ({ course, bodies }, now, later) => {
        const { course: whole, links } = await survey(await packageOf(bodies), course, { engine: nodeEngine });
        const ids = whole.items.map((i) => i.id);
        const first = new Set(now.flatMap((n) => ids[n] ?? []));
        const second = new Set(later.flatMap((n) => ids[n] ?? []));
        const part = (goes: (id: string) => boolean) =>
          leaveOutOf(whole, without(new Set(ids.filter((id) => !goes(id)))), links).course;
        const before = structuredClone(whole);
        const one = part((id) => first.has(id));
        const two = sentSoFar(
          one,
          part((id) => second.has(id)),
          whole,
        );
        const all = sentSoFar(
          two,
          part((id) => !first.has(id)),
          whole,
        );
        expect(all).toEqual(whole);
        expect(sentSoFar(all, one, whole)).toEqual(whole);
        expect(whole).toEqual(before);
      }),
      { numRuns: 60 },
    );
  });

  it('find there what went, and bring only what it is not', async () => {
    await fc.assert(
      fc.asyncProperty(courses, fc.array(fc.nat(50)), async ({ course, bodies }, picks) => {
        const { course: whole, links } = await survey(await packageOf(bodies), course, { engine: nodeEngine });
        const ids = whole.items.map((i) => i.id);
        const went = new Set(picks.flatMap((n) => ids[n] ?? []));
        const rest = new Set(ids.filter((id) => !went.has(id)));
        const { course: sent } = leaveOutOf(whole, without(rest), links);
        const { course: part } = leaveOutOf(whole, without(went), links);
        const { there, ...brought } = besideWhatWent(part, sent, whole);
        expect(there?.items.map((i) => i.id)).toEqual(sent.items.map((i) => i.id));
        const held = new Set(there?.files.map((f) => f.path));
        for (const file of part.files) {
          // Each file comes or is there, and none does both.
          expect(brought.files.some((f) => f.path === file.path)).not.toBe(held.has(file.path));
          if (held.has(file.path)) expect(sent.files.map((f) => f.path)).toContain(file.path);
        }
        // What an item is always comes with it.
        for (const item of part.items)
          if ('file' in item && part.files.some((f) => f.path === item.file))
            expect(brought.files.map((f) => f.path)).toContain(item.file);
        expect(brought.items).toEqual(part.items);
      }),
      { numRuns: 60 },
    );
  });

  it('a file that is another now comes again', () => {
    const file = (sha256: string) =>
      ({ path: 'map.png', size: 1, mediaType: 'image/png', role: 'content', sha256 }) as const;
    const made = (sha256: string): Course => ({
      title: 'T',
      origin: { format: 't', version: '1', untouched: true },
      metadata: { keywords: [] },
      outline: [],
      items: [],
      files: [file(sha256)],
    });
    expect(besideWhatWent(made('a'), made('a'), made('a')).files).toEqual([]);
    expect(besideWhatWent(made('b'), made('a'), made('b')).files.length).toBe(1);
  });

  it('need nothing of what they find there, and lead to it', async () => {
    await fc.assert(
      fc.asyncProperty(courses, fc.array(fc.nat(50)), async ({ course, bodies }, picks) => {
        const { course: whole, links } = await survey(await packageOf(bodies), course, { engine: nodeEngine });
        const ids = whole.items.map((i) => i.id);
        const went = new Set(picks.flatMap((n) => ids[n] ?? []));
        expect(selectionOf(whole, went, links, went)).toEqual({ pulledIn: [], dangling: [] });
      }),
      { numRuns: 60 },
    );
  });

  it('are hidden until a day by a condition at each topmost place, beside what else it hangs on, once', () => {
    const item = (id: string) =>
      ({ kind: 'link', id, title: id, definitionPath: null, url: 'https://x.example', settings: {} }) as const;
    const course: Course = {
      title: 'T',
      origin: { format: 't', version: '1', untouched: true },
      metadata: { keywords: [] },
      outline: [
        { id: 'f', title: 'October', children: [{ id: 'na', title: 'a', item: 'a', children: [] }] },
        { id: 'nb', title: 'b', item: 'b', children: [] },
        { id: 'nc', title: 'c', item: 'c', children: [] },
      ],
      items: [item('a'), { ...item('b'), settings: { visibleWhen: [{ is: 'done', item: 'a' }] } }, item('c')],
      files: [],
    };
    const changes = new ChangeSet();
    const at = { is: 'day', on: '2026-10-01' } as const;
    hideUntil(course, new Set(['c']), at, changes);
    hideUntil(course, new Set(['c']), at, changes);
    const after: Course = {
      ...course,
      outline: changes.outlineAfter(course.outline),
      items: course.items.map((i) => changes.itemAfter(i)),
    };
    const from = { is: 'date', side: 'from', at } as const;
    const hung = Object.fromEntries(subjects(after).map((s) => [s.title, s.settings?.visibleWhen ?? []]));
    expect(hung).toEqual({ October: [from], a: [], b: [{ is: 'done', item: 'a' }, from], c: [] });
  });
});
