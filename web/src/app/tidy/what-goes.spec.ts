import { TestBed, type ComponentFixture } from '@angular/core/testing';
import type { Course, Item } from '@treenail/core';
import { WhatGoes } from './what-goes';

const page = (id: string, settings: Item['settings'] = {}): Item => ({
  kind: 'page',
  id,
  title: `Page ${id}`,
  place: `${id}.html`,
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
    page('a', { due: '2026-10-02T00:00:00Z' }),
    page('b', { hidden: true }),
    page('c', { opens: '2026-09-01T00:00:00Z', due: '2026-11-02T00:00:00Z' }),
    { kind: 'bank', id: 'k', title: 'Knots', place: null, settings: { audience: 'Instructor' }, questions: [] },
  ],
  files: [],
};

describe('What goes', () => {
  let fixture: ComponentFixture<WhatGoes>;
  let kept: (readonly string[])[];
  const host = () => fixture.nativeElement as HTMLElement;
  const words = (element: Element | null | undefined) => element?.textContent.replace(/\s+/g, ' ').trim() ?? '';
  const settle = async () => {
    await fixture.whenStable();
    fixture.detectChanges();
  };
  const show = async (inputs: Partial<Record<'leftOut' | 'pulledIn' | 'dangling' | 'open' | 'course', unknown>>) => {
    for (const [name, value] of Object.entries(inputs)) fixture.componentRef.setInput(name, value);
    await settle();
  };
  const button = (says: string) => {
    const found = [...host().querySelectorAll('button')].find((b) => words(b).includes(says));
    if (!found) throw new Error(`no button “${says}”`);
    return found;
  };
  const press = async (says: string) => {
    button(says).click();
    await settle();
  };
  const box = (title: string) => {
    const row = [...host().querySelectorAll('label.row')].find((r) => words(r).startsWith(title));
    const found = row?.querySelector('input');
    if (!found) throw new Error(`no row “${title}”`);
    return found;
  };
  const tick = async (title: string) => {
    box(title).click();
    await settle();
  };
  const state = (title: string) => (box(title).indeterminate ? 'some' : box(title).checked ? 'all' : 'none');
  const headline = () => words(host().querySelector('.bar b'));

  beforeEach(async () => {
    fixture = TestBed.createComponent(WhatGoes);
    host().style.height = '500px';
    kept = [];
    fixture.componentInstance.leftOutChange.subscribe((out) => kept.push(out));
    await show({ course: COURSE, leftOut: [], pulledIn: [], dangling: [], open: true });
    const rows = host().querySelector('cdk-virtual-scroll-viewport');
    (rows as HTMLElement).style.height = '400px';
    window.dispatchEvent(new Event('resize'));
    await settle();
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

  it('keeps nothing before it is said, and puts back what was kept', async () => {
    await tick('Page a');
    expect(kept).toEqual([]);
    await press('Put back');
    expect(headline()).toBe('4 of 4 items go');
    await tick('Page a');
    await press('Leave out 1 item');
    expect(kept).toEqual([['a']]);
    await show({ leftOut: ['a'] });
    expect(host().querySelector('.acts')?.textContent.trim()).toBe('');
    await tick('Page a');
    await press('Let everything go');
    expect(kept).toEqual([['a'], []]);
  });

  it('ticks by kind, by what is hidden, and by date', async () => {
    await press('pages 3/3');
    expect([headline(), state('Knots')]).toEqual(['1 of 4 items go', 'all']);
    await press('pages 0/3');
    await press('untick 2 hidden');
    expect([state('Page b'), state('Knots'), state('Page a')]).toEqual(['none', 'none', 'all']);
    await press('Put back');
    const before = host().querySelector<HTMLInputElement>('input[type=date]');
    if (!before) throw new Error('no date');
    before.value = '2026-10-15';
    before.dispatchEvent(new Event('change'));
    await settle();
    // One date before it is not enough: what is still due then goes.
    expect([state('Page a'), state('Page c'), state('Page b')]).toEqual(['none', 'all', 'all']);
  });

  it('says what is pulled in and what will lead nowhere', async () => {
    await show({
      leftOut: ['k'],
      pulledIn: [{ item: 'k', by: 'a' }],
      dangling: [{ item: 'c', to: 'b', words: 'leads to “Page b”' }],
    });
    expect([...host().querySelectorAll('.said')].map(words)).toEqual([
      '1 item goes all the same, needed by others: “Knots” for “Page a”.',
      '1 reference will lead nowhere: “Page c” leads to “Page b”.',
    ]);
  });

  it('keeps what was ticked when the same comes again, and can not be changed once it is closed', async () => {
    await tick('Page a');
    await show({ leftOut: [] });
    expect(state('Page a')).toBe('none');
    await show({ open: false });
    expect([box('Page a').disabled, button('pages').disabled]).toEqual([true, true]);
  });
});
