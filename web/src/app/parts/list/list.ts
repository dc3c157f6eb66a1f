import { NgTemplateOutlet } from '@angular/common';
import { CdkFixedSizeVirtualScroll, CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  ElementRef,
  Injector,
  afterNextRender,
  booleanAttribute,
  computed,
  contentChildren,
  effect,
  inject,
  input,
  linkedSignal,
  model,
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatCheckbox } from '@angular/material/checkbox';
import { MatFormField, MatPrefix } from '@angular/material/form-field';
import { MatIcon } from '@angular/material/icon';
import { MatInput } from '@angular/material/input';
import { MatMenu, MatMenuItem, MatMenuTrigger } from '@angular/material/menu';
import { MatSort, MatSortHeader, type Sort } from '@angular/material/sort';
import { MatTableModule } from '@angular/material/table';
import { count } from '@treenail/core';
import { auditTime } from 'rxjs';
import { wordsOf } from '../../data/api';
import { Awaited } from '../awaited';
import { inAddress } from './address';
import { readIn, type ListColumn } from './column';
import { ListCell } from './list-cell';
import { rememberedColumns } from './remembered';
import { Rows, here, wordsIn, type ListSource, type Slot } from './rows';
import { give, sheetOf, type SheetFormat } from './sheet';
import { Slash } from './slash';
import { isElsewhere } from './typing';

export type ListKey = number | string;

/** What a column without a width of its own has at least, pixels. */
const SHARE = 150;
/** How often, while a list is scrolled, it is looked which rows are to be asked for, milliseconds. */
const SCROLL_MS = 60;

/**
 * Every list of things: a filter (`/`), rows by the keyboard (`j` `k` or arrows, `x` chooses, Shift takes all between,
 * `Enter` opens), sorted by a header, with columns to choose, totals at the foot, and what is shown as CSV or XLSX. Only
 * the rows in view are drawn. Filter and order stand in the address. Its rows are given all at once (`rows`), or asked for in
 * pages as they come into view (`pages`): whoever answers then filters and sorts.
 */
@Component({
  selector: 'tn-list',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    CdkFixedSizeVirtualScroll,
    CdkVirtualScrollViewport,
    MatButton,
    MatCheckbox,
    MatFormField,
    MatIcon,
    MatInput,
    MatMenu,
    MatMenuItem,
    MatMenuTrigger,
    MatPrefix,
    MatSort,
    MatSortHeader,
    MatTableModule,
    NgTemplateOutlet,
  ],
  templateUrl: './list.html',
  styleUrl: './list.scss',
  host: { '(document:keydown)': 'pressed($event)' },
})
export class List<T extends object> {
  /** Of one row and of many: `['kept copy', 'kept copies']`. */
  readonly noun = input.required<readonly [string, string]>();
  readonly rows = input<readonly T[]>([]);
  readonly pages = input<ListSource<T> | null>(null);
  readonly columns = input.required<readonly ListColumn<T>[]>();
  readonly key = input.required<(row: T) => ListKey>();
  /** What a row is called, for who hears it. */
  readonly named = input.required<(row: T) => string>();
  /** Column that is sorted by at first, with a `-` before it where the greatest come first. */
  readonly first = input('');
  /** What is told before a person has written anything into the filter. */
  readonly hint = input('');
  /** What the filter looks through beside the columns. */
  readonly beside = input<(row: T) => string>(() => '');
  /** Whether the rows are known yet: where they are not, nothing is said of how many there are. */
  readonly known = input(true);
  /** Room for what can be done with a row, pixels. */
  readonly actsWidth = input(120);
  readonly choosable = input(false, { transform: booleanAttribute });
  /** Whether the screen narrows the rows by something of its own. */
  readonly narrowed = input(false);
  readonly chosen = model<ReadonlySet<ListKey>>(new Set());
  /** The row that the person is at. */
  readonly at = model<ListKey | null>(null);
  readonly opened = output<T>();
  /** All are asked for again. */
  readonly widened = output<void>();

  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly injector = inject(Injector);
  private readonly viewport = viewChild.required(CdkVirtualScrollViewport);
  private readonly search = viewChild.required<ElementRef<HTMLInputElement>>('search');
  private readonly cells = contentChildren<ListCell<T>>(ListCell);
  private readonly templates = computed(() => new Map(this.cells().map((cell) => [cell.tnCell(), cell.template])));
  /** Height of a row, pixels. */
  protected readonly ROW = 32;
  readonly words = inAddress('words');
  private readonly sort = inAddress('sort');
  protected readonly order = computed(() => {
    const sort = this.sort() || this.first();
    return { by: sort.replace(/^-/, ''), down: sort.startsWith('-') };
  });
  private readonly remembered = rememberedColumns();
  protected readonly hidden = linkedSignal<ReadonlySet<string>>(
    () =>
      this.remembered.read(this.noun()[1]) ??
      new Set(
        this.columns()
          .filter((c) => c.aside)
          .map((c) => c.id),
      ),
  );
  protected readonly visible = computed(() => this.columns().filter((c) => !this.hidden().has(c.id)));
  protected readonly defined = computed(() => [
    ...(this.choosable() ? ['tn-choice'] : []),
    ...this.visible().map((c) => c.id),
    ...(this.cellOf('acts') ? ['tn-acts'] : []),
  ]);
  /** Pixels below which columns would be squeezed to nothing: the list is then scrolled sideways. */
  protected readonly least = computed(() => {
    const columns = this.visible().reduce((sum, { width }) => sum + (width ?? SHARE), 0);
    return columns + (this.choosable() ? 36 : 0) + (this.cellOf('acts') ? this.actsWidth() : 0);
  });
  protected readonly hasFoot = computed(() => this.columns().some((c) => c.foot));
  /** Rows of those that are chosen, whether they are shown or not. */
  private readonly chosenByKey = new Map<ListKey, T>();
  protected readonly table = new Rows<T>((rows) => this.keep(rows));
  private readonly source = computed((): ListSource<T> => {
    const pages = this.pages();
    if (pages) return pages;
    const [columns, visible, beside, named] = [this.columns(), this.visible(), this.beside(), this.named()];
    return here(this.rows(), columns, (row) => `${wordsIn(visible, row)} ${named(row)} ${beside(row)}`);
  });
  private readonly ordered = computed(() => {
    const { by, down } = this.order();
    const known = this.columns().some((c) => c.id === by);
    return { words: this.words(), sort: known ? `${down ? '-' : ''}${by}` : '' };
  });
  protected readonly isKnown = computed(() => (this.pages() ? this.table.hasValue() : this.known()));
  protected readonly total = computed(() => this.table.slots().length);
  /** What is here of what is shown, in its order. */
  readonly sorted = this.table.here;
  readonly chosenRows = computed(() => {
    // Rows that come anew are those that are given.
    this.table.slots();
    return [...this.chosen()].flatMap((key) => this.chosenByKey.get(key) ?? []);
  });
  protected readonly someChosen = computed(() => this.sorted().some((row) => this.chosen().has(this.key()(row))));
  protected readonly allChosen = computed(
    // Of rows that are about to be others nothing is said.
    () =>
      !this.table.stale() &&
      this.total() > 0 &&
      this.table.whole() &&
      this.sorted().every((row) => this.chosen().has(this.key()(row))),
  );
  protected readonly counted = computed(() => {
    if (this.table.gathering()) return `Reading all ${this.total()}`;
    const shown = `${this.total()} shown`;
    return this.chosen().size === 0 ? shown : `${shown}, ${this.chosen().size} chosen`;
  });
  protected readonly track = (_: number, { index, row }: Slot<T>) => (row === null ? `-${index}` : this.key()(row));
  private readonly texts = new WeakMap<object, Map<string, string>>();
  /** Why no sheet was made. */
  protected readonly failure = signal('');
  /** Whether Shift was held where something is chosen. */
  protected ranging = false;
  /** The key before: after `g` one leads elsewhere. */
  private before = '';
  /** Where a range begins. */
  private anchor: ListKey | null = null;

