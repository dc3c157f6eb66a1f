import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import type { DeliverRequest, MoveSummary, ThereAnswer } from '@treenail/server/contract';
import { Subject, of, throwError, type Observable } from 'rxjs';
import { HttpErrorResponse } from '@angular/common/http';
import { MAT_DIALOG_DATA, MatDialogRef } from '@angular/material/dialog';
import { Api } from '../../data/api';
import { copy, job, move } from '../../testing/made';
import { Screen } from '../../testing/screen';
import { DeliverStep } from './deliver';
import { FetchStep } from './fetch';
import { LogWordsDialog } from './log-words-dialog';
import { JobPanel } from './job-panel';

const SHELL = { id: 's1', title: 'Wooden Boat Repair', url: 'https://new.example/space/s1' };

describe('Delivering', () => {
  let screen: Screen<DeliverStep>;
  let asked: unknown[];
  let there: ThereAnswer;
  let answer: Observable<MoveSummary>;
  let emitted: MoveSummary[];

  beforeEach(async () => {
    asked = [];
    there = { listedAt: null, courses: [] };
    emitted = [];
    answer = of(move(3));
    TestBed.configureTestingModule({
      providers: [
        provideRouter([]),
        {
          provide: Api,
          useValue: {
            deliver: (id: number, shell: unknown) => {
              asked.push([id, shell]);
              return answer;
            },
            there: () => of(there),
            into: () => of({ into: null, says: [], typed: '' }),
            log: () =>
              of({
                log: [
                  {
                    line: 'T-900 END e=4 f=2',
                    words: 'Finished: 4 entries, 2 files.',
                    item: null,
                    key: null,
                    form: 'T-900',
                    given: false,
                  },
                  { line: 'T-777', words: null, item: 'f7', key: null, form: 'T-777', given: false },
                ],
              }),
          },
        },
      ],
    });
    screen = new Screen(TestBed.createComponent(DeliverStep));
    screen.fixture.componentInstance.changed.subscribe((it) => emitted.push(it));
    await screen.set({ move: move(3), job: null });
  });
  const field = (name: string) => screen.host.querySelector<HTMLInputElement>(`[formControlName=${name}]`);
  async function write(name: string, words: string): Promise<void> {
    const input = field(name);
    if (!input) throw new Error(`no ${name}`);
    input.value = words;
    input.dispatchEvent(new Event('input'));
    await screen.settle();
  }

  it('brings a further part to where the others went, and asks for no name', async () => {
    const before = {
      planVersion: 1,
      askedAt: '2026-11-01T10:00:00Z',
      by: null,
      deliveredAt: '2026-11-01T10:05:00Z',
      takenBackAt: null,
      way: null,
      shell: SHELL,
    };
    const done = job(1, 'done', { kind: 'deliver' });
    await screen.set({ move: move(3, { shell: SHELL, part: 2, planVersion: 2, deliveries: [before] }), job: done });
    expect(field('title')).toBeNull();
    expect(screen.words('.into h2')).toBe('Deliver part 2 into Wooden Boat Repair at Marrowick New');
    expect(screen.host.textContent).not.toContain('See the check');
    await screen.press('Deliver into Wooden Boat Repair');
    expect(asked).toEqual([
      [3, { title: 'Wooden Boat Repair', section: '01', term: 'Autumn 2026', typed: '', asKept: false, quiet: false }],
    ]);
    const now = { ...before, planVersion: 2 };
    await screen.set({ move: move(3, { shell: SHELL, part: 2, planVersion: 2, deliveries: [before, now] }) });
    expect(screen.host.querySelector('.into')).toBeNull();
    expect(screen.host.textContent).toContain('See the check');
  });

  it('offers a shell named as the course is, and says into what it delivers', async () => {
    expect(['title', 'section', 'term'].map((n) => field(n)?.value)).toEqual([
      'Wooden Boat Repair',
      '01',
      'Autumn 2026',
    ]);
    await write('section', '02');
    await screen.press('Deliver into BTB 210-02');
    expect(asked).toEqual([
      [3, { title: 'Wooden Boat Repair', section: '02', term: 'Autumn 2026', typed: '', asKept: false, quiet: false }],
    ]);
    expect(emitted.map((m) => m.id)).toEqual([3]);
  });

  it('waits for the quiet hours of the destination where that is ticked', async () => {
    expect(screen.host.querySelector('mat-checkbox')).toBeNull();
    const to = { ...move(3).to, quiet: { from: '22:00', to: '06:00' } };
    await screen.set({ move: move(3, { at: 'deliver', to }) });
    expect(screen.words('mat-checkbox')).toBe('wait for the quiet hours of Marrowick New, 22:00 to 06:00');
    screen.host.querySelector<HTMLInputElement>('mat-checkbox input')?.click();
    await screen.press('Deliver into');
    expect(asked).toEqual([[3, jasmine.objectContaining({ quiet: true })]]);
  });

  it('keeps what was written when the move is told anew', async () => {
    await write('term', 'Spring 2027');
    field('term')?.dispatchEvent(new Event('blur'));
    await screen.set({ move: move(3, { at: 'deliver' }) });
    expect(field('term')?.value).toBe('Spring 2027');
  });

  it('asks for what is missing, and sends nothing without it', async () => {
    await write('term', '');
    await screen.press('Deliver into');
    expect(screen.words('[role=alert]')).toBe('Enter a title, a section and a term.');
    expect(asked).toEqual([]);
  });

  it('can not be pressed twice while it is being asked for, and can be again when it was refused', async () => {
    const waiting = new Subject<MoveSummary>();
    answer = waiting;
    await screen.press('Deliver into');
    expect(screen.button('Deliver into').disabled).toBeTrue();
    waiting.error(new Error('no'));
    await screen.settle();
    expect(screen.words('[role=alert]')).not.toBe('');
    answer = throwError(() => new Error('no'));
    await screen.press('Deliver into');
    expect(asked.length).toBe(2);
  });

  it('sends a copy that the source is newer than only when that was told, and is meant', async () => {
    const error = {
      type: 'about:blank',
      title: 'Unprocessable',
      status: 422,
      code: 'source-newer',
      detail: '“Wooden Boat Repair” was changed at Marrowick Live.',
      action: 'Deliver the copy as it is.',
    };
    answer = throwError(() => new HttpErrorResponse({ status: 422, error }));
    await screen.press('Deliver into');
    expect(screen.words('[role=alert]')).toContain('was changed at Marrowick Live');
    answer = of(move(3));
    await screen.press('Deliver the copy as it is into BTB 210-01');
    expect(asked.map((one) => (one as [number, DeliverRequest])[1].asKept)).toEqual([false, true]);
  });

  it('says what of the course is there already, and which move brought it', async () => {
    const at = { code: 'BTB 210', title: 'Wooden Boat Repair', term: 'Autumn 2026' };
    there = {
      listedAt: null,
      courses: [
        { ...at, section: '01', moveId: 2, at: '2026-11-01T10:00:00Z' },
        { ...at, section: '02', moveId: null, at: null },
      ],
    };
    await screen.set({ move: move(4) });
    expect(screen.words('.there')).toContain('Marrowick New has 2 courses of this code already');
    expect(screen.texts('.there li')[0]).toContain('brought by move 2 1 Nov 2026');
    expect(screen.host.querySelector('.there a')?.getAttribute('href')).toBe('/moves/2');
  });

  it('can be asked for anew once it was called off', async () => {
    await screen.set({ job: job(9, 'called off') });
    expect(screen.button('Deliver into')).toBeTruthy();
  });

  it('shows what the platform wrote, in plain words where they are known, and leads to the check', async () => {
    await screen.set({ move: move(3, { shell: SHELL }), job: job(9, 'done') });
    expect(screen.host.querySelector('form')).toBeNull();
    expect(screen.texts('tbody td')).toEqual([
      ...['Finished: 4 entries, 2 files.', '', 'T-900 END e=4 f=2'],
      ...['Not known what this means. Say what it means…', 'f7', 'T-777'],
    ]);
    const links = [...screen.host.querySelectorAll('a')].map((a) => [a.textContent.trim(), a.getAttribute('href')]);
    expect(links).toContain(['Open Wooden Boat Repair at Marrowick New', 'https://new.example/space/s1']);
    expect(links).toContain(['See the check', '/moves/3/check']);
  });
});

