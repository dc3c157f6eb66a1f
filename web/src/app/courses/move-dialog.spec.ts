import { TestBed } from '@angular/core/testing';
import { MAT_DIALOG_DATA, MatDialogRef } from '@angular/material/dialog';
import { provideRouter } from '@angular/router';
import type { BeginningsAnswer, InstanceSummary, NewMove } from '@treenail/server/contract';
import { BehaviorSubject, of, type Observable } from 'rxjs';
import { Api } from '../data/api';
import { KeepingService, type Keeping } from '../data/keeping';
import { copy, courseRow, move } from '../testing/made';
import { Screen } from '../testing/screen';
import { MoveDialog } from './move-dialog';

const course = courseRow(7);
const instance = (id: number, name: string, platform: string): InstanceSummary => ({
  id,
  name,
  platform,
  gives: true,
  fetches: true,
  takes: true,
  leaving: false,
  listedAt: null,
  trouble: null,
});
const FORMS = [
  { id: 'archive' as const, label: 'Quernhold archive', extension: 'quern', lacks: [] },
  { id: 'standard' as const, label: 'Common Cartridge 1.1', extension: 'imscc', lacks: ['due dates', 'rubrics'] },
];

describe('What a move begins with', () => {
  let asked: NewMove[];
  let told: BeginningsAnswer;
  let kept: unknown[];
  let keeping: BehaviorSubject<Keeping>;
  let closed: (number | undefined)[];

  async function open(more: object = {}): Promise<Screen<MoveDialog>> {
    const data = {
      course,
      destinations: [instance(2, 'Marrowick New', 'tarnhall'), instance(3, 'Rehearsal', 'quernhold')],
    };
    TestBed.configureTestingModule({
      providers: [
        provideRouter([]),
        { provide: MAT_DIALOG_DATA, useValue: { ...data, ...more } },
        { provide: MatDialogRef, useValue: { close: (id?: number) => closed.push(id) } },
        {
          provide: Api,
          useValue: {
            beginnings: () => of(told),
            startMove: (move_: NewMove) => {
              asked.push(move_);
              return of(move(31));
            },
          },
        },
        {
          provide: KeepingService,
          useValue: {
            keep: (...args: unknown[]) => kept.push(args[2]),
            settled: (): Observable<Keeping> => keeping,
          },
        },
      ],
    });
    const screen = new Screen(TestBed.createComponent(MoveDialog));
    await screen.settle();
    return screen;
  }
  const choose = async (screen: Screen<MoveDialog>, value: string) => {
    screen.host.querySelector<HTMLInputElement>(`mat-radio-button[value=${value}] input`)?.click();
    await screen.settle();
  };

  beforeEach(() => {
    asked = [];
    kept = [];
    closed = [];
    told = { forms: FORMS, copies: [], open: [] };
    keeping = new BehaviorSubject<Keeping>({ state: 'sending', fileName: 'rig.quern', done: 0, total: 9 });
  });

  it('is the platform’s own archive unless somebody chooses, and says what another form would leave out', async () => {
    const screen = await open();
    expect(screen.words('.why')).toContain('as its Quernhold archive, which keeps everything it knows');
    expect(screen.words('.why')).toContain('A Common Cartridge 1.1 would leave out due dates, rubrics.');
    await screen.press('Start by fetching');
    expect(asked).toEqual([{ courseId: 7, destinationId: 2 }]);
    expect(closed).toEqual([31]);
  });

  it('can be any copy that is kept, each with what it is and what it lacks', async () => {
    const facts = { ...copy(1).facts, label: 'Common Cartridge 1.1', counted: 19, shown: 16 };
    told.copies = [copy(4, { form: 'standard', facts }), copy(5)];
    const screen = await open();
    await choose(screen, 'copy');
    expect(screen.texts('.warn')).toEqual([
      'The platform counts 19 items, and 16 were read: 3 items are not in this package.',
    ]);
    await screen.press('Start with the copy');
    expect(asked).toEqual([{ courseId: 7, destinationId: 2, copyId: 4 }]);
  });

  it('is the copy that a person came from', async () => {
    told.copies = [copy(4), copy(5)];
    const screen = await open({ copyId: 5 });
    await screen.press('Start with the copy');
    expect(asked[0]?.copyId).toBe(5);
  });

  it('can be a file, which is kept as a copy of the course first', async () => {
    const screen = await open();
    await choose(screen, 'file');
    expect(screen.button('Start with the file').disabled).toBeTrue();
    const files = new DataTransfer();
    files.items.add(new File(['x'], 'rig.quern'));
    const input = screen.host.querySelector<HTMLInputElement>('input[type=file]');
    if (!input) throw new Error('no field');
    input.files = files.files;
    input.dispatchEvent(new Event('change'));
    await screen.settle();
    told.copies = [copy(9)];
    await screen.press('Start with the file');
    expect(kept).toEqual([jasmine.objectContaining({ fileName: 'rig.quern', courseId: 7, code: 'RIG 140' })]);
    expect(asked).toEqual([]);
    keeping.next({ state: 'kept', fileName: 'rig.quern', job: 3 });
    expect(asked).toEqual([{ courseId: 7, destinationId: 2, copyId: 9 }]);
  });

  it('stays open and says why where the file is refused', async () => {
    const screen = await open();
    await choose(screen, 'file');
    const files = new DataTransfer();
    files.items.add(new File(['x'], 'list.pdf'));
    const input = screen.host.querySelector<HTMLInputElement>('input[type=file]');
    if (!input) throw new Error('no field');
    input.files = files.files;
    input.dispatchEvent(new Event('change'));
    await screen.settle();
    await screen.press('Start with the file');
    const problem = { code: 'not-a-zip', message: 'This is no package.', action: 'Choose another.' };
    keeping.next({ state: 'refused', fileName: 'list.pdf', problem });
    await screen.settle();
    expect(screen.words('[role=alert]')).toBe('This is no package. Choose another.');
    expect([asked, closed]).toEqual([[], []]);
  });

  it('says of a move to the same place that is not over, and starts another only as another', async () => {
    told.open = [
      { id: 12, destinationId: 2, at: 'fit' },
      { id: 13, destinationId: 3, at: 'look' },
    ];
    const screen = await open();
    expect(screen.texts('.warn').length).toBe(1);
    expect(screen.words('.warn')).toContain('Move 12 of this course to there stands at “Dry fit”.');
    expect(screen.host.querySelector('.warn a')?.getAttribute('href')).toBe('/moves/12');
    await screen.press('Start another move by fetching');
    expect(asked[0]?.another).toMatch(/^[\w-]{36}$/);
  });
});
