import { TestBed } from '@angular/core/testing';
import type { CheckedLine, TransferReport } from '@treenail/core';
import { of as ofRx } from 'rxjs';
import { Api } from '../data/api';
import { line } from '../testing/made';
import { Screen } from '../testing/screen';
import { ReportView } from './report-view';

const report = (lines: CheckedLine[], otherwise: number): TransferReport => ({
  course: { code: 'BTB 210', section: '01', term: 'Autumn 2026', title: 'Wooden Boat Repair' },
  source: 'Marrowick Live',
  destination: 'Marrowick New',
  place: 'https://new.marrowick.example/courses/7',
  sentAt: '2026-11-01T10:00:00Z',
  checkedAt: '2026-11-01T11:00:00Z',
  packageFile: 'BTB210.imscc',
  packageSha256: 'ab'.repeat(32),
  totals: { whole: 30, reworked: 1, 'left behind': 1, extra: 1, unsure: 0 },
  copyFile: 'BTB210.quern',
  copySha256: 'cd'.repeat(32),
  missing: [],
  open: [],
  otherwise,
  lines,
});
const gone = line('Knots, the sheet', 'left behind', {
  kind: 'file',
  predicted: 'whole',
  trail: ['Week 3'],
  reasons: ['its log says: too long a name'],
});
const reworked = line('Log book', 'reworked', {
  kind: 'assignment',
  as: 'discussion',
  predicted: 'reworked',
  settings: [{ name: 'due', was: '2026-10-16T17:00:00Z', is: null, outcome: 'left behind', reason: 'it is not there' }],
  parts: [{ title: 'One', outcome: 'reworked', reason: '3 points became 1' }],
});
const extra = line('Log book (1)', 'extra', { source: null });

