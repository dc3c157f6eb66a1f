import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import { forecast, type Course } from '@treenail/core';
import type { FitAnswer, FormChoice, JobSummary, MoveSummary } from '@treenail/server/contract';
import { Subject } from 'rxjs';
import { JobsService } from '../../data/jobs';
import { Deciding } from '../deciding';
import { FitStep } from './fit';

const COURSE: Course = {
  title: 'Knots',
  origin: { format: 'cc', version: '1.1', untouched: true },
  metadata: { keywords: [] },
  outline: [{ id: 'n', title: 'Bends', item: 'i', children: [] }],
  items: [{ kind: 'link', id: 'i', title: 'Bends', definitionPath: null, settings: {}, url: 'https://knots.example' }],
  files: [],
};
const choice = (target: string, whole: number, more: Partial<FormChoice> = {}): FormChoice => ({
  target,
  label: `Format ${target}`,
  totals: { whole, reworked: 0, 'left behind': 0, extra: 0, unsure: 0 },
  own: false,
  chosen: false,
  ...more,
});

const MOVE: MoveSummary = {
  id: 7,
  course: { code: 'KNT 1', section: '01', term: 'Autumn 2026', title: 'Knots' },
  from: { id: 1, name: 'Live' },
  to: { id: 2, name: 'New' },
  at: 'fit',
  steps: [],
} as unknown as MoveSummary;

