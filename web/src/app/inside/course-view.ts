import { CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import {
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  input,
  linkedSignal,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { KIND_LABELS, count, plural, type Course, type Item, type Note } from '@treenail/core';
import type { InventoryAnswer, TextSearchAnswer } from '@treenail/server/contract';
import { EMPTY, delay, of, switchMap } from 'rxjs';
import { Awaited, lastOf } from '../parts/awaited';
import { SizePipe } from '../parts/words';
import { DateStrip } from './date-strip';
import { Facts } from './facts';
import { InventoryView } from './inventory-view';
import { ReadingPane } from './reading-pane';
import { ORDERS, rowsOf, type Order, type Row, type Dated } from './rows';
import type { InsideSource } from './source';
import { MatButtonToggle, MatButtonToggleGroup } from '@angular/material/button-toggle';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatIcon } from '@angular/material/icon';
import { MatChipListbox, MatChipOption } from '@angular/material/chips';
import { MatFormField } from '@angular/material/form-field';
import { MatInput } from '@angular/material/input';
import { MatOption, MatSelect } from '@angular/material/select';

/** What is in a package: the outline beside a reading pane, searched and gone through in many orders; its numbers and dates. */
@Component({
  selector: 'tn-course-view',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    Awaited,
    CdkFixedSizeVirtualScroll,
    CdkVirtualForOf,
    CdkVirtualScrollViewport,
    DateStrip,
    Facts,
    InventoryView,
    MatButton,
    MatButtonToggle,
    MatButtonToggleGroup,
    MatChipListbox,
    MatChipOption,
    MatFormField,
    MatIcon,
    MatIconButton,
    MatInput,
    MatOption,
    MatSelect,
    ReadingPane,
    SizePipe,
  ],
  templateUrl: './course-view.html',
  styleUrl: './course-view.scss',
})
export class CourseView {
  readonly course = input.required<Course>();
  readonly inventory = input.required<InventoryAnswer>();
  readonly notes = input.required<readonly Note[]>();
  readonly source = input.required<InsideSource>();
  /** Identifier of the item to open with. */
  readonly first = input<string>();
  protected readonly kinds = KIND_LABELS as Record<string, string>;
  protected readonly count = count;
  protected readonly plural = plural;
  protected readonly orders = Object.entries(ORDERS) as [Order, string][];
  protected readonly shows = signal<'outline' | 'inventory' | 'dates'>('outline');
  protected readonly order = signal<Order>('place');
  protected readonly only = signal<string | null>(null);
  protected readonly showNotes = signal(false);
  private readonly closed = signal<ReadonlySet<string>>(new Set());
  protected readonly related = rxResource({
    params: () => ({ source: this.source(), course: this.course() }),
    stream: ({ params }) => params.source.relations(),
  });
  protected readonly relations = lastOf(this.related);
  protected readonly rows = computed(() =>
    rowsOf(this.course(), {
      order: this.order(),
      only: this.only(),
      closed: this.closed(),
      relations: this.relations(),
    }),
  );
  private readonly viewport = viewChild<CdkVirtualScrollViewport>('outline');

  /** What is searched for; less than two letters are found everywhere. */
  protected readonly question = signal('');
  protected readonly searching = computed(() => this.question().trim().length >= 2);
  protected readonly found = rxResource({
    params: () => (this.searching() ? { question: this.question().trim(), source: this.source() } : undefined),
    stream: ({ params }) =>
      params
        ? of(params).pipe(
            delay(60),
            switchMap((p) => p.source.search(p.question)),
          )
        : EMPTY,
  });
  /** The last answer stays while the next is looked for. */
  private readonly answered = linkedSignal<TextSearchAnswer | null, TextSearchAnswer | null>({
    source: () => (this.found.hasValue() ? this.found.value() : null),
    computation: (now, before) => now ?? before?.value ?? null,
  });
  protected readonly hits = computed(() => {
    const only = this.only();
    return (this.answered()?.hits ?? [])
      .filter((h) => only === null || h.kind === only)
      .map((hit) => ({ ...hit, pieces: hit.excerpt ? piecesOf(hit.excerpt) : [] }));
  });
  protected readonly total = computed(() => this.answered()?.total ?? 0);
  protected readonly marked = computed(() => (this.searching() ? this.question().trim() : ''));

  /** Stays with its item when the same course comes again with more known of it, until another is asked for. */
  protected readonly chosen = linkedSignal<{ course: Course; first: string | undefined }, Item | null>({
    source: () => ({ course: this.course(), first: this.first() }),
    computation: ({ course, first }, previous) => {
      const at = previous && previous.source.first === first ? previous.value?.id : undefined;
      const wanted = course.items.find((i) => i.id === (at ?? first));
      return wanted ?? untracked(() => this.rows()).find((r) => r.item?.kind === 'page')?.item ?? null;
    },
  });

  /** The folder or further place of which what is set is shown; gone once an item is opened. */
  protected readonly place = linkedSignal<Item | null, Row['place']>({ source: this.chosen, computation: () => null });

  /** What of students is in it, in words. */
  protected readonly personal = computed(() => {
    const found = this.course().personal;
    if (!found) return '';
    const { people, submissions, grades, posts, files } = found;
    return [
      people && count(people, 'person', 'people'),
      submissions && count(submissions, 'submission'),
      grades && count(grades, 'grade'),
      posts && count(posts, 'post'),
      files.length > 0 && count(files.length, 'file'),
    ]
      .filter(Boolean)
      .join(', ');
  });

  constructor() {
    // What is asked for by an address is looked for in the list too.
    effect(() => {
      const viewport = this.viewport();
      const id = this.first();
      if (!viewport || id === undefined) return;
      const at = untracked(() => this.rows()).findIndex((r) => r.item?.id === id);
      if (at > 8) viewport.scrollToIndex(at - 4);
    });
  }

  protected narrow(kind: string | null): void {
    this.only.set(kind);
    this.shows.set('outline');
  }

  protected choose({ item, place }: Row): void {
    this.chosen.set(item);
    this.place.set(place);
  }

  protected isAt({ item, place }: Row): boolean {
    const shown = this.place();
    return shown ? shown === place : item !== null && item.id === this.chosen()?.id;
  }

  protected fold({ key }: Row): void {
    this.closed.update((before) => {
      const after = new Set(before);
      if (!after.delete(key)) after.add(key);
      return after;
    });
  }

  protected open(id: string): void {
    const item = this.course().items.find((i) => i.id === id);
    if (!item) return;
    this.shows.set('outline');
    this.chosen.set(item);
  }

  protected openDated({ item, place }: Dated): void {
    this.shows.set('outline');
    this.chosen.set(item);
    this.place.set(place);
  }

  /** A row stays the same element while the list around it changes: a click meant for it lands on it. */
  protected keyOfRow(_index: number, row: Row): string {
    return row.key;
  }

  protected keyOfHit(_index: number, hit: { item: string }): string {
    return hit.item;
  }
}

/** An excerpt in pieces, those that were searched for marked. */
function piecesOf({ text, marks }: { text: string; marks: readonly (readonly [number, number])[] }) {
  const pieces: { text: string; mark: boolean }[] = [];
  let at = 0;
  for (const [start, end] of marks) {
    if (start < at) continue;
    pieces.push({ text: text.slice(at, start), mark: false }, { text: text.slice(start, end), mark: true });
    at = end;
  }
  pieces.push({ text: text.slice(at), mark: false });
  return pieces.filter((p) => p.text !== '');
}
