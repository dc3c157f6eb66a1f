import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestKey } from '@angular/cdk/testing';
import { Location } from '@angular/common';
import { ChangeDetectionStrategy, Component, signal } from '@angular/core';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import { RouterTestingHarness } from '@angular/router/testing';
import { Screen } from '../../testing/screen';
import { compareValues, type ListColumn } from './column';
import { List, type ListKey } from './list';
import { ListCell } from './list-cell';
import { ListHarness } from './list.harness';
import { sheetOf } from './sheet';

interface Boat {
  id: number;
  name: string;
  feet: number | null;
  built: string;
}

const BOATS: Boat[] = [
  { id: 1, name: 'Kittiwake', feet: 18, built: '1931-04-02' },
  { id: 2, name: 'Bran 10', feet: null, built: '1974-09-30' },
  { id: 3, name: 'bran 9', feet: 26, built: '1958-01-12' },
  { id: 4, name: 'Avocet', feet: 9, built: '2003-06-21' },
];

@Component({
  selector: 'tn-boats',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [List, ListCell],
  template: `
    <tn-list
      choosable
      first="name"
      [noun]="['boat', 'boats']"
      [rows]="rows()"
      [columns]="columns"
      [key]="key"
      [named]="named"
      [known]="known()"
      [beside]="beside"
      [(chosen)]="chosen"
      (opened)="opened.push($event.id)"
    >
      <ng-template tnCell="feet" [of]="rows()" let-boat>{{ boat.feet }} ft</ng-template>
      <p tnNone>No boat lies here.</p>
    </tn-list>
  `,
  styles: `
    :host {
      display: flex;
      height: 420px;
      width: 900px;
    }
  `,
})
class Boats {
  readonly rows = signal(BOATS);
  readonly known = signal(true);
  readonly chosen = signal<ReadonlySet<ListKey>>(new Set());
  readonly opened: number[] = [];
  readonly columns: ListColumn<Boat>[] = [
    { id: 'name', name: 'Name', value: (b) => b.name, foot: (rows) => `${rows.length} afloat` },
    {
      id: 'feet',
      name: 'Length',
      is: 'number',
      downFirst: true,
      value: (b) => b.feet,
      foot: (rows) => `${rows.reduce((sum, b) => sum + (b.feet ?? 0), 0)} ft`,
    },
    { id: 'built', name: 'Built', is: 'date', value: (b) => b.built, aside: true },
  ];
  readonly key = (b: Boat) => b.id;
  readonly named = (b: Boat) => b.name;
  readonly beside = (b: Boat) => (b.id === 4 ? 'yawl' : '');
}

