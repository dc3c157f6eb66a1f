import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import type { JobSummary, MoveSummary } from '@treenail/server/contract';
import { Subject, defer, of, throwError } from 'rxjs';
import { Api } from '../data/api';
import { JobsService } from '../data/jobs';
import { job, move, moveStep } from '../testing/made';
import { pageOf } from '../testing/pages';
import { Screen } from '../testing/screen';
import { MovesPage } from './moves';
import { BuildStep } from './steps/build';
import { DeliverStep } from './steps/deliver';

const steps = (...states: MoveSummary['steps'][number]['state'][]): MoveSummary['steps'] =>
  (['fetch', 'look', 'tidy', 'fit', 'build', 'deliver', 'check', 'hand-over'] as const).map((step, i) =>
    moveStep(step, states[i] ?? 'ahead', `result of ${step}`),
  );

describe('The list of moves', () => {
  let changed: Subject<JobSummary>;
  let moves: MoveSummary[];
  let asked: number[];
  const open = async () => {
    changed = new Subject();
    asked = [];
    const api: Partial<Api> = {
      moves: (given) =>
        defer(() => {
          asked.push(Number(given.offset));
          const waiting = moves.filter((m) => m.steps.some((s) => s.state === 'failed' || s.state === 'here')).length;
          return of(pageOf(moves, given, { all: moves.length, waiting, away: 0 }, { started: (m) => m.id }));
        }),
    };
    TestBed.configureTestingModule({
      providers: [
        provideRouter([]),
        { provide: Api, useValue: api },
        { provide: JobsService, useValue: { changed$: changed } },
      ],
    });
    const screen = new Screen(TestBed.createComponent(MovesPage));
    await screen.settle();
    await screen.unroll();
    return screen;
  };

  it('counts those that wait for a person, and says where each stands', async () => {
    moves = [
      move(1, { at: 'fit', steps: steps('done', 'done', 'done', 'here') }),
      move(2, { at: 'deliver', steps: steps('done', 'done', 'done', 'done', 'done', 'working') }),
      move(3, { at: 'deliver', steps: steps('done', 'done', 'done', 'done', 'done', 'failed') }),
      move(4, { at: 'hand-over', steps: steps('done', 'done', 'done', 'done', 'done', 'done', 'done', 'here') }),
    ];
    const screen = await open();
    expect(screen.words('h1')).toBe('4 moves, 3 waiting for a person');
    expect(screen.texts('td:nth-child(6)')).toEqual(['Hand over', 'Deliver', 'Deliver', 'Dry fit']);
    expect(screen.texts('td:nth-child(7)')[1]).toBe('result of deliver');
    const planks = [...screen.host.querySelectorAll('.plank')];
    expect(planks[3]?.getAttribute('aria-label')).toBe('3 of 8 steps done');
    expect([...(planks[1]?.querySelectorAll('i') ?? [])].map((i) => i.className)[5]).toBe('failed');
  });

  it('asks for the newest of many first, for the rest when a person gets there, and anew only for what is seen', async () => {
    moves = Array.from({ length: 230 }, (_, i) =>
      move(i + 1, { at: 'fit', steps: steps('done', 'done', 'done', 'here') }),
    );
    const screen = await open();
    expect(screen.words('h1')).toBe('230 moves, 230 waiting for a person');
    expect(screen.words('tn-list [role=status]')).toBe('230 shown');
    expect(asked).toEqual([0]);
    const viewport = screen.host.querySelector('cdk-virtual-scroll-viewport');
    if (!viewport) throw new Error('no list');
    viewport.scrollTop = 230 * 32;
    await screen.until(() => screen.host.querySelector('tr[data-key="1"]') !== null);
    expect(asked).toContain(200);
    asked = [];
    changed.next(job(1, 'done'));
    await screen.until(() => asked.length > 0);
    expect(asked).not.toContain(0);
  });

  it('says what belongs there while it is empty', async () => {
    moves = [];
    const screen = await open();
    expect(screen.words('[tnNone]')).toContain('A move takes one course from its platform to another');
  });
});