  constructor() {
    inject(Slash).take();
    const destroy = inject(DestroyRef);
    destroy.onDestroy(() => this.table.end());
    let before = '';
    effect(() => {
      const [source, { words, sort }] = [this.source(), this.ordered()];
      untracked(() => {
        this.table.show(source, words, sort);
        const now = `${sort} ${words}`;
        if (before !== '' && before !== now) this.viewport().scrollToOffset(0);
        before = now;
      });
    });
    afterNextRender(() => {
      const ranges = this.viewport().renderedRangeStream.pipe(auditTime(SCROLL_MS));
      const looks = ranges.subscribe(({ start, end }) => this.table.view(start, end));
      destroy.onDestroy(() => looks.unsubscribe());
      // How many rows there is room for is known once the page is laid out, and changes with it.
      const watch = new ResizeObserver(() => this.viewport().checkViewportSize());
      watch.observe(this.viewport().elementRef.nativeElement);
      destroy.onDestroy(() => watch.disconnect());
    });
  }

  protected isAt({ row }: Slot<T>): boolean {
    return row !== null && this.at() === this.key()(row);
  }

  protected stand({ row }: Slot<T>): void {
    if (row !== null) this.at.set(this.key()(row));
  }

  protected many(n: number): string {
    return count(n, ...this.noun());
  }

  /** What a person reads in a column, made once a row: all that is drawn is looked at again in every frame of a scroll. */
  protected read(column: ListColumn<T>, row: T & object): string {
    // What a screen shows in its own way may change while the row does not.
    if (this.templates().has(column.id)) return readIn(column, row);
    let made = this.texts.get(row);
    if (!made) this.texts.set(row, (made = new Map<string, string>()));
    let text = made.get(column.id);
    if (text === undefined) made.set(column.id, (text = readIn(column, row)));
    return text;
  }

  protected cellOf(id: string) {
    return this.templates().get(id) ?? null;
  }

  protected sortBy({ active, direction }: Sort): void {
    this.sort.set(`${direction === 'desc' ? '-' : ''}${active}`);
  }

  protected show(column: ListColumn<T>): void {
    const hidden = new Set(this.hidden());
    if (!hidden.delete(column.id)) hidden.add(column.id);
    this.hidden.set(hidden);
    this.remembered.write(this.noun()[1], hidden);
  }

