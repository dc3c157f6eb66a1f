import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestBed } from '@angular/core/testing';
import { MatButtonHarness } from '@angular/material/button/testing';
import { MatCheckboxHarness } from '@angular/material/checkbox/testing';
import { MAT_DIALOG_DATA, MatDialogRef } from '@angular/material/dialog';
import { MatRadioButtonHarness } from '@angular/material/radio/testing';
import { provideRouter } from '@angular/router';
import type { Course, Item } from '@treenail/core';
import type { ContentsAnswer, Given, InstanceSummary, NewErrand, NewGivenFile } from '@treenail/server/contract';
import { of, throwError } from 'rxjs';
import { Api } from '../data/api';
import { JobsService } from '../data/jobs';
import { copy, move } from '../testing/made';
import { Screen } from '../testing/screen';
import { ErrandDialog, type ErrandDialogData } from './errand-dialog';
import { GivenList } from './given-list';

const quiz: Item = {
  ...{ kind: 'quiz', id: 'q', title: 'Fits', definitionPath: null, settings: { draws: { b: '1' } } },
  questions: [],
};
const bank: Item = { kind: 'bank', id: 'b', title: 'Joints', definitionPath: null, settings: {}, questions: [] };
const page: Item = { kind: 'page', id: 'p', title: 'Start', definitionPath: null, settings: {}, file: 'p.html' };
const COURSE: Course = {
  title: 'Repair',
  origin: { format: 'x', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: [
    { id: 'f', title: 'Week 1', children: [{ id: 'n1', title: 'Start', item: 'p', children: [] }] },
    { id: 'n2', title: 'Fits', item: 'q', children: [] },
  ],
  items: [page, quiz, bank],
  files: [],
};
const BACK = { courseId: 1, instanceId: 4, instance: 'Marrowick Live', title: 'Wooden Boat Repair' };
const instance = (id: number, name: string, leaving = false): InstanceSummary => ({
  ...{ id, name, platform: 'x', gives: true, fetches: true, takes: true, leaving, listedAt: null, trouble: null },
});

describe('What of a kept copy goes where', () => {
  let contents: ContentsAnswer;
  let errands: NewErrand[];
  let files: NewGivenFile[];
  let closed: unknown[];
  let refuses: boolean;

  beforeEach(() => {
    contents = { course: COURSE, back: BACK, targets: [{ id: 'cc13', label: 'Common Cartridge 1.3' }] };
    [errands, files, closed, refuses] = [[], [], [], false];
  });

  async function open(data: Partial<ErrandDialogData>) {
    const api: Partial<Api> = {
      contents: () => of(contents),
      instances: () => of([instance(4, 'Marrowick Live', true), instance(2, 'Marrowick New')]),
      startErrand: (_id, errand) => {
        errands.push(errand);
        return refuses ? throwError(() => new Error('refused')) : of(move(31));
      },
      giveFile: (_id, file) => {
        files.push(file);
        return of({ given: [] });
      },
    };
    TestBed.configureTestingModule({
      providers: [
        { provide: MAT_DIALOG_DATA, useValue: { copy: copy(3), act: 'restore', ...data } },
        { provide: MatDialogRef, useValue: { close: (answer: unknown) => closed.push(answer) } },
        { provide: Api, useValue: api },
      ],
    });
    const fixture = TestBed.createComponent(ErrandDialog);
    const screen = new Screen(fixture);
    await screen.drawn();
    const loader = TestbedHarnessEnvironment.loader(fixture);
    const radio = async (label: RegExp) => (await loader.getHarness(MatRadioButtonHarness.with({ label }))).check();
    const button = () => loader.getHarness(MatButtonHarness.with({ text: /^(Restore|Give|Make)/ }));
    const tick = async (label: RegExp) => (await loader.getHarness(MatCheckboxHarness.with({ label }))).check();
    return { screen, radio, button, tick };
  }

  it('brings all of it back into its course, in place of what is there, unless asked otherwise', async () => {
    const { button } = await open({});
    expect(await (await button()).getText()).toBe('Restore all of it at Marrowick Live');
    await (await button()).click();
    const [errand] = errands;
    expect(errand).toEqual({
      ...{ act: 'restore', items: null, destinationId: 4, key: jasmine.any(String) as unknown as string },
      into: { courseId: 1, way: 'in place of' },
    });
    expect(closed).toEqual([{ moveId: 31 }]);
  });

  it('brings back what was chosen, with what that needs said, as it was asked', async () => {
    const { screen, radio, button, tick } = await open({});
    await radio(/^Chosen things/);
    expect(await (await button()).isDisabled()).toBeTrue();
    await tick(/^Fits/);
    expect(screen.words('tn-choose-items p')).toBe('1 item of 3, and 1 more item that they need: “Joints”.');
    await tick(/^Week 1/);
    await radio(/^Beside/);
    expect(await (await button()).getText()).toBe('Restore 2 items at Marrowick Live');
    await (await button()).click();
    expect([errands[0]?.items, errands[0]?.into?.way]).toEqual([['q', 'p'], 'beside']);
  });

  it('goes elsewhere where its course takes nothing; what will be switched off is offered last', async () => {
    contents = { ...contents, back: null };
    refuses = true;
    const { screen, button } = await open({});
    expect(await (await button()).getText()).toBe('Restore all of it at Marrowick New');
    await (await button()).click();
    await screen.drawn();
    expect([errands[0]?.destinationId, errands[0]?.into]).toEqual([2, null]);
    expect(screen.words('.error')).not.toBe('');
    // Pressed again it is the same errand.
    await (await button()).click();
    expect([errands.length, new Set(errands.map((e) => e.key)).size]).toEqual([2, 1]);
    expect(closed).toEqual([]);
  });

  it('is made into a file of what is given, in the format that was chosen', async () => {
    const { button } = await open({ act: 'give', items: ['q'] });
    expect(await (await button()).getText()).toBe('Make a file of 1 item');
    await (await button()).click();
    expect(files.map(({ items, target }) => [items, target])).toEqual([[['q'], 'cc13']]);
    expect(closed).toEqual([{ moveId: null }]);
  });
});

describe('What was given of a copy', () => {
  it('says what went where, by whom, and what a file does not hold', async () => {
    const given: Given[] = [
      {
        ...{
          id: 5,
          words: 'quiz “Fits”',
          by: 'Ada',
          at: '2026-11-02T10:00:00Z',
          isMade: true,
          trouble: '',
          move: null,
        },
        file: { fileName: 'Fits.imscc', format: 'Common Cartridge 1.3', size: 2000, losses: ['“Fits”: reworked'] },
      },
      {
        ...{ id: 31, words: 'all of it', by: null, at: '2026-11-01T10:00:00Z', file: null, isMade: true, trouble: '' },
        move: { id: 31, act: 'restore', to: 'Marrowick New' },
      },
      {
        id: 6,
        words: 'page “Start”',
        by: 'Ada',
        at: '2026-11-01T09:00:00Z',
        file: null,
        isMade: false,
        trouble: '',
        move: null,
      },
    ];
    TestBed.configureTestingModule({
      providers: [
        provideRouter([]),
        { provide: Api, useValue: { given: () => of({ given }) } },
        { provide: JobsService, useValue: { jobs: () => [] } },
      ],
    });
    const screen = new Screen(TestBed.createComponent(GivenList));
    await screen.set({ copy: 3 });
    await screen.drawn();
    const [file, restored, making] = screen.texts('li');
    expect(file).toContain('Given: quiz “Fits”, as Fits.imscc');
    expect(file).toContain('“Fits”: reworked');
    expect(restored).toContain('Restored: all of it, to Marrowick New by move 31');
    expect(making).toContain('a file is being made');
  });
});
