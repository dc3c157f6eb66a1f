import { momentOf } from '@treenail/core';
import { TestBed } from '@angular/core/testing';
import type { Course, Item } from '@treenail/core';
import type { ChosenToGo, FurtherItem } from '@treenail/server/contract';
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
  let last: ChosenToGo | null;
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
    screen.fixture.componentInstance.chosen.subscribe((goes) => {
      kept.push(goes.leftOut);
      last = goes;
    });
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
    await screen.fill('input[aria-label^=untick]', '15 Oct 2026');
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

  it('is hidden until a day, which is held with what is ticked, and shown at once again', async () => {
    await screen.set({ leftOut: ['a'] });
    const day = screen.host.querySelector<HTMLInputElement>('input[aria-label="hidden until"]');
    if (!day) throw new Error('no field');
    day.value = '1 Oct 2026';
    day.dispatchEvent(new Event('input'));
    day.dispatchEvent(new Event('change'));
    await screen.settle();
    expect(last).toEqual({ leftOut: ['a'], hiddenUntil: { is: 'day', on: '2026-10-01' } });
    await screen.set({ hiddenUntil: { is: 'day', on: '2026-10-01' } });
    await screen.press('show at once');
    expect(last).toEqual({ leftOut: ['a'], hiddenUntil: null });
  });

  it('of a further part says what went, what changed since and what changed there too, and shows both versions', async () => {
    const item = (id: string, since: 'went' | 'changed' | 'new', there: FurtherItem['there']) => ({
      id,
      since,
      was: since === 'new' ? null : id,
      there,
    });
    await screen.set({
      leftOut: ['a', 'b'],
      further: {
        items: [
          item('a', 'went', 'removed'),
          item('b', 'changed', 'changed'),
          item('c', 'changed', 'same'),
          item('k', 'new', null),
        ],
        gone: [{ id: 'z', title: 'Old page', kind: 'page' }],
        unread: '',
      },
    });
    const said = screen.words('.before');
    expect(said).toContain('1 item of the course went before and is as then, 2 changed since, 1 never went.');
    expect(said).toContain('1 item changed at both sides since: “Page b”. They do not go unless you tick them');
    expect(said).toContain('Taken away there since: “Page a”.');
    expect(said).toContain('Not in the course any more, and still there: “Old page”.');
    const row = (title: string) =>
      wordsOf([...screen.host.querySelectorAll('.line')].find((r) => wordsOf(r).startsWith(title)) ?? null);
    expect(row('Page a')).toContain('went before, taken away there');
    expect(row('Page b')).toContain('changed since it went, changed there too');
    expect(row('Page c')).toMatch(/changed since it went ?Both versions$/);
    const asked: string[] = [];
    screen.fixture.componentInstance.asked.subscribe((id) => asked.push(id));
    await screen.press('Both versions');
    expect(asked).toEqual(['b']);
    expect(box('Page b').checked).toBe(false);
    await screen.set({ comesAgain: true });
    expect(screen.words('.before')).toContain('what went goes once more with it');
    expect(screen.words('.before')).toContain('1 item changed there since will be overwritten: “Page b”.');
    expect(screen.words('.before')).toContain('Not in the course any more, and gone from there too then: “Old page”.');
    const absent = { items: [item('a', 'went', 'absent')], gone: [], unread: 'it is away' };
    await screen.set({ further: absent, comesAgain: false });
    expect(row('Page a')).toContain('went before, did not arrive');
    expect(screen.words('.before')).toContain('could not be looked at (it is away)');
  });
});
