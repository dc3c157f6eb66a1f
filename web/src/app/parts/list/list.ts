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
  inject,
  input,
  linkedSignal,
  model,
  output,
  signal,
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
import { wordsOf } from '../../data/api';
import { inAddress } from './address';
import { compareValues, readIn, type ListColumn } from './column';
import { ListCell } from './list-cell';
import { rememberedColumns } from './remembered';
import { give, sheetOf, type SheetFormat } from './sheet';
import { Slash } from './slash';
import { isElsewhere } from './typing';

export type ListKey = number | string;

/**
 * Every list of things: a filter (`/`), rows by the keyboard (`j` `k` or arrows, `x` chooses, Shift takes all between,
 * `Enter` opens), sorted by a header, with columns to choose, totals at the foot, and what is shown as CSV or XLSX. Only
 * the rows in view are drawn. Filter and order stand in the address.
 */
@Component({
  selector: 'tn-list',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
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
export class List<T> {
  /** Of one row and of many: `['kept copy', 'kept copies']`. */
  readonly noun = input.required<readonly [string, string]>();
  readonly rows = input.required<readonly T[]>();
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
  protected readonly hasFoot = computed(() => this.columns().some((c) => c.foot));
  private readonly texts = computed(() => {
    const [columns, beside] = [this.visible(), this.beside()];
    return new Map(
      this.rows().map((row) => [
        row,
        `${columns.map((c) => readIn(c, row)).join(' ')} ${this.named()(row)} ${beside(row)}`.toLowerCase(),
      ]),
    );
  });
  /** What is shown, in its order. */
  readonly sorted = computed((): T[] => {
    const words = this.words().toLowerCase().split(/\s+/).filter(Boolean);
    const { by, down } = this.order();
    const column = this.columns().find((c) => c.id === by);
    const texts = this.texts();
    const fitting = this.rows().filter((row) => words.every((word) => texts.get(row)?.includes(word)));
    return column ? fitting.sort((a, b) => compareValues(column.value(a), column.value(b), down)) : fitting;
  });
  protected readonly chosenRows = computed(() => this.rows().filter((row) => this.chosen().has(this.key()(row))));
  protected readonly someChosen = computed(() => this.sorted().some((row) => this.chosen().has(this.key()(row))));
  protected readonly allChosen = computed(
    () => this.sorted().length > 0 && this.sorted().every((row) => this.chosen().has(this.key()(row))),
  );
  protected readonly counted = computed(() => {
    const shown = `${this.sorted().length} shown`;
    return this.chosen().size === 0 ? shown : `${shown}, ${this.chosen().size} chosen`;
  });
  protected readonly track = (_: number, row: T) => this.key()(row);
  protected readonly read = readIn;
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
    afterNextRender(() => {
      // How many rows there is room for is known once the page is laid out, and changes with it.
      const watch = new ResizeObserver(() => this.viewport().checkViewportSize());
      watch.observe(this.viewport().elementRef.nativeElement);
      destroy.onDestroy(() => watch.disconnect());
    });
  }

  protected many(n: number): string {
    return count(n, ...this.noun());
  }

  protected cellOf(id: string) {
    return this.cells().find((cell) => cell.tnCell() === id)?.template ?? null;
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

  protected sheet(format: SheetFormat, rows: readonly T[]): void {
    const name = this.noun()[1];
    this.failure.set('');
    sheetOf(format, name, this.visible(), rows).then(
      (blob) => give(blob, `${name.replaceAll(' ', '-')}.${format}`),
      (error: unknown) => this.failure.set(`The sheet could not be made. ${wordsOf(error)}`),
    );
  }

  choose(rows: readonly T[], on: boolean): void {
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
  protected tick(row: T, on: boolean): void {
    const key = this.key()(row);
    this.choose(this.ranging ? this.between(this.anchor, key) : [row], on);
    this.ranging = false;
    this.anchor = key;
    this.at.set(key);
  }

  private between(from: ListKey | null, to: ListKey): T[] {
    const keys = this.sorted().map(this.key());
    const [a, b] = [keys.indexOf(from ?? to), keys.indexOf(to)];
    return this.sorted().slice(a < 0 ? b : Math.min(a, b), Math.max(a, b) + 1);
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
    const row = this.sorted().find((r) => this.key()(r) === this.at());
    if (row !== undefined) act(row);
  }

  /** To the next row or the one before; `taking` chooses both. */
  private go(by: number, taking: boolean): void {
    const rows = this.sorted();
    const from = rows.findIndex((row) => this.key()(row) === this.at());
    const to = from < 0 ? 0 : Math.max(0, Math.min(rows.length - 1, from + by));
    const row = rows[to];
    if (row === undefined) return;
    if (taking && this.choosable())
      this.choose(rows.slice(Math.min(Math.max(from, 0), to), Math.max(from, to) + 1), true);
    this.at.set(this.key()(row));
    this.bringIntoView(to);
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
