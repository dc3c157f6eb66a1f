import { computed, signal } from '@angular/core';
import { Subscription, from, mergeMap, of, tap, type Observable } from 'rxjs';
import type { Asked } from '../awaited';
import { compareValues, readIn, type ListColumn } from './column';

/** What part of a list is asked for. */
export interface ListAsked {
  /** Each of these words must stand in a row. */
  readonly words: string;
  /** A column, with a `-` before it where the greatest come first; '' for the order they are given in. */
  readonly sort: string;
  readonly offset: number;
  readonly limit: number;
}

export interface ListPage<T> {
  /** From the offset on; a source that has all of them may give more than was asked. */
  readonly rows: readonly T[];
  /** How many fit in all. */
  readonly total: number;
  /** By column, what stands at the foot of all that fit. */
  readonly foot?: Readonly<Record<string, string>>;
}

/** Whoever filters and sorts: the server in pages, or `here` all at once. */
export type ListSource<T> = (asked: ListAsked) => Observable<ListPage<T>>;

/** A place in the list, and its row once that has come. */
export interface Slot<T> {
  readonly index: number;
  readonly row: T | null;
}

/** Rows that are all here. `textOf` is what a row's words are looked for in. */
export function here<T>(
  rows: readonly T[],
  columns: readonly ListColumn<T>[],
  textOf: (row: T) => string,
): ListSource<T> {
  const texts = new Map(rows.map((row) => [row, textOf(row).toLowerCase()]));
  return ({ words, sort }) => {
    const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
    const fitting = rows.filter((row) => wanted.every((word) => texts.get(row)?.includes(word)));
    const column = columns.find((c) => c.id === sort.replace(/^-/, ''));
    if (column) fitting.sort((a, b) => compareValues(column.value(a), column.value(b), sort.startsWith('-')));
    const foot = Object.fromEntries(
      columns.flatMap((c) => (typeof c.foot === 'function' ? [[c.id, c.foot(fitting)]] : [])),
    );
    return of({ rows: fitting, total: fitting.length, foot });
  };
}

/** The words of a row in these columns. */
export function wordsIn<T>(columns: readonly ListColumn<T>[], row: T): string {
  return columns.map((c) => readIn(c, row)).join(' ');
}

const PAGE = 100;
/** Rows that are asked for at once where all are wanted. */
const MANY = 1000;
const AT_ONCE = 3;

/**
 * The rows of a list, asked for in pages as they come into view. Where they are asked for anew, or in another order, what
 * stood stays until the first answer.
 */
export class Rows<T> implements Asked {
  readonly slots = signal<readonly Slot<T>[]>([]);
  readonly foot = signal<Readonly<Record<string, string>>>({});
  readonly error = signal<unknown>(null);
  /** What is shown is of another order or another choice than was asked for last. */
  readonly stale = signal(false);
  /** Whether all are being read, for what needs them all. */
  readonly gathering = signal(false);
  readonly here = computed(() => this.slots().flatMap(({ row }) => (row === null ? [] : [row])));
  readonly whole = computed(() => this.here().length === this.slots().length);
  private readonly answered = signal(false);
  private readonly underway = signal(0);
  private source: ListSource<T> | null = null;
  private order: Pick<ListAsked, 'words' | 'sort'> = { words: '', sort: '' };
  /** Pages that are here as they are now, or asked for. */
  private readonly pages = new Set<number>();
  private requests = new Subscription();
  /** Who waits for all rows. */
  private waiting: ((rows: readonly T[]) => void)[] = [];
  private another = true;
  private inView = { start: 0, end: 1 };
  private readonly came: (rows: readonly T[]) => void;

  /** `came` is told of rows as they come. */
  constructor(came: (rows: readonly T[]) => void = () => undefined) {
    this.came = came;
  }

  hasValue(): boolean {
    return this.answered();
  }

  isLoading(): boolean {
    return this.underway() > 0;
  }

  reload(): boolean {
    this.refresh();
    return true;
  }

  /** Shows what a source gives of these words in this order, from its first row on. */
  show(source: ListSource<T>, words: string, sort: string): void {
    this.source = source;
    this.order = { words, sort };
    this.another = true;
    this.stale.set(this.answered());
    this.begin();
    this.need(0);
  }