describe('Words for a line of a log', () => {
  const open = async (given: boolean) => {
    const kept: unknown[] = [];
    const closed: unknown[] = [];
    const entry = { line: 'T-7 e1', words: given ? 'Made anew.' : null, item: null, key: null, form: 'T-7 …', given };
    TestBed.configureTestingModule({
      providers: [
        { provide: MAT_DIALOG_DATA, useValue: { move: move(3), entry } },
        { provide: MatDialogRef, useValue: { close: (answer: unknown) => void closed.push(answer) } },
        {
          provide: Api,
          useValue: {
            giveWords: (id: number, said: unknown) => {
              kept.push([id, said]);
              return of({ log: [] });
            },
          },
        },
      ],
    });
    const screen = new Screen(TestBed.createComponent(LogWordsDialog));
    await screen.settle();
    return { screen, kept, closed };
  };

  it('are kept for all lines of its form', async () => {
    const { screen, kept, closed } = await open(false);
    expect(screen.host.textContent).toContain('T-7 …');
    expect(screen.button('Keep these words').disabled).toBeTrue();
    const input = screen.host.querySelector('input');
    if (!input) throw new Error('nothing to write into');
    input.value = 'The index was made anew.';
    input.dispatchEvent(new Event('input'));
    await screen.settle();
    await screen.press('Keep these words');
    expect(kept).toEqual([[3, { line: 'T-7 e1', words: 'The index was made anew.' }]]);
    expect(closed).toEqual([{ log: [] }]);
  });

  it('can be taken away again', async () => {
    const { screen, kept } = await open(true);
    expect(screen.host.querySelector('input')?.value).toBe('Made anew.');
    await screen.press('Take the words away');
    expect(kept).toEqual([[3, { line: 'T-7 e1', words: '' }]]);
  });
});