  protected widen(): void {
    this.words.set('');
    this.widened.emit();
  }

  protected sheetOfAll(format: SheetFormat): void {
    this.table.all((rows) => this.sheet(format, rows));
  }

  protected sheet(format: SheetFormat, rows: readonly T[]): void {
    const name = this.noun()[1];
    this.failure.set('');
    sheetOf(format, name, this.visible(), rows).then(
      (blob) => give(blob, `${name.replaceAll(' ', '-')}.${format}`),
      (error: unknown) => this.failure.set(`The sheet could not be made. ${wordsOf(error)}`),
    );
  }

  /** Rows in pages are asked for anew; others are given. */
  refresh(): void {
    this.table.refresh();
  }

  protected chooseAll(on: boolean): void {
    this.table.all((rows) => this.choose(rows, on));
  }

  /** Of what is chosen the newest that is known of it. */
  private keep(rows: readonly T[]): void {
    const [chosen, key] = [untracked(this.chosen), untracked(this.key)];
    for (const row of rows) if (chosen.has(key(row))) this.chosenByKey.set(key(row), row);
  }

  choose(rows: readonly T[], on: boolean): void {
    for (const row of rows) {
      if (on) this.chosenByKey.set(this.key()(row), row);
      else this.chosenByKey.delete(this.key()(row));
    }
    this.chosen.update((before) => {
      const next = new Set(before);
      for (const row of rows) {
        if (on) next.add(this.key()(row));
        else next.delete(this.key()(row));
      }
      return next;
    });
  }

  /** Chooses a row, or with Shift all from the one before to it. */
  protected tick({ index, row }: Slot<T>, on: boolean): void {
    if (row === null) return;
    const from = this.ranging && this.anchor !== null ? this.placeOf(this.anchor) : -1;
    this.ranging = false;
    this.anchor = this.key()(row);
    this.at.set(this.anchor);
    if (from < 0) this.choose([row], on);
    else this.between(from, index, (rows) => this.choose(rows, on));
  }

  /** Gives the rows from one place to another, both among them. */
  private between(a: number, b: number, then: (rows: readonly T[]) => void): void {
    const [from, to] = [Math.min(a, b), Math.max(a, b) + 1];
    const slots = this.table.slots().slice(from, to);
    const rows = slots.flatMap(({ row }) => (row === null ? [] : [row]));
    if (rows.length === slots.length) then(rows);
    else this.table.all((all) => then(all.slice(from, to)));
  }

  private placeOf(key: ListKey | null): number {
    return this.table.slots().findIndex(({ row }) => row !== null && this.key()(row) === key);
  }

  protected leaveSearch(search: HTMLInputElement): void {
    if (search.value === '') search.blur();
    else this.words.set('');
  }

  protected pressed(event: KeyboardEvent): void {
    if (event.defaultPrevented || isElsewhere(event, this.host.nativeElement)) return;
    const leads = this.before === 'g';
    this.before = event.key;
    if (leads) return;
    if (event.key === '/') this.search().nativeElement.focus();
    else if (/^(j|ArrowDown)$/i.test(event.key)) this.go(1, event.shiftKey);
    else if (/^(k|ArrowUp)$/i.test(event.key)) this.go(-1, event.shiftKey);
    else if (event.key === 'x' && this.choosable()) this.here((row) => this.toggle(row));
    else if (event.key === 'Enter') this.here((row) => this.opened.emit(row));
    else return;
    event.preventDefault();
  }

  private toggle(row: T): void {
    this.choose([row], !this.chosen().has(this.key()(row)));
    this.anchor = this.key()(row);
  }

  private here(act: (row: T) => void): void {
    const row = this.table.slots()[this.placeOf(this.at())]?.row;
    if (row) act(row);
  }

  /** To the next row or the one before; `taking` chooses both. */
  private go(by: number, taking: boolean): void {
    if (this.total() === 0) return;
    const from = this.placeOf(this.at());
    const to = from < 0 ? 0 : Math.max(0, Math.min(this.total() - 1, from + by));
    this.table.at(to, (row) => {
      if (taking && this.choosable()) {
        this.between(Math.min(Math.max(from, 0), to), Math.max(from, to), (rows) => this.choose(rows, true));
      }
      this.at.set(this.key()(row));
      this.bringIntoView(to);
    });
  }

  private bringIntoView(index: number): void {
    const viewport = this.viewport();
    const [top, height] = [viewport.measureScrollOffset(), viewport.getViewportSize()];
    const row = index * this.ROW;
    // Head and foot stand over what is behind them.
    if (row < top) viewport.scrollToOffset(row);
    else if (row + 3 * this.ROW > top + height) viewport.scrollToOffset(row + 3 * this.ROW - height);
    afterNextRender(() => this.focusRow(), { injector: this.injector });
  }

  private focusRow(): void {
    this.host.nativeElement
      .querySelector<HTMLElement>(`tr[data-key="${CSS.escape(String(this.at()))}"]`)
      ?.focus({ preventScroll: true });
  }
}
