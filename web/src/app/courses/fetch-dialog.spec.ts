import { TestBed } from '@angular/core/testing';
import { MAT_DIALOG_DATA, MatDialogRef } from '@angular/material/dialog';
import type { CoursePart, CostsAnswer, CourseSummary, FetchOptions, FetchRequest } from '@treenail/server/contract';
import { NEVER, of, throwError, type Observable } from 'rxjs';
import { Api } from '../data/api';
import { courseRow } from '../testing/made';
import { Screen } from '../testing/screen';
import { FetchDialog } from './fetch-dialog';

const part = (ref: string, title: string, inside: CoursePart[] = []): CoursePart => ({
  ref,
  title,
  kind: inside.length > 0 ? 'folder' : 'page',
  bytes: 300,
  inside,
});
const course = courseRow(7);
const FORMS = [
  { id: 'standard' as const, label: 'Common Cartridge 1.1', extension: 'imscc', lacks: ['due dates', 'rubrics'] },
  { id: 'archive' as const, label: 'Quernhold archive', extension: 'quern', lacks: [] },
];

type Cost = Pick<CostsAnswer[number]['forms'][number], 'bytes' | 'unsized' | 'items' | 'ahead' | 'seconds'>;

describe('What to fetch of a course', () => {
  let asked: FetchRequest[];
  let estimated: FetchOptions[];
  let closed: (number | undefined)[];
  let answers: { fetched: Observable<object[]>; cost: Cost; forms: typeof FORMS };

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
            costs: ({ courseIds, options }: FetchRequest) => {
              estimated.push(options);
              const forms = answers.forms.map((form) => ({ ...form, ...answers.cost }));
              const at = { instance: 'Marrowick Live', courses: courseIds.length, trouble: null, forms };
              return of(
                courseIds.length > 1 ? [at, { ...at, instance: 'Fenwright', trouble: 'It is away.', forms: [] }] : [at],
              );
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
    answers = { fetched: of([{}]), cost: { bytes: 4096, unsized: 0, items: 12, ahead: 2, seconds: 240 }, forms: FORMS };
  });

  it('says what it will cost, what a standard package lacks, and how the copy will be named', async () => {
    const screen = await open([course]);
    expect(screen.words('h2')).toBe('Fetch RIG 140-01 Rigging and Splicing');
    // Of each form, the one that is not wanted too: that is how they are compared.
    const cost = 'about 4.1 kB, 12 items, 2 jobs ahead in the queue, ready in about 4 minutes';
    expect(screen.texts('.costs p').map((p) => p.replaceAll('\u00a0', ' '))).toEqual([
      `Quernhold archive: ${cost}`,
      `Common Cartridge 1.1: ${cost} without due dates, rubrics`,
    ]);
    expect(screen.texts('.costs p.off').length).toBe(1);
    expect(screen.words('.lacks')).toBe('without due dates, rubrics');
    expect(screen.words('code')).toBe('RIG140-01.quern');
  });

  it('tells short waits in seconds and says when nobody is ahead', async () => {
    answers.cost = { bytes: 0, unsized: 1, items: null, ahead: 0, seconds: 1 };
    const screen = await open([course]);
    expect(screen.texts('.costs p').at(0)).toBe(
      'Quernhold archive: 1 course of unknown size, nobody ahead in the queue, ready in about 1 second',
    );
  });

  it('leaves a sum unsaid of which a platform does not tell a part', async () => {
    answers.cost = { bytes: 4096, unsized: 0, items: null, ahead: null, seconds: null };
    const screen = await open([course, { ...course, id: 8, section: '02' }]);
    expect(screen.words('.costs .total').replaceAll('\u00a0', ' ')).toBe('about 4.1 kB; not counting Fenwright');
  });

  it('fetches chosen parts only, and reckons with them', async () => {
    const screen = await open([course]);
    await screen.drawn();
    const boxes = [...screen.host.querySelectorAll<HTMLInputElement>('.parts input')];
    expect(screen.texts('.parts label')).toEqual(['Week 1', 'Knots', 'Bends']);
    boxes[1]?.click();
    boxes[2]?.click();
    boxes[2]?.click();
    await screen.settle();
    expect(screen.words('mat-expansion-panel-header')).toBe('1 part chosen');
    // One look at all that was chosen, before it is sent.
    expect(screen.words('.picked')).toContain('1 part will be fetched, 300');
    expect(screen.texts('.picked li').map((t) => t.replaceAll('\u00a0', ' '))).toEqual(['Knots page, 300 B']);
    expect(estimated.at(-1)?.parts).toEqual(['p1']);
    await screen.press('Fetch 1 part of it');
    expect(asked.map((a) => [a.courseIds, a.options.parts])).toEqual([[[7], ['p1']]]);
    expect(closed).toEqual([1]);
  });

  it('counts a folder that is chosen for all that is in it, once', async () => {
    const screen = await open([course]);
    await screen.drawn();
    const boxes = [...screen.host.querySelectorAll<HTMLInputElement>('.parts input')];
    boxes[0]?.click();
    boxes[1]?.click();
    await screen.settle();
    expect(screen.texts('.picked li').length).toBe(1);
    await screen.press('Fetch all instead');
    expect(screen.words('mat-expansion-panel-header')).toBe('All parts; choose some');
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

  it('sums what many cost by instance, says which could not say, and offers no parts', async () => {
    const screen = await open([course, { ...course, id: 8, section: '02' }]);
    expect(screen.words('h2')).toBe('Fetch 2 courses');
    expect(screen.texts('.costs > b')).toEqual([
      'about 4.1 kB, 12 items, 2 jobs ahead in the queue, the last ready in about 4 minutes; not counting Fenwright',
      'Marrowick Live, 2 courses',
      'Fenwright, 2 courses',
    ]);
    expect(screen.words('.costs .error')).toBe('It is away.');
    expect(screen.texts('.costs p').some((p) => p.includes('the last ready in about 4 minutes'))).toBeTrue();
    expect(screen.host.querySelector('.parts')).toBeNull();
    await screen.press('Fetch 2 courses');
    expect(asked[0]?.courseIds).toEqual([7, 8]);
  });
});
