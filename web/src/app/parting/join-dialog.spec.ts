import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestBed } from '@angular/core/testing';
import { MAT_DIALOG_DATA, MatDialogRef } from '@angular/material/dialog';
import { MatButtonToggleHarness } from '@angular/material/button-toggle/testing';
import type { Double, JoinPlan } from '@treenail/core';
import { Screen } from '../testing/screen';
import { JoinDialog, type JoinDialogData } from './join-dialog';

const double = (id: string, same: boolean): Double => ({
  first: id,
  second: `${id}2`,
  title: id,
  kind: 'page',
  by: 'substance',
  same,
});

describe('Joining two courses', () => {
  let closed: (JoinPlan | undefined)[];
  const open = async (doubles: Double[]) => {
    closed = [];
    const data: JoinDialogData = {
      first: { title: 'Tides', items: 12 },
      second: { title: 'Streams', items: 7 },
      doubles,
    };
    TestBed.configureTestingModule({
      providers: [
        { provide: MAT_DIALOG_DATA, useValue: data },
        { provide: MatDialogRef, useValue: { close: (plan?: JoinPlan) => closed.push(plan) } },
      ],
    });
    const screen = new Screen(TestBed.createComponent(JoinDialog));
    await screen.settle();
    return screen;
  };

  it('shows first what both have, those that differ before the others, and takes what is decided of each', async () => {
    const screen = await open([double('Moon', true), double('Sun', false)]);
    expect(screen.words('p')).toBe('12 items and 7 items: 2 items in both, of which 1 not the same.');
    expect(screen.texts('tbody td:first-child')).toEqual(['Sun', 'Moon']);
    const loader = TestbedHarnessEnvironment.loader(screen.fixture);
    const toggle = (text: string) => loader.getHarness(MatButtonToggleHarness.with({ text }));
    await (await toggle('both')).check();
    await screen.choose('What stays of Sun', 'that of the second');
    await (await toggle('stay apart')).check();
    await screen.fill('input', 'Tides and streams');
    await screen.press('Join them');
    expect(closed).toEqual([{ title: 'Tides and streams', doubles: 'both', of: { Sun2: 'second' }, folders: 'apart' }]);
  });

  it('asks of no doubles where there are none, and joins nothing without a title', async () => {
    const screen = await open([]);
    expect(screen.words('p')).toBe('12 items and 7 items: none is in both.');
    expect(screen.host.querySelector('tn-table')).toBeNull();
    await screen.fill('input', ' ');
    expect(screen.button('Join them').disabled).toBeTrue();
  });

  it('shows no more than can be decided one by one, and says how many go as all do', async () => {
    const screen = await open(Array.from({ length: 230 }, (_, i) => double(`Page ${i}`, true)));
    expect(screen.texts('tbody tr').length).toBe(200);
    expect(screen.texts('p').at(-1)).toBe('30 more go as all do.');
  });
});
