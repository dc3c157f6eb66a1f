import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import type { MoveSummary } from '@treenail/server/contract';
import { move, moveStep } from '../testing/made';
import { Screen } from '../testing/screen';
import { Spine } from './spine';
import { SpineHarness } from './spine.harness';

const STEPS: MoveSummary['steps'] = [
  { ...moveStep('fetch', 'done', 'kept in the strongroom'), by: 'Ada', at: '2026-11-03T10:00:00Z' },
  { ...moveStep('look', 'here', '43 items'), at: '2026-11-03T10:00:00Z' },
  moveStep('tidy', 'failed', 'it could not be read'),
  moveStep('fit', 'ahead'),
];

describe('The spine of a move', () => {
  const open = async (shown: string) => {
    TestBed.configureTestingModule({ providers: [provideRouter([])] });
    const screen = new Screen(TestBed.createComponent(Spine));
    await screen.set({ move: move(7, { steps: STEPS }), shown });
    return TestbedHarnessEnvironment.harnessForFixture(screen.fixture, SpineHarness);
  };

  it('says of each step where it stands, in words too, what came of it, and who decided it', async () => {
    expect(await (await open('look')).words()).toEqual([
      jasmine.stringMatching(/^Fetch done kept in the strongroom Ada, 3 Nov 2026/),
      'Look inside here 43 items',
      'Tidy failed it could not be read',
      'Dry fit ahead',
    ]);
  });

  it('leads to every step that was reached, and to none that was not', async () => {
    const spine = await open('look');
    expect(await spine.links()).toEqual(['/moves/7/fetch', '/moves/7/look', '/moves/7/tidy', null]);
    expect(await spine.disabled()).toEqual([false, false, false, true]);
  });

  it('marks the step that is shown', async () => {
    expect(await (await open('tidy')).shown()).toBe(2);
  });
});
