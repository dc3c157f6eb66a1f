import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { TestKey } from '@angular/cdk/testing';
import { Location } from '@angular/common';
import { ChangeDetectionStrategy, Component, signal, viewChild } from '@angular/core';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { provideRouter } from '@angular/router';
import { RouterTestingHarness } from '@angular/router/testing';
import { Subject, map, of, throwError } from 'rxjs';
import { pageOf } from '../../testing/pages';
import { Screen } from '../../testing/screen';
import { compareValues, type ListColumn } from './column';
import { List, type ListKey } from './list';
import { ListCell } from './list-cell';
import { ListHarness } from './list.harness';
import type { ListAsked, ListSource } from './rows';
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

const FLEET: Boat[] = Array.from({ length: 2345 }, (_, i) => {
  return { id: i + 1, name: `Boat ${i + 1}`, feet: i % 40, built: '' };
});

@Component({
  selector: 'tn-fleet',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [List],
  template: `
    <tn-list
      choosable
      first="name"
      [noun]="['boat', 'boats']"
      [pages]="pages()"
      [columns]="columns"
      [key]="key"
      [named]="named"
      [(chosen)]="chosen"
    />
  `,
  styles: `
    :host {
      display: flex;
      height: 420px;
      width: 900px;
    }
  `,
})
class Fleet {
  readonly asked: ListAsked[] = [];
  readonly list = viewChild.required<List<Boat>>(List);
  readonly chosen = signal<ReadonlySet<ListKey>>(new Set());
  /** What is answered next, in place of a page. */
  refusal: Error | null = null;
  /** Answers that are held back. */
  readonly held: Subject<void>[] = [];
  hold = false;
  readonly pages = signal<ListSource<Boat>>((asked) => {
    this.asked.push(asked);
    if (this.refusal) return throwError(() => this.refusal);
    const { rows, total } = pageOf(FLEET, asked, null, { name: (b) => b.id });
    const page = { rows, total, foot: { name: `${total} afloat` } };
    if (!this.hold) return of(page);
    const answer = new Subject<void>();
    this.held.push(answer);
    return answer.pipe(map(() => page));
  });
  readonly columns: ListColumn<Boat>[] = [
    { id: 'name', name: 'Name', value: (b) => b.name, foot: 'told' },
    { id: 'feet', name: 'Length', is: 'number', value: (b) => b.feet },
  ];
  readonly key = (b: Boat) => b.id;
  readonly named = (b: Boat) => b.name;
}

