import { TestKey } from '@angular/cdk/testing';
import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { ChangeDetectionStrategy, Component, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Screen } from '../testing/screen';
import { Splitter } from './splitter';
import { SplitterHarness } from './splitter.harness';

@Component({
  selector: 'tn-halves',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Splitter],
  template: `
    <p [style.height.px]="100">above</p>
    <tn-splitter name="spec" [(share)]="share" />
  `,
})
class Halves {
  readonly share = signal(0.5);
}

describe('A splitter', () => {
  const open = async () => {
    const screen = new Screen(TestBed.createComponent(Halves));
    await screen.settle();
    const splitter = await TestbedHarnessEnvironment.loader(screen.fixture).getHarness(SplitterHarness);
    return { screen, splitter };
  };
  beforeEach(() => localStorage.removeItem('treenail-split-spec'));
  afterEach(() => localStorage.removeItem('treenail-split-spec'));

  it('is moved by the arrow keys, within bounds, and says where it stands', async () => {
    const { splitter } = await open();
    expect(await splitter.percent()).toBe(50);
    await splitter.press(TestKey.UP_ARROW);
    expect(await splitter.percent()).toBe(55);
    await splitter.press(TestKey.DOWN_ARROW, 20);
    expect(await splitter.percent()).toBe(15);
  });

  it('is where it was left, the next time', async () => {
    await (await open()).splitter.press(TestKey.UP_ARROW, 2);
    const { screen } = await open();
    expect(screen.fixture.componentInstance.share()).toBeCloseTo(0.6);
  });
});
