import * as fc from 'fast-check';
import type { Course, Item } from '../model/index.ts';
import { courses } from '../testing/courses.ts';
import { common, courseOf } from '../testing/made.ts';
import { MeetsAs, asSettled, isUnsettled, meetings, notSent, settle, type MeetOptions } from './meet.ts';

const page = (id: string, title: string, of = id, settings: Item['settings'] = {}): Item => ({
  ...common(id, title),
  kind: 'page',
  file: `${id}.html`,
  fingerprint: of,
  settings,
});
const OPTIONS: MeetOptions = {
  identifiers: 'overwritten',
  unless: 'both',
  chosen: {},
  worked: new Set(),
  leftBehind: new Set(),
};
const plainly = { identifiers: 'overwritten' as const, rule: (title: string) => `${title} (ours)` };

describe('What meets its like where a course goes', () => {
  const there = courseOf(
    [
      page('a', 'Welcome', 'hello'),
      page('b', 'Tides', 'ebb', { points: 5 }),
      page('c', 'Knots', 'bowline'),
      page('d', 'Weather', 'gale'),
    ],
    {},
  );
  const comes = courseOf(
    [
      page('b', 'Tides anew', 'flood', { points: 8 }),
      page('x', 'Welcome', 'hello'),
      page('y', 'Bends', 'bowline'),
      page('z', 'weather ', 'calm'),
      page('new', 'Charts'),
    ],
    {},
  );
  const met = (more: Partial<MeetOptions> = {}) => meetings(there, comes, { ...OPTIONS, ...more });
  const told = (more: Partial<MeetOptions> = {}) => met(more).map((m) => [m.first, m.second, m.by, m.same, m.is]);

  it('is known by its identifier, its substance, or its kind and title', () => {
    expect(told()).toEqual([
      ['b', 'b', 'identifier', false, 'ours'],
      ['a', 'x', 'substance', true, 'both'],
      ['c', 'y', 'substance', false, 'both'],
      ['d', 'z', 'title', false, 'both'],
    ]);
  });

  it('matched item by item: what is the same stays theirs, what differs becomes ours', () => {
    expect(told({ unless: 'newest' }).map((m) => [m[1], m[4]])).toEqual([
      ['b', 'ours'],
      ['x', 'theirs'],
      ['y', 'ours'],
      ['z', 'ours'],
    ]);
  });

  it('is not taken out where learners worked in it, whatever was asked; overwritten, it keeps their work', () => {
    const worked = new Set(['b', 'd']);
    const [b, , , z] = met({ worked, unless: 'newest', chosen: { z: 'ours', b: 'ours, set as theirs' } });
    expect([z?.is, z?.can, z?.why]).toEqual(['theirs', ['both', 'theirs'], 'learners have worked in theirs']);
    expect([b?.is, b?.differs]).toEqual(['ours, set as theirs', ['points']]);
    // Of what is set alike nothing is to be set, and nobody is said to have worked in it.
    const [, x] = met({ chosen: { x: 'ours, set as theirs' } });
    expect([x?.is, x?.why]).toEqual(['ours', '']);
  });

  it('comes under another name and identifier where both are there, or set as theirs where that is asked', () => {
    const one = settle(there, comes, met({ chosen: { b: 'both', x: 'theirs', z: 'ours' } }), plainly);
    expect(one).toEqual({
      settled: {
        leftOut: ['x'],
        titles: { b: 'Tides anew (ours)', y: 'Bends (ours)' },
        calls: { b: 'b-2' },
        settings: {},
      },
      taken: ['d'],
    });
    const placed = {
      ...comes,
      outline: comes.items.map((i) => ({ id: `n-${i.id}`, title: i.title, item: i.id, children: [] })),
    };
    const sent = asSettled(placed, one.settled);
    expect(sent.items.map((i) => [i.id, i.title])).toContain(['b-2', 'Tides anew (ours)']);
    expect(sent.outline.map((n) => [n.item, n.title])).toContain(['b-2', 'Tides anew (ours)']);
    expect(sent.origin.untouched).toBeFalse();
    const two = settle(there, comes, met({ chosen: { b: 'ours, set as theirs' } }), plainly);
    expect(two.taken).toEqual([]);
    expect(asSettled(comes, two.settled).items.find((i) => i.id === 'b')?.settings).toEqual({ points: 5 });
    expect(comes.items[0]?.settings).toEqual({ points: 8 });
  });

  it('goes all the same where others need it, and what leads to what is not sent is told', () => {
    const needing: Item = { ...page('t', 'Task'), settings: { usesRubric: 'r' } };
    const rubric = (id: string): Item => page(id, 'Rubric');
    const course = courseOf([needing, rubric('r')], {});
    const [r] = meetings(courseOf([rubric('r')], {}), course, { ...OPTIONS, chosen: { r: 'theirs' } });
    expect([r?.is, r?.why]).toEqual(['ours', '“Task” needs it']);
    const left = met({ chosen: { x: 'theirs' } });
    const links = [{ item: 'new', to: 'x', path: null }] as unknown as Parameters<typeof notSent>[2];
    expect(notSent(comes, left, links).dangling.map((d) => d.words)).toEqual(['links to “Welcome”']);
    expect(notSent(comes, left, links, new Set(['x'])).dangling).toEqual([]);
  });

  it('is in one meeting at most, and what is settled leaves no name twice and nothing else changed', () => {
    fc.assert(
      fc.property(
        courses,
        courses,
        fc.constantFrom('overwritten' as const, 'doubled' as const),
        fc.constantFrom('both' as const, 'newest' as const),
        fc.constantFrom(...MeetsAs.options),
        (a, b, identifiers, unless, choice) => {
          const before = JSON.stringify(b.course);
          const chosen = Object.fromEntries(b.course.items.map((i) => [i.id, choice]));
          const all = meetings(a.course, b.course, { ...OPTIONS, identifiers, unless, chosen });
          const once = (of: string[]) => new Set(of).size === of.length;
          expect(once(all.map((m) => m.first)) && once(all.map((m) => m.second))).toBeTrue();
          const { settled, taken } = settle(a.course, b.course, all, { ...plainly, identifiers });
          const sent = asSettled(b.course, settled);
          const ids = sent.items.map((i) => i.id);
          expect(once(ids)).toBeTrue();
          // Nothing that comes bears the name of what stays beside it.
          const stays = new Set(all.flatMap((m) => (m.is === 'both' ? [m.first] : [])));
          if (identifiers === 'overwritten') expect(ids.filter((id) => stays.has(id))).toEqual([]);
          expect(taken.every((id) => all.some((m) => m.first === id && m.is.startsWith('ours')))).toBeTrue();
          const untouched = (of: Course) =>
            of.items.filter((i) => !all.some((m) => [m.second, settled.calls[m.second]].includes(i.id))).length;
          expect(untouched(sent)).toBe(untouched(b.course));
          expect(JSON.stringify(b.course)).toBe(before);
          // A course that meets itself is all there already.
          const itself = meetings(b.course, b.course, { ...OPTIONS, unless: 'newest' });
          expect(itself.map((m) => m.first).sort()).toEqual(b.course.items.map((i) => i.id).sort());
          expect(itself.every((m) => m.same)).toBeTrue();
          expect(isUnsettled(settle(courseOf([], {}), b.course, [], plainly).settled)).toBeTrue();
        },
      ),
      { numRuns: 60 },
    );
  });
});
