import { TestBed } from '@angular/core/testing';
import { MAT_DIALOG_DATA, MatDialogRef } from '@angular/material/dialog';
import type { Course, Item } from '@treenail/core';
import type { FurtherAnswer, MoveSummary } from '@treenail/server/contract';
import { of, throwError, type Observable } from 'rxjs';
import { Api } from '../data/api';
import { copy, move } from '../testing/made';
import { Screen } from '../testing/screen';
import { ChangeDialog, type ChangeDialogData } from './change-dialog';
import { SendMoreDialog } from './send-more-dialog';

const SHELL = { id: 's1', title: 'Wooden Boat Repair', url: 'https://new.example/space/s1' };

describe('Sending more', () => {
  let further: FurtherAnswer;
  let asked: unknown[];
  let answer: Observable<MoveSummary>;
  let closed: unknown[];

  async function open(): Promise<Screen<SendMoreDialog>> {
    TestBed.configureTestingModule({
      providers: [
        { provide: MAT_DIALOG_DATA, useValue: move(3, { shell: SHELL, canSendMore: true }) },
        { provide: MatDialogRef, useValue: { close: (with_: unknown) => closed.push(with_) } },
        {
          provide: Api,
          useValue: {
            further: () => of(further),
            sendMore: (id: number, part: unknown) => {
              asked.push([id, part]);
              return answer;
            },
          },
        },
      ],
    });
    const screen = new Screen(TestBed.createComponent(SendMoreDialog));
    await screen.settle();
    return screen;
  }
  beforeEach(() => {
    asked = [];
    closed = [];
    answer = of(move(3, { part: 2 }));
    further = {
      went: 12,
      left: 7,
      some: ['Week 9', 'Week 10', 'Week 11', 'Week 12', 'Week 13'],
      copies: [copy(1), copy(2)],
      fetches: true,
      can: true,
    };
  });

  it('says what went and what did not, and takes the next part from the copy that went', async () => {
    const screen = await open();
    expect(screen.words('h2')).toBe('Send more into Wooden Boat Repair');
    expect(screen.words('mat-dialog-content p')).toBe(
      '12 items went. 7 items of the course did not: “Week 9”, “Week 10”, “Week 11”, “Week 12”, “Week 13” and 2 more.',
    );
    expect(screen.texts('mat-radio-button').map((words) => words.split(' of ')[0])).toEqual([
      'The copy that went',
      'The copy',
      'The course as it is now fetched from Marrowick Live',
    ]);
    await screen.press('Look into it');
    expect(asked).toEqual([[3, { copyId: 1 }]]);
    expect(closed.length).toBe(1);
  });

  it('takes it from the course as it is now, or says why not', async () => {
    answer = throwError(() => new Error('The platform is away.'));
    const screen = await open();
    const radios = screen.host.querySelectorAll<HTMLInputElement>('input[type=radio]');
    radios.item(2).click();
    await screen.settle();
    await screen.press('Look into it');
    expect(asked).toEqual([[3, { copyId: null }]]);
    expect(closed).toEqual([]);
    expect(screen.words('[role=alert]')).not.toBe('');
    expect(screen.button('Look into it').disabled).toBe(false);
  });

  it('is not begun where it can not be', async () => {
    further = { ...further, left: 0, some: [], can: false };
    const screen = await open();
    // All of the copy went: what is newer has to be fetched.
    expect(screen.words('.mat-mdc-radio-checked')).toContain('The course as it is now');
    expect(screen.button('Look into it').disabled).toBe(true);
    expect(screen.words('mat-dialog-content p')).toContain('only what changed since can follow');
  });
});

describe('What changed since it went', () => {
  it('is shown as it was and as it is, the item of now beside the one that it was', async () => {
    const page = (title: string, id: string): Item => ({
      kind: 'link',
      id,
      title,
      definitionPath: null,
      url: `https://${title}.example`,
      settings: {},
    });
    const course = (title: string, id: string): Course => ({
      title: 'T',
      origin: { format: 't', version: '1', untouched: true },
      metadata: { keywords: [] },
      outline: [{ id: 'n', title, item: id, children: [] }],
      items: [page(title, id)],
      files: [],
    });
    const asked: unknown[] = [];
    const preview = (of_: string) => (id: number, view: unknown) => {
      asked.push([of_, id, view]);
      return of({ form: 'none', why: 'no picture' });
    };
    const data: ChangeDialogData = { moveId: 7, item: 'b', course: course('knots', 'b') };
    TestBed.configureTestingModule({
      providers: [
        { provide: MAT_DIALOG_DATA, useValue: data },
        {
          provide: Api,
          useValue: {
            sentSource: () => of({ source: course('knots', 'a') }),
            sentPreview: preview('then'),
            preview: preview('now'),
          },
        },
      ],
    });
    const screen = new Screen(TestBed.createComponent(ChangeDialog));
    await screen.settle();
    expect(screen.words('tn-both')).toContain('as it went');
    expect(asked).toEqual([
      ['then', 7, { item: 'a' }],
      ['now', 7, { item: 'b' }],
    ]);
  });
});