describe('The wait for a job', () => {
  beforeEach(() => {
    off = [];
    const api = { callOffJob: (id: number) => (off.push(id), of({})) };
    TestBed.configureTestingModule({ providers: [{ provide: Api, useValue: api }] });
  });
  let off: number[];

  it('can be called off, once', async () => {
    const screen = new Screen(TestBed.createComponent(JobPanel));
    await screen.set({ job: job(5, 'waiting') });
    await screen.press('Call this off');
    expect(off).toEqual([5]);
    await screen.set({ job: job(5, 'waiting', { callOff: true }) });
    expect(screen.button('Being called off').disabled).toBeTrue();
    await screen.set({ job: job(5, 'called off') });
    expect(screen.host.querySelector('.panel')).toBeNull();
  });

  it('says what is being done and how many are ahead', async () => {
    const screen = new Screen(TestBed.createComponent(JobPanel));
    const sentences = [
      [job(1, 'waiting', { words: 'waiting at Live', ahead: 2 }), 'Waiting at Live: 2 other jobs ahead in its queue'],
      [job(1, 'waiting', { words: 'waiting at Live', ahead: 1 }), 'Waiting at Live: 1 other job ahead in its queue'],
      [job(1, 'waiting', { words: 'waiting at Live', ahead: 0 }), 'Waiting at Live: next in the queue'],
      [job(1, 'running', { words: 'reading' }), 'Reading'],
    ] as const;
    for (const [one, sentence] of sentences) {
      await screen.set({ job: one });
      expect(screen.words('h2')).toBe(sentence);
    }
  });

  it('is silent when there is none, or when it is over', async () => {
    const screen = new Screen(TestBed.createComponent(JobPanel));
    for (const one of [null, job(1, 'done'), job(1, 'failed')]) {
      await screen.set({ job: one });
      expect(screen.host.querySelector('[role=status]')).toBeNull();
    }
  });
});

describe('What was fetched', () => {
  it('is shown with its name, size and hash once it is kept', async () => {
    TestBed.configureTestingModule({ providers: [provideRouter([])] });
    const screen = new Screen(TestBed.createComponent(FetchStep));
    await screen.set({ move: move(3), job: job(9, 'running') });
    expect(screen.host.querySelector('dl')).toBeNull();
    await screen.set({ move: move(3, { copy: copy(1) }), job: job(9, 'done') });
    const facts = screen.texts('dd').map((words) => words.replaceAll('\u00a0', ' '));
    expect(facts[0]).toBe('BTB210-01.zip');
    expect(facts.slice(2, 4)).toEqual(['Quernhold archive 4, the platform’s own archive', '2.0 kB (2048 bytes)']);
    // All is said only of what the platform counts.
    expect(facts[4]).toContain('40 items');
    expect(facts[4]).toContain('is not known');
    const counted = { ...copy(1).facts, counted: 42, shown: 42 };
    await screen.set({ move: move(3, { copy: copy(1, { facts: counted }) }) });
    expect(screen.texts('dd')[4]).toBe('all 42 items that the platform counts');
    expect(screen.host.querySelector('a[download]')?.getAttribute('href')).toBe('/api/copies/1/file');
  });
});
