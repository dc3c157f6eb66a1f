import { TestBed } from '@angular/core/testing';
import { MatDialogRef } from '@angular/material/dialog';
import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { MatInputHarness } from '@angular/material/input/testing';
import { MatSelectHarness } from '@angular/material/select/testing';
import type { NewPlatform, PlatformKindSummary, PlatformTest } from '@treenail/server/contract';
import { of, Subject, throwError, type Observable } from 'rxjs';
import { Api } from '../data/api';
import { Screen } from '../testing/screen';
import { AddDialog } from './add-dialog';

const WELL: PlatformTest = {
  health: { ok: true, checkedAt: '2026-11-24T05:00:00.000Z', took: 14, queue: 0, each: 5, problem: null },
  courses: 12,
};

const KINDS: readonly PlatformKindSummary[] = [{ id: 'tarnhall', label: 'Tarnhall' }];

describe('Connecting an instance', () => {
  let screen: Screen<AddDialog>;
  let asked: [string, NewPlatform][];
  let closed: unknown[];
  let tested: Observable<PlatformTest>;
  let added: Observable<{ id: number }>;
  let kinds: Observable<readonly PlatformKindSummary[]>;

  beforeEach(() => {
    asked = [];
    closed = [];
    tested = of(WELL);
    added = of({ id: 4 });
    kinds = of(KINDS);
    TestBed.configureTestingModule({
      providers: [
        { provide: MatDialogRef, useValue: { close: (id: unknown) => closed.push(id) } },
        {
          provide: Api,
          useValue: {
            platformKinds: () => kinds,
            testPlatform: (it: NewPlatform) => {
              asked.push(['try', it]);
              return tested;
            },
            addPlatform: (it: NewPlatform) => {
              asked.push(['add', it]);
              return added;
            },
          },
        },
      ],
    });
  });

  async function open(): Promise<void> {
    screen = new Screen(TestBed.createComponent(AddDialog));
    await screen.settle();
  }

  const filled = { platform: 'tarnhall', name: 'Trial', baseUrl: 'https://trial.example', credential: 'secret' };
  async function fill(address = filled.baseUrl): Promise<void> {
    const loader = TestbedHarnessEnvironment.loader(screen.fixture);
    await (await loader.getHarness(MatSelectHarness)).open();
    await (await loader.getHarness(MatSelectHarness)).clickOptions({ text: 'Tarnhall' });
    const [name, baseUrl, credential] = await loader.getAllHarnesses(MatInputHarness);
    await name?.setValue(filled.name);
    await baseUrl?.setValue(address);
    await credential?.setValue(filled.credential);
    await screen.settle();
  }

  it('lets nobody choose a platform, nor leave it out, before it is known which there are', async () => {
    const asked = new Subject<readonly PlatformKindSummary[]>();
    kinds = asked;
    screen = new Screen(TestBed.createComponent(AddDialog));
    await screen.until(() => screen.words('[role=status]') === 'Reading');
    const loader = TestbedHarnessEnvironment.loader(screen.fixture);
    const [name, baseUrl, credential] = screen.host.querySelectorAll('input');
    for (const [field, value] of [
      [name, filled.name],
      [baseUrl, filled.baseUrl],
      [credential, filled.credential],
    ] as const) {
      if (!field) throw new Error('no field');
      field.value = value;
      field.dispatchEvent(new Event('input'));
    }
    screen.fixture.detectChanges();
    const list = () => screen.host.querySelector('mat-select')?.getAttribute('aria-disabled');
    expect([list(), screen.button('Connect it').disabled]).toEqual(['true', true]);
    asked.next(KINDS);
    asked.complete();
    await screen.settle();
    expect([list(), screen.button('Connect it').disabled]).toEqual(['false', true]);
    await (await loader.getHarness(MatSelectHarness)).clickOptions({ text: 'Tarnhall' });
    await screen.settle();
    expect(screen.button('Connect it').disabled).toBeFalse();
  });

  it('takes nothing that is not filled in, nor an address that is none', async () => {
    await open();
    expect(screen.button('Try it').disabled).toBeTrue();
    await fill('trial.example');
    expect(screen.button('Connect it').disabled).toBeTrue();
    await fill();
    expect(screen.button('Connect it').disabled).toBeFalse();
  });

  it('says how the instance answers before anything is kept', async () => {
    await open();
    await fill();
    await screen.press('Try it');
    expect(screen.words('[role=status]')).toBe('It answers in 14 ms and lists 12 courses.');
    tested = of({ ...WELL, courses: null });
    await screen.press('Try it');
    expect(screen.words('[role=status]')).toBe('It answers in 14 ms and lists no courses.');
    tested = of({ health: { ...WELL.health, ok: false, problem: 'It refuses the token.' }, courses: null });
    await screen.press('Try it');
    expect(screen.words('[role=status]')).toBe('It refuses the token.');
    expect(asked.map(([what]) => what)).toEqual(['try', 'try', 'try']);
    expect(closed).toEqual([]);
  });

  it('connects it as it was written, and gives its identifier', async () => {
    await open();
    await fill();
    await screen.press('Connect it');
    expect(asked).toEqual([['add', filled]]);
    expect(closed).toEqual([4]);
  });

  it('stays, says why, and forgets what an earlier try said, where it is refused', async () => {
    await open();
    await fill();
    await screen.press('Try it');
    added = throwError(() => new Error('broken'));
    await screen.press('Connect it');
    expect(screen.words('[role=alert]')).not.toBe('');
    expect(screen.host.querySelector('[role=status]')).toBeNull();
    expect([closed, screen.button('Connect it').disabled]).toEqual([[], false]);
  });
});
