import type { Course, Item } from '../model/index.ts';
import { common, courseOf } from '../testing/made.ts';
import { besideThose } from './index.ts';

const page = (id: string, of = id): Item => ({ ...common(id, id), kind: 'page', file: `${id}.html`, fingerprint: of });
const inUnits = (...units: [string, Item[]][]): Course => ({
  ...courseOf(
    units.flatMap(([, items]) => items),
    {},
  ),
  outline: units.map(([title, items]) => ({
    id: `u-${title}`,
    title,
    children: items.map((i) => ({ id: `n-${i.id}`, title: i.title, item: i.id, children: [] })),
  })),
});

describe('What was delivered beside something', () => {
  const before = inUnits(['Theirs', [page('a'), page('b')]], ['Mixed', [page('c')]]);
  const sent = inUnits(['Ours', [page('x'), page('c', 'anew')]]);

  it('is taken apart from what stood there, and what it overwrote is its own', () => {
    const arrived = inUnits(['Theirs', [page('a'), page('b')]], ['Mixed', [page('c', 'anew')]], ['Ours', [page('x')]]);
    const { ours, changed, gone, stayed } = besideThose(arrived, before, sent);
    expect(ours.items.map((i) => i.id)).toEqual(['c', 'x']);
    expect(ours.outline.map((n) => n.title)).toEqual(['Mixed', 'Ours']);
    expect([changed, gone, stayed]).toEqual([[], [], 2]);
  });

  it('tells what of that did not stay as it was', () => {
    const arrived = inUnits(['Theirs', [page('b', 'other words')]], ['Ours', [page('x'), page('c', 'anew')]]);
    const { changed, gone, stayed } = besideThose(arrived, before, sent);
    expect([changed, gone, stayed]).toEqual([['b'], ['a'], 0]);
  });
});