describe('The delivery', () => {
  let asked: unknown[];
  let taken: MoveSummary[];
  const LOG = [
    { line: 'T-100 MNF ok', words: 'The package was read.', item: null, key: null, form: 'T-100 MNF ok', given: false },
    { line: 'T-777 ???', words: null, item: 'p1', key: 'p1', form: 'T-777 ???', given: false },
  ];
  const open = async (of_: MoveSummary, job_: JobSummary | null, deliver?: Api['deliver']) => {
    asked = [];
    taken = [];
    const api: Partial<Api> = {
      log: () => of({ log: LOG }),
      there: () => of({ listedAt: null, courses: [] }),
      deliver:
        deliver ??
        ((id, shell) => {
          asked.push([id, shell]);
          return of(move(id, { at: 'check' }));
        }),
    };
    TestBed.configureTestingModule({ providers: [provideRouter([]), { provide: Api, useValue: api }] });
    const screen = new Screen(TestBed.createComponent(DeliverStep));
    screen.fixture.componentInstance.changed.subscribe((m) => taken.push(m));
    await screen.set({ move: of_, job: job_ });
    return screen;
  };
  const write = async (screen: Screen<DeliverStep>, name: string, value: string) => {
    const field = screen.host.querySelector<HTMLInputElement>(`[formControlName=${name}]`);
    if (!field) throw new Error(`no ${name}`);
    field.value = value;
    field.dispatchEvent(new Event('input'));
    await screen.settle();
  };

  it('begins with what the course is called, and says on the button where it goes', async () => {
    const screen = await open(move(7, { at: 'deliver' }), null);
    await write(screen, 'section', '02');
    expect(screen.button('Deliver into').textContent.trim()).toBe('Deliver into BTB 210-02');
    await screen.press('Deliver into');
    expect(asked).toEqual([
      [7, { title: 'Wooden Boat Repair', section: '02', term: 'Autumn 2026', typed: '', asKept: false, quiet: false }],
    ]);
    expect(taken.map((m) => m.at)).toEqual(['check']);
  });

  it('does not ask the platform for a shell without a title', async () => {
    const screen = await open(move(7, { at: 'deliver' }), null);
    await write(screen, 'title', '');
    await screen.press('Deliver into');
    expect(asked).toEqual([]);
    expect(screen.words('[role=alert]')).toBe('Enter a title, a section and a term.');
  });

  it('says why it was refused, and can be asked again', async () => {
    const refuse = () => throwError(() => new Error('no'));
    const screen = await open(move(7, { at: 'deliver' }), null, refuse);
    await screen.press('Deliver into');
    expect(screen.words('[role=alert]')).not.toBe('');
    expect(screen.button('Deliver into').disabled).toBeFalse();
  });

  it('shows the log in plain words beside what was written, and leads on when it is done', async () => {
    const shell = { id: 's1', title: 'Wooden Boat Repair', url: 'http://127.0.0.1/space/s1' };
    const screen = await open(move(7, { at: 'check', shell }), job(3, 'done', { kind: 'deliver', moveId: 7 }));
    expect(screen.texts('.log tbody tr')).toEqual([
      'The package was read. T-100 MNF ok',
      'Not known what this means. Say what it means… p1 T-777 ???',
    ]);
    expect(screen.host.querySelector('form')).toBeNull();
    const links = [...screen.host.querySelectorAll('a')].map((a) => a.getAttribute('href'));
    expect(links).toEqual(['http://127.0.0.1/space/s1', '/moves/7/check']);
  });
});

describe('The build', () => {
  it('shows the package with its hash once it is there', async () => {
    TestBed.configureTestingModule({ providers: [provideRouter([]), { provide: Api, useValue: {} }] });
    const screen = new Screen(TestBed.createComponent(BuildStep));
    await screen.set({ move: move(7, { at: 'build' }), job: job(1, 'running', { kind: 'build' }) });
    expect(screen.host.querySelector('section.panel')).toBeNull();
    const built = { fileName: 'b.imscc', format: 'Common Cartridge 1.3', size: 2_048_000, sha256: 'ab'.repeat(32) };
    await screen.set({ move: move(7, { at: 'deliver', built }), job: job(1, 'done', { kind: 'build' }) });
    expect(screen.texts('dd')[1]).toContain('(2048000 bytes)');
    expect(screen.words('dd:last-of-type code').startsWith('ab')).toBeTrue();
    const links = [...screen.host.querySelectorAll('a')].map((a) => a.getAttribute('href'));
    expect(links).toEqual(['/moves/7/deliver', '/api/moves/7/package']);
  });
});
