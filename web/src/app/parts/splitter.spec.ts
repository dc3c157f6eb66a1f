import { ChangeDetectionStrategy, Component, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Screen } from '../testing/screen';
import { Splitter } from './splitter';

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
    return screen;
  };
  const bar = (screen: Screen<Halves>) => screen.host.querySelector<HTMLElement>('[role=separator]');
  const press = async (screen: Screen<Halves>, key: string, times = 1) => {
    for (let i = 0; i < times; i++) bar(screen)?.dispatchEvent(new KeyboardEvent('keydown', { key }));
    await screen.settle();
  };
  beforeEach(() => localStorage.removeItem('treenail-split-spec'));
  afterEach(() => localStorage.removeItem('treenail-split-spec'));

  it('is moved by the arrow keys, within bounds, and says where it stands', async () => {
    const screen = await open();
    expect(bar(screen)?.getAttribute('aria-valuenow')).toBe('50');
    await press(screen, 'ArrowUp');
    expect(bar(screen)?.getAttribute('aria-valuenow')).toBe('55');
    await press(screen, 'ArrowDown', 20);
    expect(bar(screen)?.getAttribute('aria-valuenow')).toBe('15');
  });

  it('is where it was left, the next time', async () => {
    await press(await open(), 'ArrowUp', 2);
    const again = await open();
    expect(again.fixture.componentInstance.share()).toBeCloseTo(0.6);
  });
});