describe('A list in pages', () => {
  let fleet: Fleet;
  let list: ListHarness;
  let screen: Screen<unknown>;

  beforeEach(async () => {
    TestBed.configureTestingModule({ providers: [provideRouter([{ path: 'fleet', component: Fleet }])] });
    const routed = await RouterTestingHarness.create();
    fleet = await routed.navigateByUrl('/fleet', Fleet);
    screen = new Screen(routed.fixture);
    await screen.drawn();
    list = await TestbedHarnessEnvironment.loader(routed.fixture).getHarness(ListHarness);
  });
  const scrollTo = (row: number) => {
    const viewport = screen.host.querySelector('cdk-virtual-scroll-viewport');
    if (viewport) viewport.scrollTop = row * 32;
  };
  const offsets = () => fleet.asked.map((asked) => asked.offset);

  it('asks for the first rows alone, and for others where a person gets to', async () => {
    expect(fleet.asked).toEqual([{ words: '', sort: 'name', offset: 0, limit: 100 }]);
    expect(await list.counted()).toBe('2345 shown');
    expect((await list.foot()).filter(Boolean)).toEqual(['2345 afloat']);
    fleet.hold = true;
    scrollTo(1500);
    await screen.until(() => fleet.held.length > 0);
    await screen.drawn();
    // Their places are held while they are asked for.
    expect(screen.host.querySelectorAll('.coming').length).toBeGreaterThan(10);
    expect(screen.host.querySelector('tr[data-key]')).toBeNull();
    for (const answer of fleet.held) answer.next();
    await screen.until(() => screen.host.querySelector('tr[data-key="1501"]') !== null);
    expect(screen.host.querySelector('tr[data-key="1501"]')?.getAttribute('aria-rowindex')).toBe('1502');
    expect(offsets().every((offset) => offset === 0 || (offset >= 1400 && offset <= 1600))).toBeTrue();
  });

  it('stands where it was scrolled to, whatever rows the browser would hold on to', () => {
    // Held on to, a row that is drawn elsewhere scrolls the list, which draws others, without end.
    const viewport = screen.host.querySelector('cdk-virtual-scroll-viewport');
    expect(viewport ? getComputedStyle(viewport).overflowAnchor : null).toBe('none');
  });

  it('has whoever answers filter and sort, keeps what stood until then, and begins at the top', async () => {
    scrollTo(800);
    await screen.until(() => screen.host.querySelector('tr[data-key="801"]') !== null);
    fleet.hold = true;
    await list.filter('boat 99');
    await screen.until(() => fleet.held.length > 0);
    expect(fleet.asked.at(-1)).toEqual({ words: 'boat 99', sort: 'name', offset: 0, limit: 100 });
    expect(await list.counted()).toBe('2345 shown');
    // What stands there is not what would be chosen.
    expect(await list.canTick()).toBeFalse();
    for (const answer of fleet.held) answer.next();
    await screen.drawn();
    expect(await list.canTick()).toBeTrue();
    expect((await list.column('Name')).slice(0, 3)).toEqual(['Boat 99', 'Boat 199', 'Boat 299']);
    fleet.hold = false;
    await list.sortBy('Name');
    await screen.drawn();
    expect(fleet.asked.at(-1)?.sort).toBe('-name');
  });

  it('takes all that fit, though most were never in view, and knows the rows of what was chosen', async () => {
    await list.tick();
    expect(fleet.chosen().size).toBe(2345);
    expect(offsets()).toEqual([0, 0, 1000, 2000]);
    await list.filter('boat 7');
    await screen.drawn();
    expect(fleet.list().chosenRows().length).toBe(2345);
    // Whether all of these are chosen is known once all have been read.
    await list.tick();
    expect(fleet.chosen().size).toBe(2345);
    await list.tick();
    expect(
      fleet
        .list()
        .chosenRows()
        .some((b) => b.name === 'Boat 77'),
    ).toBeFalse();
    expect(
      fleet
        .list()
        .chosenRows()
        .some((b) => b.name === 'Boat 12'),
    ).toBeTrue();
  });

  it('takes all that fit though the list is asked for anew meanwhile, and says nothing of rows that are to be others', async () => {
    fleet.hold = true;
    await list.tick();
    await screen.until(() => fleet.held.length > 0);
    fleet.list().refresh();
    fleet.hold = false;
    for (const answer of fleet.held.splice(0)) {
      answer.next();
      answer.complete();
    }
    await screen.until(() => fleet.chosen().size > 0);
    await screen.drawn();
    expect(fleet.chosen().size).toBe(2345);
    expect(await list.isTicked('all that are shown')).toBeTrue();
    fleet.hold = true;
    await list.filter('boat 9');
    await screen.until(() => fleet.held.length > 0);
    expect(await list.isTicked('all that are shown')).toBeFalse();
  });

  it('takes all between two places that are far apart', async () => {
    await list.tick('Boat 3');
    scrollTo(1200);
    await screen.until(() => screen.host.querySelector('tr[data-key="1201"]') !== null);
    const cell = screen.host.querySelector('tr[data-key="1201"] td.tick');
    cell?.dispatchEvent(new PointerEvent('pointerdown', { shiftKey: true, bubbles: true }));
    cell?.querySelector('input')?.click();
    await screen.drawn();
    expect(fleet.chosen().size).toBe(1199);
    expect([3, 700, 1201].every((id) => fleet.chosen().has(id))).toBeTrue();
    expect(fleet.chosen().has(1202)).toBeFalse();
  });

  it('is asked for anew where a person is, and shows what came of it', async () => {
    await list.tick('Boat 2');
    const before = fleet.asked.length;
    FLEET[1] = { id: 2, name: 'Boat 2, refitted', feet: 1, built: '' };
    fleet.list().refresh();
    await screen.drawn();
    FLEET[1] = { id: 2, name: 'Boat 2', feet: 1, built: '' };
    expect(fleet.asked.length).toBe(before + 1);
    expect((await list.column('Name'))[1]).toBe('Boat 2, refitted');
    expect(
      fleet
        .list()
        .chosenRows()
        .map((b) => b.name),
    ).toEqual(['Boat 2, refitted']);
  });

  it('says why a page did not come, keeps what is here, and asks again', async () => {
    fleet.refusal = new Error('no');
    scrollTo(2000);
    await screen.until(() => screen.host.querySelector('[role=alert]') !== null);
    expect(await list.counted()).toBe('2345 shown');
    fleet.refusal = null;
    await screen.press('Ask again');
    await screen.until(() => screen.host.querySelector('tr[data-key="2001"]') !== null);
    expect(screen.host.querySelector('[role=alert]')).toBeNull();
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