describe('The dry fit', () => {
  let fixture: ComponentFixture<FitStep>;
  let http: HttpTestingController;
  let element: HTMLElement;
  let missing: string[];
  let undecided: number;
  let dates: string;
  let current: boolean;
  let course: Course;
  let sentences: string[];
  let changed: Subject<Pick<JobSummary, 'moveId' | 'kind' | 'state'>>;

  beforeEach(() => {
    missing = [];
    undecided = 0;
    dates = '';
    current = true;
    course = COURSE;
    sentences = [];
    changed = new Subject();
  });

  async function open(forms: FormChoice[], at = 'fit', more: Partial<MoveSummary> = {}): Promise<void> {
    TestBed.configureTestingModule({
      providers: [
        provideHttpClient(),
        provideHttpClientTesting(),
        provideRouter([]),
        { provide: JobsService, useValue: { changed$: changed } },
      ],
    });
    http = TestBed.inject(HttpTestingController);
    fixture = TestBed.createComponent(FitStep);
    fixture.componentRef.setInput('move', { ...MOVE, calledOffAt: null, canReopen: false, at, ...more });
    element = fixture.nativeElement as HTMLElement;
    fixture.detectChanges();
    TestBed.tick();
    answer(forms);
    await fixture.whenStable();
  }
  function answer(forms: FormChoice[]): void {
    const fit: FitAnswer = {
      course,
      forecast: forecast(course, []),
      forms,
      missing,
      open: undecided,
      dates,
      current,
      part: sentences,
      into: [],
    };
    http.expectOne('/api/moves/7/fit').flush(fit);
  }
  const group = () => element.querySelector('.forms');

  it('says which format keeps the most, and carries the move in the one that is chosen', async () => {
    await open([choice('cc13', 4, { chosen: true }), choice('crate', 6, { own: true })]);
    expect(group()?.textContent).toContain('Format crate keeps the most.');
    const [, crate] = [...(group()?.querySelectorAll('button') ?? [])];
    crate?.click();
    const asked = http.expectOne('/api/moves/7/carried-as');
    expect([asked.request.method, asked.request.body]).toEqual(['PUT', { target: 'crate' }]);
    asked.flush({ detail: 'The fit is accepted already.', action: 'Go on.' }, { status: 409, statusText: 'Conflict' });
    await fixture.whenStable();
    expect(element.querySelector('[role=alert]')).not.toBeNull();
  });

  it('prefers its own archive where as much is kept, and says nothing where neither is ahead', async () => {
    await open([choice('cc13', 6, { chosen: true }), choice('crate', 6, { own: true })]);
    expect(group()?.textContent).toContain('Format crate keeps as much, and is not translated on arrival.');
    TestBed.resetTestingModule();
    await open([choice('cc13', 6, { chosen: true }), choice('cc11', 6)]);
    expect(group()?.textContent).not.toContain('keeps');
  });

  it('can be accepted once it is seen and has all in it that was decided, and waits for what is on its way', async () => {
    current = false;
    await open([]);
    const accept = () => [...element.querySelectorAll('button')].find((b) => b.textContent.includes('Accept the fit'));
    expect(accept()?.disabled).toBe(true);
    expect(element.querySelector('[role=status]')?.textContent).toContain('is being put into the working copy');
    current = true;
    changed.next({ moveId: 7, kind: 'tidy', state: 'done' });
    TestBed.tick();
    answer([]);
    await fixture.whenStable();
    expect(accept()?.disabled).toBe(false);
    expect(element.textContent).not.toContain('is being put into the working copy');
    // Of what was decided a moment ago the server may not have heard: the fit is asked for when it has.
    const answers = new Subject<string>();
    TestBed.inject(Deciding).during(7, answers).subscribe();
    fixture.componentRef.setInput('move', { ...MOVE, calledOffAt: null, canReopen: false, at: 'fit', planVersion: 9 });
    TestBed.tick();
    http.expectNone('/api/moves/7/fit');
    answers.complete();
    TestBed.tick();
    answer([]);
    await fixture.whenStable();
  });

  it('is not accepted of a further part by which nothing goes', async () => {
    await open([], 'fit', { part: 2 });
    const accept = () => [...element.querySelectorAll('button')].find((b) => b.textContent.includes('Accept the fit'));
    expect(accept()?.disabled).toBe(false);
    TestBed.resetTestingModule();
    course = { ...COURSE, items: [], outline: [] };
    await open([], 'fit', { part: 2 });
    expect(accept()?.disabled).toBe(true);
    expect(element.textContent).toContain('Nothing goes by this part');
  });

  it('begins with what is known to be missing and what nobody decided on; says nothing where there is nothing', async () => {
    await open([]);
    expect(element.querySelector('[role=note]')).toBeNull();
    TestBed.resetTestingModule();
    [missing, undecided] = [['The platform counts 19 items, and 16 were read.'], 27];
    dates = '38 dates, as they were';
    sentences = ['2 items changed there since will be overwritten: “Knots”, “Bends”.'];
    await open([]);
    const note = element.querySelector('[role=note]');
    expect(note?.textContent).toContain('The platform counts 19 items');
    expect(note?.textContent).toContain('2 items changed there since will be overwritten');
    expect(note?.textContent).toContain('27 findings not decided on yet.');
    expect(note?.textContent).toContain('Dates: 38 dates, as they were.');
    expect([...(note?.querySelectorAll('a') ?? [])].map((a) => a.getAttribute('href'))).toEqual([
      '/moves/7/tidy',
      '/moves/7/re-date',
    ]);
  });

  it('can be opened again while nothing is delivered', async () => {
    await open([], 'deliver', { canReopen: true });
    const again = [...element.querySelectorAll('button')].find((b) => b.textContent?.includes('Open the fit again'));
    again?.click();
    const asked = http.expectOne('/api/moves/7/reopen');
    asked.flush({ detail: 'The delivery has begun.', action: 'Call it off.' }, { status: 422, statusText: 'No' });
    await fixture.whenStable();
    expect(element.querySelector('[role=alert]')).not.toBeNull();
  });

  it('offers no choice where there is none, or none any more', async () => {
    await open([choice('cc13', 6, { chosen: true })]);
    expect(group()).toBeNull();
    TestBed.resetTestingModule();
    await open([choice('cc13', 4, { chosen: true }), choice('crate', 6, { own: true })], 'build');
    expect(group()).toBeNull();
  });
});
