import { TestBed } from '@angular/core/testing';
import { MatDialog } from '@angular/material/dialog';
import { provideRouter } from '@angular/router';
import { signal, type Type } from '@angular/core';
import { inventory, type CheckedLine, type Course } from '@treenail/core';
import type { CheckAnswer, JobSummary, LookAnswer, TidyAnswer, TransferReport } from '@treenail/server/contract';
import { Subject, of, throwError, type Observable } from 'rxjs';
import { Api } from '../../data/api';
import { JobsService } from '../../data/jobs';
import { copy, job, line, move, moveStep } from '../../testing/made';
import { Screen } from '../../testing/screen';
import { BuildStep } from './build';
import { CheckStep } from './check';
import { HandOverStep } from './hand-over';
import { LookStep } from './look';
import { TidyStep } from './tidy';

const TITLES = ['Caulking', 'Paying', 'Steaming'];
const COURSE: Course = {
  title: 'Wooden Boat Repair',
  origin: { format: 't', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: TITLES.map((title) => ({ id: `s-${title}`, title, item: `s-${title}`, children: [] })),
  items: TITLES.map((title) => ({
    kind: 'page',
    id: `s-${title}`,
    title,
    definitionPath: `${title}.html`,
    file: `${title}.html`,
    settings: {},
  })),
  files: [],
};
const LOOK: LookAnswer = {
  course: COURSE,
  inventory: inventory(COURSE),
  notes: [],
  mended: false,
};
const TIDY: TidyAnswer = {
  findings: [],
  kinds: [],
  decisions: [],
  rules: [],
  failed: [],
  leftOut: [],
  hiddenUntil: null,
  further: null,
  comesAgain: false,
  pulledIn: [],
  dangling: [],
  current: true,
  open: true,
};
const LINES: CheckedLine[] = [
  line('Caulking', 'whole', { source: 'item:s-Caulking', arrived: 'item:a-Caulking', predicted: 'whole' }),
  line('Paying', 'reworked', { source: 'item:s-Paying', arrived: 'item:a-Paying', predicted: 'whole' }),
  line('Steaming', 'left behind', { source: 'item:s-Steaming', predicted: 'left behind' }),
];
const CHECK = {
  course: COURSE,
  arrived: {
    ...COURSE,
    outline: [],
    items: COURSE.items.slice(0, 2).map((i) => ({ ...i, id: i.id.replace('s-', 'a-') })),
  },
  comparison: {
    lines: LINES,
    totals: { whole: 1, reworked: 1, 'left behind': 1, extra: 0, unsure: 0 },
    otherwise: 1,
  },
} as unknown as CheckAnswer;

/** An answer of the server that can be changed between two askings. */
class Answer<T> {
  asked = 0;
  now: Observable<T>;
  constructor(first: T) {
    this.now = of(first);
  }
  readonly ask = () => {
    this.asked++;
    return this.now;
  };
  fails(): void {
    this.now = throwError(() => new Error('no'));
  }
}

describe('The steps of a move', () => {
  let api: {
    look: Answer<LookAnswer>;
    tidy: Answer<TidyAnswer>;
    check: Answer<CheckAnswer>;
    report: Answer<TransferReport>;
    askOutside: Answer<unknown>;
    mendRules: Answer<unknown[]>;
  };
  let dialogs: unknown[];
  let changed: Subject<JobSummary>;
  const jobs = signal<JobSummary[]>([]);

  beforeEach(() => {
    api = {
      look: new Answer(LOOK),
      tidy: new Answer(TIDY),
      check: new Answer(CHECK),
      report: new Answer({} as TransferReport),
      askOutside: new Answer<unknown>(null),
      mendRules: new Answer<unknown[]>([]),
    };
    dialogs = [];
    changed = new Subject();
    jobs.set([]);
    TestBed.configureTestingModule({
      providers: [
        provideRouter([]),
        { provide: JobsService, useValue: { jobs, changed$: changed } },
        { provide: MatDialog, useValue: { open: (of: unknown) => dialogs.push(of) } },
        {
          provide: Api,
          useValue: {
            ...Object.fromEntries(Object.entries(api).map(([name, answer]) => [name, answer.ask])),
            relations: () => of({ pointsAt: {}, pointedAtBy: {} }),
            preview: () => of({ form: 'none', why: 'nothing to show' }),
          },
        },
      ],
    });
  });
  async function open<T>(step: Type<T>, inputs: Record<string, unknown>): Promise<Screen<T>> {
    const screen = new Screen(TestBed.createComponent(step));
    await screen.set(inputs);
    return screen;
  }
  const links = (screen: Screen<unknown>) =>
    [...screen.host.querySelectorAll('a')].map((a) => [a.textContent.trim(), a.getAttribute('href')]);

  describe('Looking inside', () => {
    it('waits until the copy was looked at, and shows the course then', async () => {
      const screen = await open(LookStep, { move: move(3, { at: 'look' }), job: job(1, 'running') });
      expect([api.look.asked, screen.host.querySelector('tn-course-view')]).toEqual([0, null]);
      await screen.set({ move: move(3, { at: 'tidy' }), job: job(1, 'done') });
      expect(screen.host.querySelector('tn-course-view')).not.toBeNull();
      expect(links(screen)).toContain(['Tidy', '/moves/3/tidy']);
    });

    it('says why there is nothing to see, and asks again', async () => {
      api.look.fails();
      const screen = await open(LookStep, { move: move(3, { at: 'tidy' }), job: null });
      expect(screen.words('[role=alert] .error')).toContain('Something went wrong');
      api.look.now = of(LOOK);
      await screen.press('Ask again');
      expect(screen.host.querySelector('tn-course-view')).not.toBeNull();
    });
  });

  describe('Tidying', () => {
    it('asks outside addresses once at a time', async () => {
      const screen = await open(TidyStep, { move: move(3) });
      await screen.press('Ask outside addresses');
      expect(api.askOutside.asked).toBe(1);
      jobs.set([job(1, 'running', { moveId: 3, kind: 'outside' }), job(2, 'done', { moveId: 3, kind: 'outside' })]);
      await screen.settle();
      expect(screen.button('Ask outside addresses').disabled).toBeTrue();
      jobs.set([job(1, 'done', { moveId: 3, kind: 'outside' }), job(2, 'running', { moveId: 4, kind: 'outside' })]);
      await screen.settle();
      expect(screen.button('Ask outside addresses').disabled).toBeFalse();
    });

    it('reads its findings anew when a job of this move has changed them, and no other', async () => {
      const screen = await open(TidyStep, { move: move(3) });
      expect(api.tidy.asked).toBe(1);
      changed.next(job(1, 'done', { moveId: 4, kind: 'tidy' }));
      changed.next(job(2, 'running', { moveId: 3, kind: 'tidy' }));
      changed.next(job(3, 'done', { moveId: 3, kind: 'deliver' }));
      await screen.settle();
      expect(api.tidy.asked).toBe(1);
      changed.next(job(2, 'done', { moveId: 3, kind: 'tidy' }));
      changed.next(job(4, 'done', { moveId: 3, kind: 'outside' }));
      await screen.settle();
      expect(api.tidy.asked).toBeGreaterThan(1);
    });

    it('keeps its findings on the screen when they could not be read anew', async () => {
      const screen = await open(TidyStep, { move: move(3) });
      api.tidy.fails();
      changed.next(job(2, 'done', { moveId: 3, kind: 'tidy' }));
      await screen.settle();
      expect(screen.host.querySelector('tn-tidy-view')).not.toBeNull();
      expect(screen.words('[role=alert] .error')).toContain('Something went wrong');
    });

    it('opens the rules as they are kept now, and says when they can’t be told', async () => {
      const screen = await open(TidyStep, { move: move(3) });
      await screen.press('Rules');
      expect(dialogs.length).toBe(1);
      api.mendRules.fails();
      await screen.press('Rules');
      expect([dialogs.length, screen.texts('[role=alert]').length]).toEqual([1, 1]);
    });
  });

  describe('Building', () => {
    it('shows the package with its size and hash, and leads on', async () => {
      const built = {
        format: 'Tarnhall crate',
        fileName: 'BTB210.crate',
        size: 2048,
        sha256: 'ab'.repeat(32),
      };
      const screen = await open(BuildStep, { move: move(3), job: job(1, 'running', { words: 'writing' }) });
      expect(screen.host.querySelector('dl')).toBeNull();
      expect(screen.words('[role=status]')).toContain('Writing');
      await screen.set({ move: move(3, { built, copy: copy(1) }), job: job(1, 'done') });
      expect(screen.words('h2')).toBe('Tarnhall crate, made of Quernhold archive 4');
      const facts = screen.texts('dd').map((words) => words.replaceAll('\u00a0', ' '));
      expect(facts).toEqual(['BTB210.crate', '2.0 kB (2048 bytes)', 'abababab '.repeat(8).trim()]);
      expect(links(screen)).toContain(['Download the package', '/api/moves/3/package']);
      expect(links(screen)).toContain(['Go to the delivery', '/moves/3/deliver']);
    });
  });

  describe('Checking', () => {
    it('asks for what arrived once it was read back', async () => {
      const screen = await open(CheckStep, { move: move(3, { at: 'check' }), job: job(1, 'running') });
      expect(api.check.asked).toBe(0);
      await screen.set({ move: move(3, { at: 'hand-over' }), job: job(1, 'done') });
      expect(api.check.asked).toBe(1);
      expect(links(screen)).toContain(['See the transfer report', '/moves/3/hand-over']);
    });

    it('stays with the line that a person chose while the move is told anew, and asks for nothing twice', async () => {
      const at = { at: 'hand-over' as const, steps: [moveStep('check', 'done', '3 whole')] };
      const screen = await open(CheckStep, { move: move(3, at), job: null });
      screen.host.style.height = '600px';
      await screen.press('Steaming');
      expect(screen.words('tn-both h3')).toContain('Steaming');
      await screen.set({ move: move(3, { ...at, jobs: [job(9, 'running')] }) });
      expect([api.check.asked, screen.words('tn-both h3').startsWith('Steaming')]).toEqual([1, true]);
      // What came of a step is another matter.
      await screen.set({ move: move(3, { ...at, steps: [moveStep('check', 'done', '2 whole')] }) });
      expect(api.check.asked).toBe(2);
    });

    it('begins at what came otherwise than foretold, and narrows to it', async () => {
      const screen = await open(CheckStep, { move: move(3, { at: 'hand-over' }), job: null });
      expect(screen.words('tn-both')).toContain('Paying');
      expect(screen.texts('.answer mat-button-toggle button')).toEqual([
        'all',
        'not whole',
        'otherwise than foretold 1',
      ]);
      screen.host.style.height = '600px';
      const rows = () => {
        const shown = screen.texts('tn-joint .title');
        return TITLES.filter((title) => shown.includes(title));
      };
      expect(rows()).toEqual(TITLES);
      await screen.press('not whole');
      expect(rows()).toEqual(['Paying', 'Steaming']);
      await screen.press('otherwise than foretold');
      expect(rows()).toEqual(['Paying']);
    });

    it('says why the check can’t be shown', async () => {
      api.check.fails();
      const screen = await open(CheckStep, { move: move(3, { at: 'hand-over' }), job: null });
      expect(screen.words('[role=alert] .error')).toContain('Something went wrong');
      expect(screen.host.querySelector('tn-joint')).toBeNull();
    });
  });

  describe('Handing over', () => {
    it('offers the report as a file, also where it can’t be shown, and says why', async () => {
      api.report.fails();
      const screen = await open(HandOverStep, { move: move(3) });
      expect(links(screen)).toContain(['Download as CSV', '/api/reports/3/csv']);
      expect(screen.words('[role=alert] .error')).toContain('Something went wrong');
    });
  });
});
