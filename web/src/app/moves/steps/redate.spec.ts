import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import { signal } from '@angular/core';
import { NO_REDATING, Refusal, momentOf, problem, type RedatePlan, type Term } from '@treenail/core';
import type { JobSummary, RedateAnswer } from '@treenail/server/contract';
import { Subject, of, throwError } from 'rxjs';
import { Api } from '../../data/api';
import { JobsService } from '../../data/jobs';
import { job, move } from '../../testing/made';
import { Screen } from '../../testing/screen';
import { RedateStep } from './redate';

const AUTUMN: Term = { name: 'Autumn 2026', from: '2026-09-14', to: '2026-12-18', breaks: [] };
const SPRING: Term = { name: 'Spring 2027', from: '2027-01-11', to: '2027-04-09', breaks: [] };
const RULE = { is: 'term' as const, from: AUTUMN, to: SPRING };
const TOLD: RedateAnswer = {
  dates: [
    {
      key: 'item:a due',
      name: 'due',
      kind: 'assignment',
      title: 'Survey',
      item: 'a',
      node: null,
      folders: [],
      at: momentOf('2026-09-25'),
      needs: [],
    },
  ],
  written: [],
  folders: [],
  plan: null,
  terms: [AUTUMN, SPRING],
  closed: [],
  zone: 'Europe/London',
  today: '2026-12-01',
  from: 'Autumn 2026',
  to: 'Spring 2027',
  searched: true,
  notes: [],
  failed: [],
  current: true,
  open: true,
};

describe('The step Re-date', () => {
  let told: RedateAnswer;
  let asked: RedatePlan[];
  let undone: number;
  let refuses: boolean;
  let changed: Subject<JobSummary>;

  beforeEach(() => {
    sessionStorage.clear();
    told = TOLD;
    [asked, undone, refuses] = [[], 0, false];
    changed = new Subject();
    const api = {
      redate: () => of(told),
      setRedate: (_: number, plan: RedatePlan) => {
        if (refuses) return throwError(() => new Refusal(problem('rules-contradict', 'Rules 1 and 2 both say it.')));
        asked.push(plan);
        return of((told = { ...told, plan }));
      },
      undoRedate: () => {
        undone++;
        return of((told = { ...told, plan: null }));
      },
    };
    TestBed.configureTestingModule({
      providers: [
        provideRouter([]),
        { provide: JobsService, useValue: { jobs: signal([]), changed$: changed } },
        { provide: Api, useValue: api },
      ],
    });
  });
  afterEach(() => sessionStorage.clear());

  const open = async () => {
    const screen = new Screen(TestBed.createComponent(RedateStep));
    await screen.set({ move: move(3, { at: 'fit' }) });
    return screen;
  };

  it('proposes the term that comes after, and decides nothing before a person does', async () => {
    const screen = await open();
    expect(screen.words('.answer')).toContain('1 date goes into Spring 2027');
    expect(asked).toEqual([]);
    await screen.press('Use these dates');
    expect(asked).toEqual([{ ...NO_REDATING, rule: RULE }]);
    expect(screen.words('tn-step-head')).toContain('See the fit');
    await screen.press('Let the dates go as they were');
    expect(undone).toBe(1);
  });

  it('keeps what is being decided over a reload of the page, until it is decided', async () => {
    const screen = await open();
    await screen.press('Taken away');
    screen.fixture.destroy();
    const again = await open();
    expect(again.words('.answer')).toContain('is taken away');
    await again.press('Use these dates');
    expect(asked.map((plan) => plan.rule.is)).toEqual(['away']);
    expect(sessionStorage.length).toBe(0);
  });

  it('keeps what is being decided where it is refused, with the reason', async () => {
    refuses = true;
    const screen = await open();
    await screen.press('Taken away');
    await screen.press('Use these dates');
    expect(screen.words('[role=alert]')).toContain('Rules 1 and 2 both say it');
    expect(screen.words('.answer')).toContain('is taken away');
  });

  it('is told anew once the working copy is ready, and what is being decided stays', async () => {
    told = { ...TOLD, plan: { ...NO_REDATING, rule: RULE } };
    const screen = await open();
    await screen.press('As they were');
    told = { ...told, failed: [{ key: 'date-in-words|p', why: 'another mend changes the same place' }] };
    changed.next(job(1, 'done', { moveId: 3, kind: 'tidy' }));
    await screen.settle();
    expect(screen.words('.before')).toContain('another mend changes the same place');
    expect(screen.words('.answer')).toContain('stays as it was');
    await screen.press('Back to what is used');
    expect(screen.words('.answer')).toContain('goes into Spring 2027');
  });

  it('says where texts were not looked through, and where nothing bears a date', async () => {
    told = { ...TOLD, dates: [], searched: false };
    const screen = await open();
    expect(screen.words('.before')).toContain('were not looked through for dates');
    expect(screen.words('.none')).toContain('No date is known of what was looked through.');
    told = { ...TOLD, dates: [] };
    expect((await open()).words('.none')).toContain('Nothing in this course bears a date');
  });

  it('only shows what was used once the fit is accepted', async () => {
    told = { ...TOLD, open: false };
    const screen = await open();
    expect(screen.words('.answer')).toContain('stays as it was');
    expect(screen.words('tn-step-head')).not.toContain('Use these dates');
  });
});
