import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestBed } from '@angular/core/testing';
import type { Outcome } from '@treenail/core';
import type { JobSummary } from '@treenail/server/contract';
import { Gauge } from './gauge';
import { Peg } from './peg';
import { PegHarness } from './peg.harness';
import { TotalsBar } from './totals';
import { TotalsHarness } from './totals.harness';
import { count, readableSize } from '@treenail/core';
import { HashPipe, WhenPipe, daysUntil } from './words';

describe('Words', () => {
  it('give sizes in the unit that reads best', () => {
    expect([0, 999, 1000, 15_405_458, 999_600, 2_500_000_000].map(readableSize)).toEqual([
      '0\u00a0B',
      '999\u00a0B',
      '1.0\u00a0kB',
      '15\u00a0MB',
      '1.0\u00a0MB',
      '2.5\u00a0GB',
    ]);
  });
  it('count in the singular and the plural', () => {
    expect([count(1, 'copy'), count(2, 'copy'), count(0, 'item')]).toEqual(['1 copy', '2 copies', '0 items']);
  });
  it('name the time zone where they are long', () => {
    expect(new WhenPipe().transform('2026-11-24T05:24:00Z', 'long')).toMatch(/24 Nov 2026 \d\d:24 \S+/);
  });
  it('count days as a calendar does, whatever the hour', () => {
    const from = (hour: number) => new Date(2026, 9, 20, hour, 30);
    const to = (day: number, hour: number) => new Date(2026, 9, day, hour).toISOString();
    expect([from(0), from(23)].map((now) => daysUntil(to(20, 12), now))).toEqual([0, 0]);
    expect([from(0), from(23)].map((now) => daysUntil(to(21, 1), now))).toEqual([1, 1]);
    // Over the night in which clocks are put back.
    expect(daysUntil(to(31, 17), from(6))).toBe(11);
    expect(daysUntil(to(18, 17), from(6))).toBe(-2);
  });
  it('group a hash', () => {
    expect(new HashPipe().transform('0123456789abcdef')).toBe('01234567 89abcdef');
  });
});

describe('A peg', () => {
  it('has a shape of its own for every outcome, and says it', async () => {
    const shapes = new Set<string>();
    for (const outcome of ['whole', 'reworked', 'left behind', 'extra', 'unsure'] satisfies Outcome[]) {
      const fixture = TestBed.createComponent(Peg);
      fixture.componentRef.setInput('outcome', outcome);
      await fixture.whenStable();
      const peg = await TestbedHarnessEnvironment.harnessForFixture(fixture, PegHarness);
      expect(await peg.outcome()).toBe(outcome);
      shapes.add(await peg.shape());
    }
    expect(shapes.size).toBe(5);
  });
});

describe('The totals', () => {
  it('say that nothing was left behind, and speak of extras only when there are any', async () => {
    const fixture = TestBed.createComponent(TotalsBar);
    fixture.componentRef.setInput('totals', { whole: 3, reworked: 1, 'left behind': 0, extra: 0, unsure: 0 });
    await fixture.whenStable();
    const totals = await TestbedHarnessEnvironment.harnessForFixture(fixture, TotalsHarness);
    expect(await totals.parts()).toEqual(['3 whole', '1 reworked', '0 left behind']);
    expect(await totals.fields()).toBe(2);
    fixture.componentRef.setInput('totals', { whole: 3, reworked: 1, 'left behind': 0, extra: 2, unsure: 0 });
    expect(await totals.parts()).toContain('2 extra');
  });
});

describe('The gauge', () => {
  const job: JobSummary = {
    id: 1,
    kind: 'fetch',
    moveId: 1,
    courseId: null,
    course: 'X',
    state: 'waiting',
    words: 'waiting',
    ahead: 2,
    done: 0,
    total: 0,
    unit: '',
    problem: null,
    callOff: false,
    createdAt: '',
    finishedAt: null,
    seen: false,
  };
  const shown = async (change: Partial<JobSummary>) => {
    const fixture = TestBed.createComponent(Gauge);
    fixture.componentRef.setInput('job', { ...job, ...change });
    await fixture.whenStable();
    const element = fixture.nativeElement as HTMLElement;
    return [
      element.querySelector('.words')?.textContent,
      element.querySelector('[role=progressbar]')?.getAttribute('aria-valuenow'),
    ];
  };
  it('tells the place in a queue, and claims no share while it waits', async () => {
    expect(await shown({})).toEqual(['2 ahead', null]);
    expect(await shown({ ahead: 0 })).toEqual(['next', null]);
  });
  it('tells how far a job is', async () => {
    expect(await shown({ state: 'running', ahead: null, done: 30, total: 120, unit: 'items' })).toEqual([
      '30 of 120',
      '25',
    ]);
    expect(await shown({ state: 'running', ahead: null, done: 5_000_000, total: 10_000_000, unit: 'bytes' })).toEqual([
      '5.0\u00a0MB of 10\u00a0MB',
      '50',
    ]);
    expect(await shown({ state: 'done', ahead: null, done: 5, total: 10 })).toEqual(['done', '100']);
  });
});
