import * as fc from 'fast-check';
import { subjects, type Course, type Item } from '../model/index.ts';
import { common, courseOf } from '../testing/made.ts';
import { courses } from '../testing/courses.ts';
import { MeetsAs, meetings, settle } from '../reshape/index.ts';
import { heldWords, landing, leftBehindBy, WAYS_IN } from './index.ts';

const page = (id: string, title = id, of = id): Item => ({
  ...common(id, title),
  kind: 'page',
  file: `${id}.html`,
  fingerprint: of,
});
const course = (...items: Item[]): Course => courseOf(items, {});
const told = (there: Course, comes: Course, way: (typeof WAYS_IN)[number], identifiers: 'overwritten' | 'doubled') =>
  landing(there, comes, { way, identifiers }).lines.map((l) => [
    l.becomes,
    l.there?.title ?? null,
    l.comes?.title ?? null,
    l.after?.title ?? null,
  ]);

describe('What a delivery does to a course that is there', () => {
  const there = course(page('a', 'Welcome'), page('b', 'Tides'), page('c', 'Knots', 'same words'));
  const comes = course(page('b', 'Tides anew'), page('x', 'Welcome'), page('y', 'Bends', 'same words'), page('z'));

  it('beside: what is there stays, but what is overwritten by its identifier; doubles are known by title and substance', () => {
    expect(told(there, comes, 'beside', 'overwritten')).toEqual([
      ['stays', 'Welcome', null, 'Welcome'],
      ['overwritten', 'Tides', 'Tides anew', 'Tides anew'],
      ['stays', 'Knots', null, 'Knots'],
      ['double', null, 'Welcome', 'Welcome'],
      ['double', null, 'Bends', 'Bends'],
      ['new', null, 'z', 'z'],
    ]);
  });

  it('beside, where identifiers count for nothing: all that is there stays', () => {
    const { totals } = landing(there, comes, { way: 'beside', identifiers: 'doubled' });
    expect(totals).toEqual({
      stays: 3,
      new: 1,
      overwritten: 0,
      replaced: 0,
      'not sent': 0,
      double: 3,
      gone: 0,
      'left behind': 0,
    });
  });

  it('in place of: all that is there goes, all that comes is new', () => {
    expect(told(there, course(page('b')), 'in place of', 'overwritten')).toEqual([
      ['gone', 'Welcome', null, null],
      ['gone', 'Tides', null, null],
      ['gone', 'Knots', null, null],
      ['new', null, 'b', 'b'],
    ]);
  });

  it('leaves alone what would be overwritten by something that does not arrive', () => {
    const leftBehind = leftBehindBy([{ source: 'item:b', outcome: 'left behind' }]);
    const { lines } = landing(there, course(page('b')), { way: 'beside', identifiers: 'overwritten', leftBehind });
    expect(lines.map((l) => l.becomes)).toEqual(['stays', 'stays', 'stays', 'left behind']);
  });

  it('does of each that meets its like what was decided', () => {
    const met = (chosen: Record<string, MeetsAs>) =>
      meetings(there, comes, {
        identifiers: 'overwritten',
        unless: 'both',
        chosen,
        worked: new Set(),
        leftBehind: new Set(),
      });
    const decided = met({ b: 'both', x: 'theirs', y: 'ours' });
    const { settled, taken } = settle(there, comes, decided, { identifiers: 'overwritten', rule: (t) => `${t} (2)` });
    const { titles } = settled;
    const { lines } = landing(there, comes, { way: 'into', identifiers: 'overwritten', met: decided, titles });
    expect(lines.map((l) => [l.becomes, l.there?.title, l.comes?.title, l.after?.title])).toEqual([
      ['not sent', 'Welcome', 'Welcome', 'Welcome'],
      ['stays', 'Tides', undefined, 'Tides'],
      ['replaced', 'Knots', 'Bends', 'Bends'],
      ['double', undefined, 'Tides anew', 'Tides anew (2)'],
      ['new', undefined, 'z', 'z'],
    ]);
    expect(taken).toEqual(['c']);
  });

  it('names everything of both exactly once', () => {
    fc.assert(
      fc.property(
        courses,
        courses,
        fc.constantFrom(...WAYS_IN),
        fc.constantFrom('overwritten' as const, 'doubled' as const),
        (a, b, way, identifiers) => {
          const met =
            way === 'into'
              ? meetings(a.course, b.course, {
                  identifiers,
                  unless: 'newest',
                  chosen: Object.fromEntries(
                    b.course.items.map((i, n) => [i.id, MeetsAs.options[n % MeetsAs.options.length] ?? 'both']),
                  ),
                  worked: new Set(),
                  leftBehind: new Set(),
                })
              : [];
          const { lines, totals } = landing(a.course, b.course, { way, identifiers, met });
          const keys = (of: Course) =>
            subjects(of, { withCourse: false })
              .map((s) => s.key)
              .sort();
          expect(lines.flatMap((l) => (l.there ? [l.there.key] : [])).sort()).toEqual(keys(a.course));
          expect(lines.flatMap((l) => (l.comes ? [l.comes.key] : [])).sort()).toEqual(keys(b.course));
          expect(Object.values(totals).reduce((x, y) => x + y, 0)).toBe(lines.length);
          // Nothing that is there is lost unless it is said.
          expect(lines.every((l) => (l.after === null) === (l.becomes === 'gone'))).toBeTrue();
          const none = new Set(keys(b.course));
          const nothing = landing(a.course, b.course, { way, identifiers, leftBehind: none });
          expect(nothing.lines.every((l) => l.comes === null || l.becomes === 'left behind')).toBeTrue();
        },
      ),
      { numRuns: 60 },
    );
  });

  it('counts what a course holds in words', () => {
    expect(heldWords(course())).toBe('nothing');
    const quiz: Item = { ...common('q'), kind: 'quiz', questions: [] };
    expect(heldWords(course(page('a'), page('b'), quiz))).toBe('3 items (2 pages, 1 quiz)');
  });
});
