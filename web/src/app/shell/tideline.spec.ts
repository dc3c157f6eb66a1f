import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import type { JobSummary } from '@treenail/server/contract';
import { JobsService } from '../data/jobs';
import { KeepingService, type Keeping } from '../data/keeping';
import { job } from '../testing/made';
import { Screen } from '../testing/screen';
import { Tideline } from './tideline';
import { TidelineHarness } from './tideline.harness';

describe('The tideline', () => {
  let screen: Screen<Tideline>;
  let tideline: TidelineHarness;
  const jobs = signal<JobSummary[]>([]);
  const sending = signal<Keeping[]>([]);
  const lost = signal<Date | null>(null);
  let seen: number[];
  let off: number[];
  let allSeen: boolean;
  const show = async (now: JobSummary[]) => {
    jobs.set(now);
    await screen.settle();
  };
  const toggle = async () => {
    screen.host.querySelector<HTMLButtonElement>('.toggle')?.click();
    await screen.settle();
  };

  beforeEach(async () => {
    seen = [];
    off = [];
    allSeen = false;
    jobs.set([]);
    sending.set([]);
    lost.set(null);
    TestBed.configureTestingModule({
      providers: [
        provideRouter([]),
        {
          provide: JobsService,
          useValue: {
            jobs,
            lost,
            trouble: signal(''),
            markSeen: ({ id }: JobSummary) => seen.push(id),
            markAllSeen: () => (allSeen = true),
            callOff: ({ id }: JobSummary) => off.push(id),
          },
        },
        { provide: KeepingService, useValue: { sending } },
      ],
    });
    screen = new Screen(TestBed.createComponent(Tideline));
    await screen.settle();
    tideline = await TestbedHarnessEnvironment.harnessForFixture(screen.fixture, TidelineHarness);
  });

  it('shows what failed first, then what runs, then what is done; of a move only the newest', async () => {
    await show([
      job(1, 'done'),
      job(2, 'running', { moveId: 7 }),
      job(3, 'waiting', { moveId: 7 }),
      job(4, 'failed'),
      job(5, 'queued'),
    ]);
    expect(await tideline.courses()).toEqual(['BTB 4', 'BTB 3', 'BTB 5']);
    expect(await tideline.sums()).toContain('1 at work, 2 waiting, 1 failed, 1 newly done');
    expect(await tideline.links()).toEqual(['/bench', '/moves/7', '/bench']);
  });

  it('opens into the list of all, where what is over is marked as seen', async () => {
    await show([job(1, 'done'), job(2, 'running'), job(3, 'failed')]);
    expect(await tideline.listed()).toBeNull();
    await tideline.open();
    expect(await tideline.listed()).toEqual(['BTB 1', 'BTB 2', 'BTB 3']);
    expect(await tideline.press('Seen')).toBe(2);
    expect(seen).toEqual([1, 3]);
    expect(screen.host.querySelector('.toggle')?.getAttribute('aria-expanded')).toBe('true');
    expect(screen.host.querySelector('.all a')?.getAttribute('href')).toBe('/strongroom');
  });

  it('has two hundred seen at once, and calls off what runs', async () => {
    await show([
      ...Array.from({ length: 200 }, (_, i) => job(i + 1, 'done')),
      job(201, 'called off'),
      job(202, 'running'),
    ]);
    await tideline.open();
    expect(screen.words('.sum')).toContain('201 are over');
    await tideline.press('All seen');
    expect(allSeen).toBeTrue();
    await tideline.press('Call off');
    expect(off).toEqual([202]);
    await show([job(202, 'running', { callOff: true })]);
    expect(screen.button('ending').disabled).toBeTrue();
  });

  it('says that nothing runs, and what will show here', async () => {
    expect(screen.words('.toggle')).toContain('Nothing runs or waits');
    await toggle();
    expect(screen.words('.all')).toBe('Fetches, builds, deliveries and checks show here while they run.');
  });

  it('shows how far a file is sent', async () => {
    const file = { fileName: 'loft.zip', state: 'sending', done: 512, total: 2048 } as Keeping;
    sending.set([file, { ...file, fileName: 'empty.zip', total: 0, done: 0 } as Keeping]);
    await screen.settle();
    expect(screen.texts('.tide .words')).toEqual(['loft.zip, 25 %', 'empty.zip, 0 %']);
  });

  it('says that it shows how things stood, when nothing is heard of the server', async () => {
    await show([job(1, 'running')]);
    lost.set(new Date(2026, 10, 1, 10, 42));
    await screen.settle();
    expect(screen.words('.tide .failed')).toBe(
      'No word from Treenail since 1 Nov 2026 10:42: this is how it stood then',
    );
    expect(screen.texts('.tide .job b')).toEqual(['BTB 1']);
  });
});
