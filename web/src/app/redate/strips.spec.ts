import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { NO_REDATING, momentOf, numberOf, redated, type KnownDate, type RedateRow, type Term } from '@treenail/core';
import { DateStripsHarness } from './strips.harness';
import { DateStrips, stripAround, stripOf, threadsOf } from './strips';

const AUTUMN: Term = {
  name: 'Autumn 2026',
  from: '2026-09-14',
  to: '2026-12-18',
  breaks: [{ name: 'Reading week', from: '2026-10-26', to: '2026-10-30' }],
};
const SPRING: Term = { name: 'Spring 2027', from: '2027-01-11', to: '2027-04-09', breaks: [] };
const date = (item: string, on: string): KnownDate => ({
  key: `item:${item} due`,
  name: 'due',
  kind: 'assignment',
  title: item,
  item,
  node: null,
  folders: [],
  at: momentOf(on),
  needs: [],
});
const rowsOf = (...dates: KnownDate[]): RedateRow[] =>
  redated(
    dates,
    { ...NO_REDATING, rule: { is: 'term', from: AUTUMN, to: SPRING } },
    { zone: 'UTC', closed: [], today: '2026-09-01', written: [] },
  ).rows;

describe('The strips of dates', () => {
  let fixture: ComponentFixture<DateStrips>;
  let strips: DateStripsHarness;
  const moved: string[] = [];
  const show = async (rows: RedateRow[]) => {
    moved.length = 0;
    fixture = TestBed.createComponent(DateStrips);
    fixture.componentRef.setInput('rows', rows);
    fixture.componentRef.setInput('before', stripOf(AUTUMN, 'as it was'));
    fixture.componentRef.setInput('after', stripOf(SPRING, 'as it will be'));
    fixture.componentInstance.moved.subscribe(({ rows: all, by }) =>
      moved.push(`${all.map((r) => r.title).join()} ${by}`),
    );
    await fixture.whenStable();
    strips = await TestbedHarnessEnvironment.harnessForFixture(fixture, DateStripsHarness);
  };

  it('say every date with its day, those that go together as one', async () => {
    await show(rowsOf(date('Survey', '2026-09-25'), date('Splice', '2026-09-25'), date('Seam', '2026-11-20')));
    expect(await strips.told()).toEqual(['Survey, due, and 1 more: Fri 22 Jan 2027', 'Seam, due: Fri 12 Mar 2027']);
    expect(await strips.focusable()).toBe(1);
    expect((await strips.heads())[0]).toContain('Autumn 2026 as it was');
  });

  it('move a date by the arrow keys, a week with Shift, and lead from dot to dot', async () => {
    await show(rowsOf(date('Survey', '2026-09-25'), date('Seam', '2026-11-20')));
    await strips.press(0, 'right');
    await strips.press(0, 'left', true);
    expect(moved).toEqual(['Survey 1', 'Survey -7']);
    await strips.press(0, 'down');
    expect((document.activeElement as HTMLElement).getAttribute('aria-label')).toBe('Seam, due');
  });

  it('move nothing where nothing is open to be decided', async () => {
    await show(rowsOf(date('Survey', '2026-09-25')));
    fixture.componentRef.setInput('disabled', true);
    await fixture.whenStable();
    await strips.press(0, 'right');
    expect(moved).toEqual([]);
  });

  it('say how many dates lie before and after', async () => {
    await show(rowsOf(date('Early', '2026-08-20'), date('Survey', '2026-09-25'), date('Long ago', '2022-09-25')));
    expect((await strips.heads())[0]).toContain('‹ 2 before it');
  });

  it('draw a course of two thousand dates as a few lines', () => {
    const many = Array.from({ length: 2000 }, (_, i) =>
      date(`T${i}`, new Date(Date.UTC(2026, 8, 14 + (i % 60))).toISOString().slice(0, 10)),
    );
    expect(threadsOf(rowsOf(...many)).length).toBeLessThan(130);
  });

  it('reach around the dates where no term says how far', () => {
    expect(stripAround([numberOf('2026-09-16'), null, numberOf('2026-10-02')], 'then')).toEqual({
      name: '',
      says: 'then',
      from: numberOf('2026-09-14'),
      to: numberOf('2026-10-05'),
      breaks: [],
    });
    expect(stripAround([null], 'then')).toBeNull();
  });
});
