import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Router, provideRouter } from '@angular/router';
import type { JobSummary, MoveSummary } from '@treenail/server/contract';
import { Subject, defer, of, throwError, type Observable } from 'rxjs';
import { Api } from '../data/api';
import { JobsService } from '../data/jobs';
import { job, move, moveStep } from '../testing/made';
import { Screen } from '../testing/screen';
import { MovePage } from './move';

const WHY = { code: 'no-room', message: 'The disk is full.', action: 'Make room, then try again.' };
const STEPS: MoveSummary['steps'] = (
  ['fetch', 'look', 'tidy', 'fit', 'build', 'deliver', 'check', 'hand-over'] as const
).map((step, i) => moveStep(step, i < 4 ? 'done' : i === 4 ? 'here' : 'ahead'));

describe('The page of a move', () => {
  let screen: Screen<MovePage>;
  let answer: Observable<MoveSummary>;
  let retried: number;
  let retry: Observable<MoveSummary>;
  let seen: number[];
  let went: string[];
  let acted: string[];
  let changed: Subject<JobSummary>;
  const jobs = signal<JobSummary[]>([]);
  const failed = job(9, 'failed', { kind: 'build', moveId: 3, problem: WHY });
  const inBuild = (more: Partial<MoveSummary> = {}) => move(3, { at: 'build', steps: STEPS, ...more });

  async function open(step = 'build'): Promise<void> {
    TestBed.configureTestingModule({
      providers: [
        provideRouter([]),
        {
          provide: Api,
          useValue: {
            move: () => defer(() => answer),
            retry: () => {
              retried++;
              return retry;
            },
            callOffMove: (id: number) => {
              acted.push(`call off ${id}`);
              return of(inBuild({ calledOffAt: '2026-11-02T10:00:00Z' }));
            },
            putAway: (id: number) => {
              acted.push(`put away ${id}`);
              return of(inBuild({ calledOffAt: '2026-11-02T10:00:00Z', putAwayAt: '2026-11-02T10:00:00Z' }));
            },
            callOffJob: (id: number) => {
              acted.push(`call off job ${id}`);
              return of({});
            },
          },
        },
        {
          provide: JobsService,
          useValue: { jobs, changed$: changed, markSeen: ({ id }: JobSummary) => seen.push(id) },
        },
      ],
    });
    spyOn(TestBed.inject(Router), 'navigate').and.callFake((to) => {
      went.push(to.join('/'));
      return Promise.resolve(true);
    });
    screen = new Screen(TestBed.createComponent(MovePage));
    await screen.set({ id: 3, step });
  }

  beforeEach(() => {
    answer = of(inBuild());
    retry = of(inBuild());
    retried = 0;
    seen = [];
    went = [];
    acted = [];
    changed = new Subject();
    jobs.set([]);
  });

  it('says why a move can’t be shown, and asks again', async () => {
    answer = throwError(() => new Error('no'));
    await open();
    expect(screen.words('[role=alert] .error')).toContain('Something went wrong');
    answer = of(inBuild());
    await screen.press('Ask again');
    expect(screen.host.querySelector('tn-spine')).not.toBeNull();
  });

  it('says why a step failed and what to do, and tries it again, once at a time', async () => {
    answer = of(inBuild({ jobs: [failed] }));
    await open();
    expect(screen.texts('.failure > div:first-child > *')).toEqual(['The disk is full.', 'Make room, then try again.']);
    const waiting = new Subject<MoveSummary>();
    retry = waiting;
    await screen.press('Try this step again');
    expect(screen.button('Try this step again').disabled).toBeTrue();
    waiting.next(inBuild({ jobs: [{ ...failed, state: 'queued', problem: null }] }));
    await screen.settle();
    expect([retried, screen.host.querySelector('.failure')]).toEqual([1, null]);
  });

  it('says when it could not be tried again, and lets it be asked once more', async () => {
    answer = of(inBuild({ jobs: [failed] }));
    retry = throwError(() => new Error('no'));
    await open();
    await screen.press('Try this step again');
    expect(screen.texts('[role=alert]').at(-1)).toContain('Something went wrong');
    await screen.press('Try this step again');
    expect(retried).toBe(2);
  });

  it('can be called off as a whole and then put away, and a step that failed can be let be', async () => {
    answer = of(inBuild({ jobs: [failed] }));
    await open();
    await screen.press('Let it be');
    await screen.press('Call the move off');
    expect(screen.words('.off')).toContain('This move was called off');
    await screen.press('Put the move away');
    expect(acted).toEqual(['call off job 9', 'call off 3', 'put away 3']);
    expect(screen.button('Take it out again')).toBeTruthy();
  });

  it('shows Tidy before the fit, as long as something found there is not decided on', async () => {
    const at = (state: 'open' | 'done') =>
      move(3, {
        at: 'fit',
        steps: STEPS.map((s) => ({ ...s, state: s.step === 'tidy' ? state : s.step === 'fit' ? 'here' : 'done' })),
      });
    answer = of(at('open'));
    await open('');
    expect(screen.host.querySelector('tn-tidy-step')).not.toBeNull();
    TestBed.resetTestingModule();
    answer = of(at('done'));
    await open('');
    expect(screen.host.querySelector('tn-fit-step')).not.toBeNull();
  });

  it('goes a step on or back by the brackets, no further than the move has come, and not while somebody types', async () => {
    await open('fetch');
    const press = (key: string, on: EventTarget = document) =>
      on.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }));
    press('[');
    press(']');
    expect(went).toEqual(['/moves/3/look']);
    const field = document.createElement('textarea');
    document.body.append(field);
    press(']', field);
    field.remove();
    await screen.set({ step: 'build' });
    press(']');
    expect(went.length).toBe(1);
  });

  it('has seen what is done here; what failed stays until it is dealt with', async () => {
    jobs.set([job(1, 'done', { moveId: 3 }), job(2, 'failed', { moveId: 3 }), job(4, 'done', { moveId: 8 })]);
    await open();
    expect(seen).toEqual([1]);
  });

  it('reads the move anew when one of its jobs has gone on', async () => {
    await open();
    expect(screen.words('tn-build-step')).not.toContain('Common Cartridge');
    const built = { format: 'Common Cartridge 1.3', fileName: 'b.imscc', size: 9, sha256: 'ab'.repeat(32) };
    answer = of(inBuild({ built }));
    changed.next(job(1, 'done', { moveId: 8 }));
    changed.next(job(9, 'done', { moveId: 3 }));
    await screen.until(() => screen.words('tn-build-step').includes('Common Cartridge 1.3'));
    expect(screen.words('tn-build-step h2')).toContain('Common Cartridge 1.3');
  });
});
