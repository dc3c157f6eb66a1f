import { TestBed } from '@angular/core/testing';
import { MAT_DIALOG_DATA, MatDialogRef } from '@angular/material/dialog';
import type { CoursePart, CourseSummary, EstimateAnswer, FetchOptions, FetchRequest } from '@treenail/server/contract';
import { NEVER, of, throwError, type Observable } from 'rxjs';
import { Api } from '../data/api';
import { Screen } from '../testing/screen';
import { FetchDialog } from './fetch-dialog';

const part = (ref: string, title: string, inside: CoursePart[] = []): CoursePart => ({
  ref,
  title,
  kind: inside.length > 0 ? 'folder' : 'page',
  bytes: 0,
  inside,
});
const course: CourseSummary = {
  id: 7,
  instance: { id: 1, name: 'Marrowick Live', platform: 'quernhold', gives: true },
  code: 'RIG 140',
  section: '01',
  term: 'Autumn 2026',
  title: 'Rigging and Splicing',
  owner: 'rig@marrowick.example',
  size: 900,
  changedAt: '2026-11-10T05:00:00.000Z',
  newestCopy: null,
  cutOff: null,
  move: null,
  fetch: null,
};
const FORMS = [
  { id: 'standard' as const, label: 'Common Cartridge 1.1', extension: 'imscc', lacks: ['due dates', 'rubrics'] },
  { id: 'archive' as const, label: 'Quernhold archive', extension: 'quern', lacks: [] },
];

describe('What to fetch of a course', () => {
  let asked: FetchRequest[];
  let estimated: FetchOptions[];
  let closed: (number | undefined)[];
  let answers: { fetched: Observable<object[]>; cost: EstimateAnswer; forms: typeof FORMS };

  async function open(courses: CourseSummary[]): Promise<Screen<FetchDialog>> {
    TestBed.configureTestingModule({
      providers: [
        { provide: MAT_DIALOG_DATA, useValue: { courses } },
        { provide: MatDialogRef, useValue: { close: (many?: number) => closed.push(many) } },
        {
          provide: Api,
          useValue: {
            parts: () =>
              of({ forms: answers.forms, parts: [part('w1', 'Week 1', [part('p1', 'Knots'), part('p2', 'Bends')])] }),
            namingRule: () => of('{code}-{section}'),
            estimate: (_id: number, options: FetchOptions) => {
              estimated.push(options);
              return of(answers.cost);
            },
            fetchCourses: (request: FetchRequest) => {
              asked.push(request);
              return answers.fetched;
            },
          },
        },
      ],
    });
    const screen = new Screen(TestBed.createComponent(FetchDialog));
    await screen.settle();
    return screen;
  }

  beforeEach(() => {
    asked = [];
    estimated = [];
    closed = [];
    answers = { fetched: of([{}]), cost: { bytes: 4096, items: 12, ahead: 2, seconds: 240 }, forms: FORMS };
  });

  it('says what it will cost, what a standard package lacks, and how the copy will be named', async () => {
    const screen = await open([course]);
    expect(screen.words('h2')).toBe('Fetch RIG 140-01 Rigging and Splicing');
    expect(screen.words('[role=status]').replaceAll('\u00a0', ' ')).toBe(
      'about 4.1 kB, 12 items, 2 jobs ahead in the queue, ready in about 4 minutes',
    );
    expect(screen.words('.lacks')).toBe('without due dates, rubrics');
    expect(screen.words('code')).toBe('RIG140-01.quern');
  });

  it('tells short waits in seconds and says when nobody is ahead', async () => {
    answers.cost = { bytes: null, items: null, ahead: 0, seconds: 1 };
    const screen = await open([course]);
    expect(screen.words('[role=status]')).toBe('nobody ahead in the queue, ready in about 1 second');
  });

  it('fetches chosen parts only, and reckons with them', async () => {
    const screen = await open([course]);
    const boxes = [...screen.host.querySelectorAll<HTMLInputElement>('.parts input')];
    expect(screen.texts('.parts label')).toEqual(['Week 1', 'Knots', 'Bends']);
    boxes[1]?.click();
    boxes[2]?.click();
    boxes[2]?.click();
    await screen.settle();
    expect(screen.words('summary')).toBe('1 part chosen');
    expect(estimated.at(-1)?.parts).toEqual(['p1']);
    await screen.press('Fetch 1 part of it');
    expect(asked.map((a) => [a.courseIds, a.options.parts])).toEqual([[[7], ['p1']]]);
    expect(closed).toEqual([1]);
  });

  it('fetches both forms as two jobs', async () => {
    const screen = await open([course]);
    screen.host.querySelector<HTMLInputElement>('mat-radio-button[value=both] input')?.click();
    await screen.settle();
    await screen.press('Fetch the course');
    expect(asked.map((a) => a.options.form)).toEqual(['archive', 'standard']);
    expect(closed).toEqual([2]);
  });

  it('offers no standard package where the platform makes none', async () => {
    answers.forms = FORMS.filter((f) => f.id === 'archive');
    const screen = await open([course]);
    expect(screen.host.querySelectorAll('mat-radio-button').length).toBe(1);
  });

  it('stays open and says why where the server refuses', async () => {
    answers.fetched = throwError(() => new Error('The queue is closed.'));
    const screen = await open([course]);
    await screen.press('Fetch the course');
    expect(screen.words('[role=alert]')).not.toBe('');
    expect(closed).toEqual([]);
    expect(screen.button('Fetch the course').disabled).toBeFalse();
  });

  it('sends nothing twice while it waits for an answer', async () => {
    answers.fetched = NEVER;
    const screen = await open([course]);
    await screen.press('Fetch the course');
    expect(screen.button('Fetch the course').disabled).toBeTrue();
    screen.button('Fetch the course').click();
    expect(asked.length).toBe(1);
  });

  it('reckons nothing and offers no parts for many courses at once', async () => {
    const screen = await open([course, { ...course, id: 8, section: '02' }]);
    expect(screen.words('h2')).toBe('Fetch 2 courses');
    expect([estimated, screen.host.querySelector('.parts'), screen.words('[role=status]')]).toEqual([[], null, '']);
    await screen.press('Fetch 2 courses');
    expect(asked[0]?.courseIds).toEqual([7, 8]);
  });
});
