import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestBed } from '@angular/core/testing';
import type { Course } from '@treenail/core';
import type { InventoryAnswer } from '@treenail/server/contract';
import { Screen, wordsOf } from '../testing/screen';
import { TreemapHarness } from './treemap.harness';
import { InventoryView } from './inventory-view';
import type { InsideSource } from './source';

const COURSE: Course = {
  title: 'Rigging',
  origin: { format: 'cc', version: '1.1', untouched: true },
  metadata: { keywords: [] },
  outline: [],
  items: [{ kind: 'file', id: 'f', title: 'The chart', definitionPath: null, file: 'm/chart.pdf', settings: {} }],
  files: [],
};
const INVENTORY: InventoryAnswer = {
  items: 3,
  folders: 2,
  depth: 1,
  entries: 3,
  kinds: [{ kind: 'file', items: 1, bytes: 8_000_000 }],
  questions: [{ type: 'choice', count: 7 }],
  files: 4,
  bytes: 10_000_000,
  byMedia: [
    { mediaType: 'application/pdf', files: 3, bytes: 9_000_000 },
    { mediaType: 'text/html', files: 1, bytes: 1_000_000 },
  ],
  unused: ['m/old.pdf'],
  unusedBytes: 500_000,
  biggest: [
    { path: 'm/chart.pdf', size: 8_000_000, mediaType: 'application/pdf', item: 'f' },
    { path: 'm/old.pdf', size: 500_000, mediaType: 'application/pdf', item: null },
  ],
  dates: { from: '2026-09-14T00:00:00Z', to: '2026-12-18T00:00:00Z', items: 1 },
  hosts: Array.from({ length: 14 }, (_, i) => ({ host: `site${i}.example`, links: 20 - i })),
  tools: [],
  languages: [],
  licence: null,
  unread: [
    { name: 'item@mood', times: 2, places: [{ file: 'imsmanifest.xml', line: 7, item: null }] },
    { name: 'timer', times: 1, places: [{ file: 'quiz.xml', line: 3, item: 'f' }] },
  ],
};

describe('The inventory', () => {
  let screen: Screen<InventoryView>;
  let exported: string[];
  let chosen: string[];
  const open = async (inventory: InventoryAnswer) => {
    exported = [];
    chosen = [];
    const source: Partial<InsideSource> = {
      exports: ['csv', 'xlsx', 'json'],
      exportInventory: (format) => void exported.push(format),
    };
    screen = new Screen(TestBed.createComponent(InventoryView));
    screen.fixture.componentInstance.chosen.subscribe((item) => chosen.push(item));
    await screen.set({ course: COURSE, inventory, source });
  };
  const map = () => TestbedHarnessEnvironment.harnessForFixture(screen.fixture, TreemapHarness);
  const table = (caption: string) => {
    const found = [...screen.host.querySelectorAll('section')].find((s) => wordsOf(s.querySelector('h3')) === caption);
    return [...(found?.querySelectorAll('dl > div') ?? [])].map((row) => [...row.children].map(wordsOf));
  };

  it('says first how much there is, and how much of it nothing uses', async () => {
    await open({ ...INVENTORY, unread: [] });
    expect(screen.words('.head p')).toBe('10 MB in 4 files, of which 500 kB in 1 file that nothing uses');
    expect(screen.host.querySelector('.due')).not.toBeNull();
    await open({ ...INVENTORY, unread: [], unused: [], unusedBytes: 0 });
    expect(screen.host.querySelector('.due')).toBeNull();
  });

  it('draws every file as large as it is, and what is small as one field of its type', async () => {
    await open(INVENTORY);
    const fields = await (await map()).fields();
    expect([...fields.keys()].sort()).toEqual([
      '1 smaller file: application/pdf, 500 kB',
      '1 smaller file: text/html, 1.0 MB',
      'The chart: m/chart.pdf, 8.0 MB',
      'old.pdf: m/old.pdf, 500 kB',
    ]);
    const area = (label: string) => [...fields].find(([name]) => name.startsWith(label))?.[1] ?? 0;
    expect(area('The chart')).toBeGreaterThan(10 * area('old.pdf'));
  });

  it('leads from a field or a row to the item that the file is', async () => {
    await open(INVENTORY);
    const field = screen.host.querySelector('g.usable');
    field?.dispatchEvent(new MouseEvent('click'));
    field?.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
    await screen.press('chart.pdf');
    expect(chosen).toEqual(['f', 'f', 'f']);
    expect(await (await map()).usable()).toBe(1);
  });

  it('lists what there is at most twelve times, and leaves out what there is not', async () => {
    await open(INVENTORY);
    const sites = table('Sites it leads to');
    expect([sites.length, sites[0], sites.at(-1)]).toEqual([13, ['site0.example', '20'], ['and 2 more', '']]);
    expect(table('Questions')).toEqual([['choice', '7']]);
    expect(table('External tools')).toEqual([]);
    expect(table('The course').slice(0, 3)).toEqual([
      ['Dates', '2026-09-14 to 2026-12-18, on 1 item'],
      ['Licence', 'none said'],
      ['Folders', '2 in 1 level'],
    ]);
  });

  it('is given as a file in every form that is offered', async () => {
    await open(INVENTORY);
    for (const format of ['CSV', 'XLSX', 'JSON']) await screen.press(format);
    expect(exported).toEqual(['csv', 'xlsx', 'json']);
  });

  it('says what of the package is not read, where it stands, and with which item', async () => {
    await open(INVENTORY);
    expect(wordsOf(screen.host.querySelector('.head'))).toContain(
      '3 things in this package that Treenail does not read',
    );
    const caption = 'Not read: kept in the copy, lost where it is written anew';
    expect(table(caption)).toEqual([
      ['item@mood', '2'],
      ['timer', '1'],
    ]);
    const timer = [...screen.host.querySelectorAll('button')].find((b) => wordsOf(b) === 'timer');
    expect(timer?.title).toBe('quiz.xml, line 3');
    timer?.click();
    expect(chosen).toEqual(['f']);
    await open({ ...INVENTORY, unread: [] });
    expect(wordsOf(screen.host)).not.toContain('not read');
    // What is not counted is not said to be nothing.
    await open({ ...INVENTORY, unread: null });
    expect(wordsOf(screen.host.querySelector('.head'))).toContain('is not counted in archives of this kind');
  });
});