  /** Asks anew for what is in view; the rest is asked for when it comes into view. */
  refresh(): void {
    const waiting = this.waiting;
    this.begin();
    this.look();
    // Whoever waits for all of them waits on: the choice and the order are the same.
    for (const then of waiting) this.all(then);
  }

  /** These rows are in view, the last one not among them. */
  view(start: number, end: number): void {
    this.inView = { start, end };
    if (!this.another) this.look();
  }

  /** Gives the row at a place, at once where it is here. */
  at(index: number, then: (row: T) => void): void {
    const row = this.slots()[index]?.row;
    if (row) {
      then(row);
      return;
    }
    if (!this.source) return;
    this.requests.add(
      this.ask(this.source, index - (index % PAGE), PAGE).subscribe({
        next: () => {
          const came = this.slots()[index]?.row;
          if (came) then(came);
        },
        error: (error: unknown) => this.error.set(error),
      }),
    );
  }

  /** Gives all that fit, at once where they are here. */
  all(then: (rows: readonly T[]) => void): void {
    const missing = this.missing();
    const { source } = this;
    if (missing.length === 0 || !source) {
      then(this.here());
      return;
    }
    this.gathering.set(true);
    this.waiting.push(then);
    this.requests.add(
      from(missing)
        .pipe(mergeMap((offset) => this.ask(source, offset, MANY), AT_ONCE))
        .subscribe({
          error: (error: unknown) => {
            this.noLonger(then);
            this.error.set(error);
          },
          complete: () => {
            this.noLonger(then);
            then(this.here());
          },
        }),
    );
  }

  private noLonger(then: (rows: readonly T[]) => void): void {
    this.waiting = this.waiting.filter((one) => one !== then);
    this.gathering.set(this.waiting.length > 0);
  }

  end(): void {
    this.requests.unsubscribe();
  }

  private begin(): void {
    this.requests.unsubscribe();
    this.requests = new Subscription();
    this.pages.clear();
    this.waiting = [];
    this.underway.set(0);
    this.gathering.set(false);
    this.error.set(null);
  }

  private look(): void {
    const last = Math.max(0, Math.floor((this.inView.end - 1) / PAGE));
    for (let page = Math.floor(this.inView.start / PAGE); page <= last; page++) this.need(page);
  }

  private need(page: number): void {
    if (this.pages.has(page) || !this.source) return;
    this.pages.add(page);
    this.requests.add(
      this.ask(this.source, page * PAGE, PAGE).subscribe({
        error: (error: unknown) => {
          this.pages.delete(page);
          this.error.set(error);
        },
      }),
    );
  }

  /** Where more of what is missing begins, in steps of many. */
  private missing(): number[] {
    const offsets: number[] = [];
    for (let offset = 0; offset < this.slots().length; offset += MANY) {
      const pages = Array.from({ length: MANY / PAGE }, (_, i) => offset / PAGE + i);
      if (pages.some((page) => page * PAGE < this.slots().length && !this.isHere(page))) offsets.push(offset);
    }
    return offsets;
  }

  private isHere(page: number): boolean {
    return this.pages.has(page) && this.slots()[page * PAGE]?.row !== null;
  }

  private ask(source: ListSource<T>, offset: number, limit: number): Observable<ListPage<T>> {
    this.underway.update((n) => n + 1);
    const done = () => this.underway.update((n) => Math.max(0, n - 1));
    return source({ ...this.order, offset, limit }).pipe(
      tap({
        next: (page) => {
          done();
          this.take(offset, page);
        },
        error: done,
      }),
    );
  }

  private take(offset: number, { rows, total, foot }: ListPage<T>): void {
    const next = this.another ? [] : this.slots().slice(0, total);
    for (let index = next.length; index < total; index++) next.push({ index, row: null });
    rows.forEach((row, i) => (next[offset + i] = { index: offset + i, row }));
    const end = offset + rows.length;
    for (let page = Math.ceil(offset / PAGE); page * PAGE < end; page++) this.pages.add(page);
    const wasAnother = this.another;
    this.another = false;
    this.stale.set(false);
    this.slots.set(next);
    this.foot.set(foot ?? {});
    this.error.set(null);
    this.answered.set(true);
    this.came(rows);
    if (wasAnother) this.look();
  }
}
