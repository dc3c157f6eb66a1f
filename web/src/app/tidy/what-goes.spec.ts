import { momentOf } from '@treenail/core';
import { TestBed } from '@angular/core/testing';
import type { Course, Item } from '@treenail/core';
import { Screen, wordsOf } from '../testing/screen';
import { WhatGoes } from './what-goes';

const page = (id: string, settings: Item['settings'] = {}): Item => ({
  kind: 'page',
  id,
  title: `Page ${id}`,
  definitionPath: `${id}.html`,
  file: `${id}.html`,
  settings,
});
const placed = (id: string) => ({ id: `n${id}`, title: `Page ${id}`, item: id, children: [] });
const COURSE: Course = {
  title: 'T',
  origin: { format: 't', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: [
    {
      id: 'w1',
      title: 'Week 1',
      children: [placed('a'), { id: 'in', title: 'Inside', children: [placed('b'), placed('c')] }],
    },
    { id: 'w2', title: 'Week 2', children: [] },
  ],
  items: [
    page('a', { due: momentOf('2026-10-02T00:00:00Z') }),
    page('b', { hidden: true }),
    page('c', { opens: momentOf('2026-09-01T00:00:00Z'), due: momentOf('2026-11-02T00:00:00Z') }),
    {
      kind: 'bank',
      id: 'k',
      title: 'Knots',
      definitionPath: null,
      settings: { audience: 'Instructor' },
      questions: [],
    },
  ],
  files: [],
};

describe('What goes', () => {
  let screen: Screen<WhatGoes>;
  let kept: (readonly string[])[];
  const box = (title: string) => {
    const row = [...screen.host.querySelectorAll('mat-checkbox.row')].find((r) => wordsOf(r).startsWith(title));
    const found = row?.querySelector('input');
    if (!found) throw new Error(`no row “${title}”`);
    return found;
  };
  const tick = async (title: string) => {
    box(title).click();
    await screen.settle();
  };
  const state = (title: string) => (box(title).indeterminate ? 'some' : box(title).checked ? 'all' : 'none');
  const headline = () => screen.words('.bar b');

  beforeEach(async () => {
    screen = new Screen(TestBed.createComponent(WhatGoes));
    kept = [];
    screen.fixture.componentInstance.leftOutChange.subscribe((out) => kept.push(out));
    await screen.set({ course: COURSE, leftOut: [], pulledIn: [], dangling: [], open: true });
    await screen.unroll();
  });

  it('unticks a folder with all that lies below it, and says so at the folders above', async () => {
    expect(headline()).toBe('4 of 4 items go');
    await tick('Inside');
    expect(headline()).toBe('2 of 4 items go');
    expect([state('Week 1'), state('Inside'), state('Page b'), state('Page a')]).toEqual([
      'some',
      'none',
      'none',
      'all',
    ]);
    // A folder of which some goes is ticked whole first.
    await tick('Week 1');
    expect([headline(), state('Week 1')]).toEqual(['4 of 4 items go', 'all']);
    expect(box('Week 2').disabled).toBeTrue();
  });

  it('holds what is ticked by itself, some ticks at once, and lets everything go again', async () => {
    await tick('Page a');
    await tick('Knots');
    expect(screen.words('.acts')).toContain('being held');
    await screen.until(() => kept.length > 0);
    expect(kept).toEqual([['a', 'k']]);
    await screen.set({ leftOut: ['a', 'k'] });
    expect(screen.words('.acts')).toContain('2 items left out');
    await screen.press('Let everything go');
    await screen.until(() => kept.length > 1);
    expect(kept).toEqual([['a', 'k'], []]);
  });

  it('loses no tick when the person goes elsewhere at once, nor one made while another is being held', async () => {
    await tick('Page a');
    await screen.until(() => kept.length > 0);
    await tick('Page b');
    // The answer to the first comes now.
    await screen.set({ leftOut: ['a'] });
    expect([state('Page a'), state('Page b')]).toEqual(['none', 'none']);
    screen.fixture.destroy();
    expect(kept).toEqual([['a'], ['a', 'b']]);
  });

  it('ticks by kind, by what is hidden, and by date', async () => {
    await screen.press('pages 3/3');
    expect([headline(), state('Knots')]).toEqual(['1 of 4 items go', 'all']);
    await screen.press('pages 0/3');
    await screen.press('untick 2 hidden');
    expect([state('Page b'), state('Knots'), state('Page a')]).toEqual(['none', 'none', 'all']);
    await screen.press('Let everything go');
    await screen.fill('tn-day-field input', '15 Oct 2026');
    // One date before it is not enough: what is still due then goes.
    expect([state('Page a'), state('Page c'), state('Page b')]).toEqual(['none', 'all', 'all']);
  });

  it('says what is pulled in and what will lead nowhere', async () => {
    await screen.set({
      leftOut: ['k'],
      pulledIn: [{ item: 'k', by: 'a' }],
      dangling: [{ item: 'c', to: 'b', words: 'leads to “Page b”' }],
    });
    expect(screen.texts('.said')).toEqual([
      '1 item goes all the same, needed by others: “Knots” for “Page a”.',
      '1 reference will lead nowhere: “Page c” leads to “Page b”.',
    ]);
  });

  it('keeps what was ticked when the same comes again, and can not be changed once it is closed', async () => {
    await tick('Page a');
    await screen.set({ leftOut: [] });
    expect(state('Page a')).toBe('none');
    await screen.set({ open: false });
    expect([box('Page a').disabled, screen.button('pages').getAttribute('aria-disabled')]).toEqual([true, 'true']);
  });
});
