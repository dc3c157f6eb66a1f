import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestBed } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import type { CopyDetail, CopySummary, JobSummary } from '@treenail/server/contract';
import { Subject, of, throwError } from 'rxjs';
import { Api } from '../data/api';
import { JobsService } from '../data/jobs';
import { ListHarness } from '../parts/list/list.harness';
import { copy, job } from '../testing/made';
import { pageOf } from '../testing/pages';
import { Screen, wordsOf } from '../testing/screen';
import { StrongroomPage } from './strongroom';

const sumsOf = (copies: readonly CopySummary[]) => {
  const kept = copies.filter((c) => !c.removed);
  const held = new Map(kept.map((c) => [c.sha256, c.size]));
  const bytes = [...held.values()].reduce((a, b) => a + b, 0);
  return { kept: kept.length, courses: new Set(kept.map((c) => `${c.code}-${c.section} ${c.id}`)).size, bytes };
};

describe('The strongroom', () => {
  let screen: Screen<StrongroomPage>;
  let removed: [number, string][];

  let before: CopyDetail['before'];
  let done: Subject<JobSummary>;

  beforeEach(() => {
    removed = [];
    before = null;
    done = new Subject();
  });
  const open = async (copies: CopySummary[], chosen?: number) => {
    const api: Partial<Api> = {
      copies: (asked) => of(pageOf(copies, asked, sumsOf(copies), { kept: () => 0 })),
      copy: (id) => {
        const found = copies.find((c) => c.id === id);
        if (!found) return throwError(() => new Error('there is no such copy'));
        const others = copies.filter((c) => c.id !== id && c.courseId === found.courseId && !c.removed).length;
        return of({ ...found, others, before });
      },
      given: () => of({ given: [] }),
      removeCopy: (id, { reason }) => {
        removed.push([id, reason]);
        return of(undefined);
      },
    };
    TestBed.configureTestingModule({
      providers: [
        provideRouter([]),
        { provide: Api, useValue: api },
        { provide: JobsService, useValue: { jobs: () => [], changed$: done } },
      ],
    });
    screen = new Screen(TestBed.createComponent(StrongroomPage));
    await screen.set({ copy: chosen });
    await screen.drawn();
  };
  const filter = async (words: string) => {
    const field = screen.host.querySelector<HTMLInputElement>('input[type=search]');
    if (!field) throw new Error('no filter');
    field.value = words;
    field.dispatchEvent(new Event('input'));
    await screen.drawn();
  };
  const hrefs = () => [...screen.host.querySelectorAll('.acts a')].map((a) => a.getAttribute('href'));

  it('says how much is held, where what two copies share is held once', async () => {
    await open([copy(3), copy(2, { sha256: '3'.repeat(64) }), copy(1, { size: 1000 })]);
    expect(screen.words('h1')).toBe('3 kept copies of 3 courses, 3.0 kB');
  });

  it('shows what was kept meanwhile, without being loaded anew', async () => {
    const copies = [copy(1)];
    await open(copies);
    copies.unshift(copy(2, { title: 'Just now' }));
    done.next(job(1, 'done'));
    await screen.until(() => screen.texts('tr').join().includes('Just now'));
    expect(screen.words('h1')).toContain('2 kept copies');
  });

  it('tells what is in part, what has personal data, and how many items each holds', async () => {
    await open([copy(1, { items: 1, partial: true }), copy(2, { personal: true })]);
    expect(screen.texts('td:last-child')).toEqual(['1 item in part', '40 items personal data']);
    expect(screen.texts('dd')).toContain('Quernhold archive 4, the platform’s own archive, only chosen parts');
  });

  it('shows the copy that an address names, and another when it is chosen', async () => {
    await open([copy(3), copy(2), copy(1, { title: 'Older' })], 2);
    expect(screen.words('.one code')).toBe('BTB210-02.zip');
    expect(hrefs()).toEqual(['/bench?copy=2', '/api/copies/2/file', '/bench/describe?copy=2']);
    [...screen.host.querySelectorAll<HTMLElement>('tbody tr')].find((row) => wordsOf(row).includes('Older'))?.click();
    await screen.drawn();
    expect(screen.words('.one h2')).toBe('BTB 210-01 Older');
    expect(screen.texts('tr.at b')).toEqual(['BTB 210-01']);
  });

  it('shows a copy that an address names though the list does not', async () => {
    await open([...Array.from({ length: 130 }, (_, i) => copy(200 - i)), copy(5, { title: 'The oldest' })], 5);
    expect(screen.words('.one h2')).toBe('BTB 210-05 The oldest');
  });

  it('holds two copies beside each other, the older at the left, and no more and none that is gone', async () => {
    const older = copy(2, { keptAt: '2026-09-01T10:00:00Z' });
    const gone = copy(3, { removed: { at: '2026-11-02T10:00:00Z', why: 'no room' } });
    await open([copy(1), older, gone]);
    const list = await TestbedHarnessEnvironment.loader(screen.fixture).getHarness(ListHarness);
    const beside = () => screen.host.querySelector('.bar a')?.getAttribute('href') ?? screen.words('.bar > .quiet');
    await list.tick('BTB 210-01 Wooden Boat Repair');
    await screen.drawn();
    expect(beside()).toBe('Choose another to hold the two beside each other');
    await list.tick('BTB 210-02 Wooden Boat Repair');
    await screen.drawn();
    expect(beside()).toBe('/bench?copy=2&beside=1');
    await list.tick('BTB 210-03 Wooden Boat Repair');
    await screen.drawn();
    expect(beside()).toBe('Two at a time can be held beside each other');
    await list.tick('BTB 210-02 Wooden Boat Repair');
    await screen.drawn();
    expect(beside()).toContain('was removed');
  });

  it('offers to describe only what is an archive in a zip', async () => {
    await open([copy(1, { form: 'standard' })]);
    expect(screen.texts('.acts a')).not.toContain('Describe');
  });

  it('is narrowed by words, and says so when none fits', async () => {
    await open([copy(1, { title: 'Knots' }), copy(2, { title: 'Sails', fileName: 'knotty.zip' }), copy(3)]);
    await filter('knot');
    expect(screen.texts('tbody b')).toEqual(['BTB 210-01', 'BTB 210-02']);
    await filter('anchors');
    expect(screen.words('.none')).toContain('None of the copies fits the filter.');
    await screen.press('Show all');
    await screen.drawn();
    expect(screen.texts('tbody b').length).toBe(3);
  });

  it('says how much of what the platform counts a copy holds, and what packages of its form lack', async () => {
    const facts = { ...copy(1).facts, label: 'Common Cartridge 1.3', counted: 19, shown: 16, lacks: ['tests'] };
    await open([copy(1, { form: 'standard', facts })]);
    expect(screen.words('td:last-child')).toBe('16 items of 19');
    expect(screen.texts('.missing')[0]).toContain('leaves out tests');
  });

  it('says which delivery a copy was kept before, and what removing it means for that', async () => {
    before = { moveId: 7, title: 'Repair, a trial' };
    await open([copy(1)]);
    expect(screen.host.textContent).toContain('went into “Repair, a trial”: by it that delivery can be taken back.');
    await screen.press('Remove…');
    expect(screen.words('.removal p')).toContain('The delivery that it was kept before can not be taken back then.');
  });

  it('removes a copy only with a reason, and says whether another is kept', async () => {
    await open([copy(1), copy(2, { courseId: 9 })]);
    await screen.press('Remove…');
    expect(screen.words('.removal p')).toContain('It is the only copy of the course that is kept.');
    expect(screen.button('Remove this copy').disabled).toBeTrue();
    const field = screen.host.querySelector<HTMLInputElement>('.removal input');
    if (!field) throw new Error('no field');
    field.value = 'kept twice';
    field.dispatchEvent(new Event('input'));
    await screen.settle();
    await screen.press('Remove this copy');
    expect(removed).toEqual([[1, 'kept twice']]);
  });

  it('gives nothing out of a copy that was removed, and warns of one that is damaged', async () => {
    await open([copy(1, { removed: { at: '2026-11-02T10:00:00Z', why: 'no room' } }), copy(2)]);
    expect(hrefs()).toEqual([]);
    expect(screen.words('[role=note]')).toContain('no room');
    expect(screen.words('h1')).toContain('1 kept copy');
    TestBed.resetTestingModule();
    await open([copy(1, { damagedAt: '2026-11-02T10:00:00Z' })]);
    expect(screen.words('[role=alert]')).toContain('no more what they were');
  });

  it('says what belongs there while it is empty', async () => {
    await open([]);
    expect(screen.words('h1')).toBe('Strongroom');
    expect(screen.words('[tnNone]')).toContain('Every course that is fetched is kept here');
  });
});
