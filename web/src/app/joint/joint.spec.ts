import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import type { Joint, JointRow, Outcome } from '@treenail/core';
import { JointHarness } from './joint.harness';
import { JointView, ROW } from './joint';

function rowsOf(n: number, perFolder: number): JointRow[] {
  return Array.from({ length: n }, (_, i): JointRow => {
    const folder = i % perFolder === 0;
    return {
      key: `k${i}`,
      title: folder ? `Folder ${i}` : `Item ${i}`,
      kind: folder ? 'folder' : 'page',
      depth: folder ? 0 : 1,
      end: folder ? Math.min(n, i + perFolder) : i + 1,
    };
  });
}

function straight(n: number, perFolder = 20, outcome: Outcome = 'whole'): Joint {
  const rows = rowsOf(n, perFolder);
  return { left: rows, right: rows, pegs: rows.map((_r, i) => ({ left: i, right: i, line: i, outcome })) };
}

describe('The joint', () => {
  let fixture: ComponentFixture<JointView>;
  let drawn: JointHarness;

  async function show(joint: Joint): Promise<HTMLElement> {
    fixture = TestBed.createComponent(JointView);
    fixture.componentRef.setInput('joint', joint);
    fixture.componentRef.setInput('leftName', 'Here');
    fixture.componentRef.setInput('rightName', 'There');
    const element = fixture.nativeElement as HTMLElement;
    element.style.height = '400px';
    document.body.append(element);
    await fixture.whenStable();
    drawn = await TestbedHarnessEnvironment.harnessForFixture(fixture, JointHarness);
    return element;
  }
  afterEach(() => fixture.destroy());

  const scrollerOf = (element: HTMLElement) => element.querySelector<HTMLElement>('.scroller') ?? fail('no scroller');

  it('draws a peg line for every row joined, an open ring where nothing arrived and a diamond where nobody sent', async () => {
    const [a, b] = [rowsOf(2, 9), rowsOf(3, 9)];
    const element = await show({
      left: a,
      right: b,
      pegs: [
        { left: 0, right: 0, line: 0, outcome: 'whole' },
        { left: 1, right: null, line: 1, outcome: 'left behind' },
        { left: null, right: 2, line: 2, outcome: 'extra' },
      ],
    });
    const groups = [...element.querySelectorAll('svg g')];
    expect(await drawn.pegs()).toEqual(['whole', 'left behind', 'extra']);
    const lines = groups.map((g) => g.querySelector('path.line')?.getAttribute('d') ?? '');
    expect(lines[0]).toMatch(/^M0,13C/);
    expect(lines[1]).toBe(`M0 ${ROW * 1.5}H50`);
    expect(lines[2]).toBe(`M150 ${ROW * 2.5}H102`);
  });

  it('holds only what is in view of ten thousand items, wherever it is scrolled to', async () => {
    const element = await show(straight(10_000));
    const scroller = scrollerOf(element) as HTMLElement;
    expect(scroller.scrollHeight).toBeGreaterThanOrEqual(10_000 * ROW);
    for (const top of [0, 5000 * ROW, 9990 * ROW]) {
      scroller.scrollTop = top;
      scroller.dispatchEvent(new Event('scroll'));
      await fixture.whenStable();
      expect(await drawn.rowsDrawn()).toBeLessThan(200);
      expect(element.querySelectorAll('svg g').length).toBeLessThan(100);
      expect(await drawn.titles('left')).toContain(`Item ${Math.min(9999, top / ROW + 1)}`);
    }
  });

  it('joins a folded folder by one line with its count', async () => {
    await show(straight(40));
    await drawn.fold('left');
    expect((await drawn.titles('left')).slice(0, 2)).toEqual(['Folder 0', 'Folder 20']);
    await drawn.fold('right');
    expect(await drawn.pegs()).toContain('20 items, at worst whole');
  });

  it('tells which line was chosen, from either side', async () => {
    await show(straight(5, 99));
    await drawn.choose('right', (await drawn.titles('right'))[3] ?? '');
    expect(fixture.componentInstance.chosen()).toBe(3);
    expect(await drawn.chosenRows()).toBe(2);
  });

  it('brings a chosen line into view', async () => {
    const element = await show(straight(1000));
    fixture.componentRef.setInput('chosen', 700);
    await fixture.whenStable();
    expect((scrollerOf(element) as HTMLElement).scrollTop).toBeGreaterThan(600 * ROW);
  });
});