describe('A list', () => {
  let fixture: ComponentFixture<unknown>;
  let boats: Boats;
  let list: ListHarness;
  let screen: Screen<unknown>;

  const openAt = async (address: string) => {
    const routed = await RouterTestingHarness.create();
    boats = await routed.navigateByUrl(address, Boats);
    fixture = routed.fixture;
    screen = new Screen(fixture);
    await screen.drawn();
    list = await TestbedHarnessEnvironment.loader(fixture).getHarness(ListHarness);
  };
  const names = () => list.column('Name');
  const chosen = () => [...boats.chosen()].sort();

  beforeEach(() => {
    localStorage.removeItem('treenail-columns-boats');
    TestBed.configureTestingModule({ providers: [provideRouter([{ path: 'boats', component: Boats }])] });
  });
  afterEach(() => localStorage.removeItem('treenail-columns-boats'));

  it('shows rows in order, numbers within words by their size, with totals at the foot', async () => {
    await openAt('/boats');
    expect(await names()).toEqual(['Avocet', 'bran 9', 'Bran 10', 'Kittiwake']);
    expect(await list.column('Length')).toEqual(['9 ft', '26 ft', 'ft', '18 ft']);
    expect((await list.foot()).filter(Boolean)).toEqual(['4 afloat', '53 ft']);
    expect(await list.counted()).toBe('4 shown');
  });

  it('is sorted by a header, what has no value last either way, and keeps that in the address', async () => {
    await openAt('/boats');
    await list.sortBy('Length');
    await screen.drawn();
    expect(await names()).toEqual(['bran 9', 'Kittiwake', 'Avocet', 'Bran 10']);
    expect(TestBed.inject(Location).path()).toBe('/boats?sort=-feet');
    await list.sortBy('Length');
    await screen.drawn();
    expect(await names()).toEqual(['Avocet', 'Kittiwake', 'bran 9', 'Bran 10']);
  });

  it('shows by its address what another was shown', async () => {
    await openAt('/boats?sort=-feet&words=bran');
    expect(await names()).toEqual(['bran 9', 'Bran 10']);
    expect((await list.foot()).filter(Boolean)).toEqual(['2 afloat', '26 ft']);
  });

  it('is filtered by words in any order, of columns and of what stands beside them, and shows all again', async () => {
    await openAt('/boats');
    await list.filter('10 BRAN');
    await screen.drawn();
    expect(await names()).toEqual(['Bran 10']);
    await list.filter('yawl');
    await screen.drawn();
    expect(await names()).toEqual(['Avocet']);
    expect(TestBed.inject(Location).path()).toBe('/boats?words=yawl');
    await list.filter('submarine');
    await screen.drawn();
    expect(screen.words('.none')).toContain('None of the boats fits the filter.');
    await list.showAll();
    await screen.drawn();
    expect((await names()).length).toBe(4);
  });

  it('says what belongs there where there is nothing, and counts nothing that is not known', async () => {
    await openAt('/boats');
    boats.rows.set([]);
    await screen.drawn();
    expect(screen.words('.none')).toBe('No boat lies here.');
    boats.known.set(false);
    await screen.drawn();
    expect([await list.counted(), screen.words('.none'), screen.words('tfoot')]).toEqual([null, '', '']);
  });

  it('is gone through with keys, chooses, takes all between, and opens', async () => {
    await openAt('/boats');
    await list.press('j');
    await screen.drawn();
    await list.press('j');
    await screen.drawn();
    await list.press('x');
    expect(chosen()).toEqual([3]);
    await list.pressWithShift(TestKey.DOWN_ARROW);
    await screen.drawn();
    expect(chosen()).toEqual([2, 3]);
    await list.press(TestKey.ENTER);
    expect(boats.opened).toEqual([2]);
    await list.press('k');
    await screen.drawn();
    await list.press('x');
    expect(chosen()).toEqual([2]);
    await list.press('/');
    expect(document.activeElement?.getAttribute('aria-label')).toBe('Filter the boats');
  });

  it('keeps what was chosen while it is filtered, and chooses all that is shown', async () => {
    await openAt('/boats');
    await list.tick('Kittiwake');
    await list.filter('bran');
    await screen.drawn();
    expect(await list.counted()).toBe('2 shown, 1 chosen');
    await list.tick();
    expect(chosen()).toEqual([1, 2, 3]);
    await list.tick();
    expect(chosen()).toEqual([1]);
    await list.filter('');
    await screen.drawn();
    expect(await list.isTicked('Kittiwake')).toBeTrue();
  });

  it('takes all from the last that was chosen to one that is chosen with Shift', async () => {
    await openAt('/boats');
    await list.tick('Avocet');
    const cell = screen.host.querySelector('tr[data-key="2"] td.tick');
    cell?.dispatchEvent(new PointerEvent('pointerdown', { shiftKey: true, bubbles: true }));
    cell?.querySelector('input')?.click();
    await screen.drawn();
    expect(chosen()).toEqual([2, 3, 4]);
  });

  it('shows the columns that a person chose, here and the next time', async () => {
    await openAt('/boats');
    expect(await list.heads()).toEqual(['Name', 'Length']);
    await list.showOrHide('Built');
    await list.showOrHide('Length');
    await screen.drawn();
    expect(await list.heads()).toEqual(['Name', 'Built']);
    TestBed.resetTestingModule();
    TestBed.configureTestingModule({ providers: [provideRouter([{ path: 'boats', component: Boats }])] });
    await openAt('/boats');
    expect(await list.heads()).toEqual(['Name', 'Built']);
  });

  it('draws only what there is room for of many', async () => {
    await openAt('/boats');
    boats.rows.set(Array.from({ length: 20_000 }, (_, id) => ({ id, name: `Boat ${id}`, feet: id, built: '' })));
    await screen.drawn();
    expect(await list.counted()).toBe('20000 shown');
    const drawn = screen.host.querySelectorAll('tbody tr').length;
    expect(drawn).toBeGreaterThan(5);
    expect(drawn).toBeLessThan(90);
  });
});

describe('A sheet of a list', () => {
  const columns: ListColumn<Boat>[] = [
    { id: 'name', name: 'Name', value: (b) => b.name },
    { id: 'feet', name: 'Length', is: 'number', value: (b) => b.feet, words: (b) => `${b.feet} ft` },
    { id: 'built', name: 'Built', is: 'date', value: (b) => b.built },
  ];

  it('has values, not words, as CSV, and nothing that a program would take for a formula', async () => {
    const boats = [...BOATS.slice(0, 2), { id: 9, name: '=1+1', feet: 1, built: '' }];
    const text = await (await sheetOf('csv', 'boats', columns, boats)).text();
    expect(text.replace(/^\uFEFF/, '').split('\n')).toEqual([
      'Name,Length,Built',
      'Kittiwake,18,1931-04-02',
      'Bran 10,,1974-09-30',
      "'=1+1,1,",
      '',
    ]);
  });

  it('is a workbook', async () => {
    const blob = await sheetOf('xlsx', 'boats', columns, BOATS);
    const bytes = new Uint8Array(await blob.arrayBuffer());
    expect([...bytes.slice(0, 4)]).toEqual([0x50, 0x4b, 3, 4]);
    expect(bytes.length).toBeGreaterThan(1000);
  });

  it('compares words without regard to capitals, and puts nothing last', () => {
    expect(compareValues('b', 'A', false)).toBeGreaterThan(0);
    expect(compareValues('b', 'A', true)).toBeLessThan(0);
    for (const down of [true, false]) expect(compareValues(null, 1, down)).toBeGreaterThan(0);
  });
});
