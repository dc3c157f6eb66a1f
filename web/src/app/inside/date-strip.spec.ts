import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { momentOf } from '@treenail/core';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import type { Course, Item } from '@treenail/core';
import { DateStripHarness } from './date-strip.harness';
import { DateStrip, mostOf } from './date-strip';

const DAY = 86_400_000;
const task = (id: string, settings: Item['settings']): Item => ({
  kind: 'assignment',
  id,
  title: id,
  definitionPath: null,
  settings,
  text: { format: 'html', text: '' },
});
const courseOf = (...items: Item[]): Course => ({
  title: 'T',
  origin: { format: 't', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: [],
  items,
  files: [],
});

describe('The date strip', () => {
  let fixture: ComponentFixture<DateStrip>;
  let strip: DateStripHarness;
  const host = () => fixture.nativeElement as HTMLElement;
  const show = async (course: Course, now = '2026-10-01T00:00:00Z') => {
    fixture = TestBed.createComponent(DateStrip);
    fixture.componentRef.setInput('course', course);
    fixture.componentRef.setInput('now', now);
    await fixture.whenStable();
    strip = await TestbedHarnessEnvironment.harnessForFixture(fixture, DateStripHarness);
  };
  const rows = () => [...host().querySelectorAll<SVGGElement>('g[role=button]')];
  const placeOf = (mark: Element | null | undefined) =>
    Number(/translate\((\d+)/.exec(mark?.getAttribute('transform') ?? '')?.[1]);

  it('has a row for every item with a date, from the first on, and says them in words', async () => {
    await show(
      courseOf(
        task('Splice', { opens: momentOf('2026-10-05T00:00:00Z'), due: momentOf('2026-10-20T00:00:00Z') }),
        task('Undated', {}),
        task('Survey', { due: momentOf('2026-09-20T00:00:00Z') }),
      ),
    );
    expect(await strip.rows()).toEqual([
      'Survey: due 20 September 2026',
      'Splice: opens 5 October 2026, due 20 October 2026',
    ]);
    const [first, second] = rows();
    expect(first?.querySelector('.span')).toBeNull();
    const span = second?.querySelector('.span');
    const [opens, due] = [placeOf(second?.querySelector('.opens')), placeOf(second?.querySelector('.due'))];
    expect([Number(span?.getAttribute('x1')), Number(span?.getAttribute('x2'))]).toEqual([opens, due]);
    expect(placeOf(first?.querySelector('.due'))).toBeLessThan(opens);
    const today = Number(host().querySelector('.today')?.getAttribute('x1'));
    expect(today).toBeGreaterThan(placeOf(first?.querySelector('.due')));
    expect(today).toBeLessThan(opens);
  });

  it('is opened by a click and by the keyboard', async () => {
    await show(courseOf(task('Splice', { due: momentOf('2026-10-20T00:00:00Z') })));
    const chosen: string[] = [];
    fixture.componentInstance.chosen.subscribe(({ item }) => chosen.push(item?.id ?? ''));
    await strip.open(0, 'click');
    await strip.open(0, 'key');
    expect(chosen).toEqual(['Splice', 'Splice']);
    expect(rows()[0]?.getAttribute('tabindex')).toBe('0');
  });

  it('sets a date of years ago at the edge, in words, and shows no today that lies outside', async () => {
    const term = Array.from({ length: 12 }, (_, i) =>
      task(`Week ${i}`, { due: momentOf(new Date(Date.UTC(2026, 8, 14 + 7 * i)).toISOString()) }),
    );
    await show(
      courseOf(...term, task('Old notice', { posted: momentOf('2019-03-02T00:00:00Z') })),
      '2030-01-01T00:00:00Z',
    );
    const [old, first] = rows();
    expect(old?.getAttribute('aria-label')).toContain('Old notice');
    expect(old?.querySelector('.far')?.textContent.trim()).toBe('2 March 2019');
    expect(first?.querySelector('.far')).toBeNull();
    // The term has the width, not the years before it.
    const [from, to] = [placeOf(first?.querySelector('.due')), placeOf(rows().at(-1)?.querySelector('.due'))];
    expect(to - from).toBeGreaterThan(600);
    expect(host().querySelector('.today')).toBeNull();
  });

  it('says when nothing bears a date', async () => {
    await show(courseOf(task('Undated', {})));
    expect(await strip.rows()).toEqual([]);
    expect(host().textContent).toContain('Nothing in this course bears a date.');
  });
});

describe('The stretch that most dates lie in', () => {
  it('is the whole where they are spread, and the term where few lie far off', () => {
    const spread = Array.from({ length: 20 }, (_, i) => i * 30 * DAY);
    expect(mostOf(spread)).toEqual([0, 570 * DAY]);
    const term = Array.from({ length: 20 }, (_, i) => (1000 + i) * DAY);
    expect(mostOf([0, ...term])).toEqual([1000 * DAY, 1019 * DAY]);
    // What lies near belongs to it.
    expect(mostOf([0, ...term, 1025 * DAY])).toEqual([1000 * DAY, 1025 * DAY]);
    expect(mostOf([])).toEqual([0, 0]);
    expect(mostOf([7])).toEqual([7, 7]);
  });
});
