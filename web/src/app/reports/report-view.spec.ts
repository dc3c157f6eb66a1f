import { TestBed } from '@angular/core/testing';
import type { CheckedLine, TransferReport } from '@treenail/core';
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
  otherwise,
  lines,
});
const gone = line('Knots, the sheet', 'left behind', {
  kind: 'file',
  foretold: 'whole',
  trail: ['Week 3'],
  reasons: ['its log says: too long a name'],
});
const reworked = line('Log book', 'reworked', {
  kind: 'assignment',
  as: 'discussion',
  foretold: 'reworked',
  settings: [{ name: 'due', was: 'x', is: null, outcome: 'left behind', reason: 'it is not there' }],
  parts: [{ title: 'One', outcome: 'reworked', reason: '3 points became 1' }],
});
const extra = line('Log book (1)', 'extra', { source: null });

describe('A transfer report', () => {
  const open = async (of: TransferReport) => {
    const screen = new Screen(TestBed.createComponent(ReportView));
    await screen.set({ report: of });
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
      'due: left behind; question “One”: 3 points became 1',
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
    expect(screen.button('reworked').getAttribute('aria-pressed')).toBe('true');
    await screen.press('otherwise than foretold');
    expect(titles(screen)).toEqual(['Knots, the sheet', 'Log book (1)']);
    await screen.press('all that is not whole');
    expect(titles(screen).length).toBe(3);
  });

  it('counts as surprises what it shows as surprises, also where nothing was foretold', async () => {
    const unforeseen = line('Old', 'reworked', { foretold: null });
    const screen = await open(report([unforeseen, extra], 1));
    await screen.press('otherwise than foretold');
    expect(titles(screen)).toEqual(['Log book (1)']);
  });

  it('says so where everything is whole', async () => {
    const screen = await open(report([], 0));
    expect(screen.words('tbody')).toBe('Everything arrived whole.');
  });
});