describe('A transfer report', () => {
  let asked: number[];
  beforeEach(() => (asked = []));
  const open = async (of: TransferReport) => {
    const api = { passwords: (id: number) => (asked.push(id), ofRx([{ title: 'Knots test', password: 'bowline' }])) };
    TestBed.resetTestingModule();
    TestBed.configureTestingModule({ providers: [{ provide: Api, useValue: api }] });
    const screen = new Screen(TestBed.createComponent(ReportView));
    await screen.set({ report: of, moveId: 7 });
    return screen;
  };
  const titles = (screen: Screen<ReportView>) => screen.texts('td:nth-child(2)').map((t) => t.split(' Week')[0]);

  it('says first how much arrived, and whether the forecast was right', async () => {
    const screen = await open(report([gone, reworked, extra], 2));
    expect(screen.texts('.part')).toEqual(['30 whole', '1 reworked', '1 left behind', '1 extra']);
    expect(screen.words('p.quiet')).toContain('2 lines came otherwise than foretold.');
    // What there is none of takes no room in the bar.
    expect(screen.host.querySelectorAll('.bar i').length).toBe(4);
    const none = await open({
      ...report([reworked], 0),
      totals: { whole: 9, reworked: 1, 'left behind': 0, extra: 0, unsure: 0 },
    });
    expect(none.host.querySelectorAll('.bar i').length).toBe(2);
    const right = await open(report([reworked], 0));
    expect(right.words('p.quiet')).toContain('Everything came as it was foretold.');
  });

  it('has a line for everything that is not whole, with all that is wrong with it', async () => {
    const screen = await open(report([gone, reworked, extra], 2));
    const cells = (row: number) => screen.texts(`tbody tr:nth-child(${row}) td`);
    expect(cells(1)).toEqual([
      'left behind',
      'Knots, the sheet Week 3',
      'file',
      'its log says: too long a name foretold whole',
    ]);
    expect(cells(2)).toEqual([
      'reworked',
      'Log book',
      'assignment, now discussion',
      'due Fri 16 Oct 2026 17:00 UTC: left behind; question “One”: 3 points became 1',
    ]);
    expect(screen.host.querySelector('a')?.getAttribute('href')).toBe('https://new.marrowick.example/courses/7');
  });

  it('shows one outcome, or what nobody foretold', async () => {
    const screen = await open(report([gone, reworked, extra], 2));
    expect(screen.texts('.filters button')).toEqual([
      'all that is not whole',
      'left behind',
      'reworked',
      'extra',
      'otherwise than foretold',
    ]);
    await screen.press('reworked');
    expect(titles(screen)).toEqual(['Log book']);
    expect(screen.button('reworked').getAttribute('aria-checked')).toBe('true');
    await screen.press('otherwise than foretold');
    expect(titles(screen)).toEqual(['Knots, the sheet', 'Log book (1)']);
    await screen.press('all that is not whole');
    expect(titles(screen).length).toBe(3);
  });

  it('counts as surprises what it shows as surprises, also where nothing was foretold', async () => {
    const unforeseen = line('Old', 'reworked', { predicted: null });
    const screen = await open(report([unforeseen, extra], 1));
    await screen.press('otherwise than foretold');
    expect(titles(screen)).toEqual(['Log book (1)']);
  });

  it('shows passwords only when they are asked for', async () => {
    const locked = line('Knots test', 'reworked', {
      predicted: 'reworked',
      settings: [{ name: 'password', was: 'set; shown on demand', is: null, outcome: 'left behind', reason: '' }],
    });
    const screen = await open(report([locked], 0));
    expect(screen.host.textContent).not.toContain('bowline');
    expect(asked).toEqual([]);
    await screen.press('Show passwords');
    expect(asked).toEqual([7]);
    expect(screen.texts('.secrets code')).toEqual(['bowline']);
    expect((await open(report([extra], 1))).host.querySelector('.secrets')).toBeNull();
  });

  it('says so where everything is whole', async () => {
    const screen = await open(report([], 0));
    expect(screen.words('.none')).toBe('Everything that was sent arrived whole.');
  });

  it('says first what was known to be missing, and calls nothing all that was only sent', async () => {
    const missing = ['The platform counts 19 items, and 16 were read: 3 items are not in this package.'];
    const screen = await open({ ...report([], 0), missing });
    expect(screen.words('.before')).toBe(missing[0] ?? '');
    expect(screen.words('.none')).toContain('see above what was known to be missing');
  });

  it('shows lines that say the same as one that opens, and each with its value once it is open', async () => {
    const due = (title: string, day: string) =>
      line(title, 'reworked', {
        kind: 'assignment',
        as: 'assignment',
        predicted: 'reworked',
        settings: [
          { name: 'due', was: `2026-10-${day}T17:00:00Z`, is: null, outcome: 'left behind', reason: 'no dates' },
        ],
      });
    const screen = await open(report([due('One', '16'), due('Two', '23'), extra], 1));
    expect(screen.texts('tbody tr').length).toBe(2);
    expect(screen.words('tbody tr')).toContain('2 assignments');
    expect(screen.words('tbody tr')).toContain('due: left behind (no dates)');
    await screen.press('2 assignments');
    expect(screen.texts('tbody tr td:nth-child(4)').slice(1, 3)).toEqual([
      'due Fri 16 Oct 2026 17:00 UTC: left behind (no dates)',
      'due Fri 23 Oct 2026 17:00 UTC: left behind (no dates)',
    ]);
  });

  it('carries the findings that were left open, and names the package sent and the copy it was made of', async () => {
    const found = { title: 'Caulking', what: 'gone.html' };
    const screen = await open({ ...report([], 0), open: [{ label: 'Broken link', findings: [found] }] });
    expect(screen.words('.open')).toContain('1 finding left open');
    expect(screen.words('.open')).toContain('Broken link: 1');
    expect(screen.words('p.quiet:last-child')).toContain('Sent: BTB210.imscc');
    expect(screen.words('p.quiet:last-child')).toContain('Made of the kept copy BTB210.quern');
  });
});
