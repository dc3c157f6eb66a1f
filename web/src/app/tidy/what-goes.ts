import { CdkFixedSizeVirtualScroll, CdkVirtualForOf, CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  computed,
  inject,
  input,
  linkedSignal,
  output,
  untracked,
  type OnDestroy,
} from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { MatButton } from '@angular/material/button';
import {
  timeOf,
  KIND_LABELS,
  count,
  plural,
  subjects,
  type Course,
  type Item,
  type Moment,
  type Subject,
} from '@treenail/core';
import { Subject as Ticks, debounceTime } from 'rxjs';
import { MatChipListbox, MatChipOption } from '@angular/material/chips';
import { DayField } from '../parts/day-field';
import { House } from '../data/house';
import { startOf } from '../parts/days';
import { Undo } from '../parts/undo';
import { MatCheckbox } from '@angular/material/checkbox';

interface Row {
  subject: Subject;
  depth: number;
  /** Identifiers of the items that the row stands for: its own, or those of its folder. */
  items: readonly string[];
}

/** Ticks what goes: by item, folder, kind, state and date. What is ticked holds by itself. */
@Component({
  selector: 'tn-what-goes',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    CdkFixedSizeVirtualScroll,
    CdkVirtualForOf,
    CdkVirtualScrollViewport,
    DayField,
    MatButton,
    MatCheckbox,
    MatChipListbox,
    MatChipOption,
  ],
  template: `
    <div class="bar">
      <b>{{ goes() }} of {{ count(course().items.length, 'item') }} go</b>
      <mat-chip-listbox multiple aria-label="Kinds that go" [disabled]="!open()">
        @for (kind of kinds(); track kind.kind) {
          <mat-chip-option
            [selected]="kind.state === 'all'"
            (selectionChange)="$event.isUserInput && tickMany(kind.items, kind.state !== 'all')"
          >
            {{ kind.label }} <span>{{ kind.goes }}/{{ kind.items.length }}</span>
          </mat-chip-option>
        }
      </mat-chip-listbox>
      @if (hidden().length > 0) {
        <button matButton type="button" class="small" [disabled]="!open()" (click)="tickMany(hidden(), false)">
          untick {{ hidden().length }} hidden
        </button>
      }
      <span class="quiet"
        >untick what is dated before
        <tn-day-field
          label="untick what is dated before"
          day=""
          [disabled]="!open()"
          (dayChange)="untickBefore($event)"
        />
      </span>
      <span class="acts">
        @if (open() && out().length > 0) {
          <span class="quiet" role="status">{{
            changed() ? 'being held' : count(out().length, 'item') + ' left out'
          }}</span>
          <button matButton="outlined" (click)="tickMany(out(), true)">Let everything go</button>
        }
      </span>
    </div>
    @if (pulledIn().length > 0) {
      <p class="panel said">
        {{ count(pulledIn().length, 'item goes', 'items go') }} all the same, needed by others: {{ pulled() }}.
      </p>
    }
    @if (dangling().length > 0) {
      <p class="panel said">{{ count(dangling().length, 'reference') }} will lead nowhere: {{ danglingWords() }}.</p>
    }
    <div class="panel list">
      <cdk-virtual-scroll-viewport [itemSize]="28" tabindex="0" role="region" aria-label="What goes">
        <mat-checkbox
          *cdkVirtualFor="let row of rows(); trackBy: keyOf; templateCacheSize: 0"
          class="row"
          [class.out]="state(row) === 'none'"
          [style.padding-left.px]="12 + row.depth * 18"
          [disabled]="!open() || row.items.length === 0"
          [checked]="state(row) === 'all'"
          [indeterminate]="state(row) === 'some'"
          (change)="tick(row.items, state(row) !== 'all')"
        >
          <span [class.folder]="row.subject.kind === 'folder'">{{ row.subject.title }}</span>
          <span class="quiet">{{
            row.subject.kind === 'folder' ? count(row.items.length, 'item') : labels[row.subject.kind]
          }}</span>
        </mat-checkbox>
      </cdk-virtual-scroll-viewport>
    </div>
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      gap: 10px;
      min-height: 320px;
    }
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px 8px;
    }
    .bar b {
      margin-right: 6px;
    }
    .acts {
      display: flex;
      gap: 8px;
      margin-left: auto;
    }
    .said {
      margin: 0;
      padding: 8px 12px;
      border-color: var(--ochre);
    }
    .list {
      flex: 1;
      display: flex;
      min-height: 0;
    }
    cdk-virtual-scroll-viewport {
      flex: 1;
    }
    .row {
      display: flex;
      align-items: center;
      gap: 8px;
      height: 28px;
      padding-right: 12px;
      white-space: nowrap;
    }
    .row .quiet {
      margin-left: 8px;
      font-size: 12.5px;
    }
    .folder {
      font-weight: 650;
    }
    .out span {
      color: var(--quiet);
      text-decoration: line-through;
    }
    .out .quiet {
      text-decoration: none;
    }
  `,
})
export class WhatGoes implements OnDestroy {
  readonly course = input.required<Course>();
  readonly leftOut = input.required<readonly string[]>();
  readonly pulledIn = input.required<readonly { item: string; by: string }[]>();
  readonly dangling = input.required<readonly { item: string; to: string; words: string }[]>();
  readonly open = input.required<boolean>();
  readonly leftOutChange = output<readonly string[]>();
  protected readonly labels = KIND_LABELS;
  protected readonly count = count;
  private readonly kept = computed(() => this.leftOut().join('\n'));
  /** Something was ticked since it was held last. */
  private ahead = false;
  private readonly back = inject(Undo);
  private readonly house = inject(House);
  private readonly screen = inject(DestroyRef);
  private readonly ticks = new Ticks<void>();
  /** Identifiers of what goes. */
  protected readonly ticked = linkedSignal<string, ReadonlySet<string>>({
    // What was ticked stays when the same comes again; only another choice that is kept takes its place.
    source: this.kept,
    // Nor does it when something was ticked that is not held yet.
    computation: (_kept, before) => (before && this.ahead ? before.value : untracked(this.asKept)),
  });
  private readonly asKept = computed((): ReadonlySet<string> => {
    const out = new Set(this.leftOut());
    return new Set(this.course().items.flatMap((i) => (out.has(i.id) ? [] : [i.id])));
  });
  protected readonly goes = computed(() => this.ticked().size);
  protected readonly out = computed(() => this.course().items.flatMap((i) => (this.ticked().has(i.id) ? [] : [i.id])));
  protected readonly changed = computed(() => {
    const [now, kept] = [this.ticked(), this.asKept()];
    return now.size !== kept.size || [...now].some((id) => !kept.has(id));
  });

  protected readonly rows = computed((): Row[] =>
    subjects(this.course()).map((subject) => ({
      subject,
      depth: subject.placed?.depth ?? 0,
      items: subject.item ? [subject.item.id] : under(subject),
    })),
  );
  protected readonly kinds = computed(() => {
    const byKind = new Map<Item['kind'], string[]>();
    for (const { kind, id } of this.course().items) byKind.set(kind, [...(byKind.get(kind) ?? []), id]);
    const ticked = this.ticked();
    return [...byKind].map(([kind, items]) => {
      const goes = items.filter((id) => ticked.has(id)).length;
      return {
        kind,
        label: plural(KIND_LABELS[kind]),
        items,
        goes,
        state: stateOf(goes, items.length),
      };
    });
  });
  protected readonly hidden = computed(() =>
    this.course().items.flatMap((i) =>
      this.ticked().has(i.id) && (i.settings.hidden === true || i.settings.audience === 'Instructor') ? [i.id] : [],
    ),
  );
  protected readonly pulled = computed(() =>
    this.pulledIn()
      .slice(0, 5)
      .map(({ item, by }) => `“${this.titleOf(item)}” for “${this.titleOf(by)}”`)
      .join(', '),
  );
  protected readonly danglingWords = computed(() =>
    this.dangling()
      .slice(0, 5)
      .map(({ item, words }) => `“${this.titleOf(item)}” ${words}`)
      .join(', '),
  );

  constructor() {
    // Some ticks after one another are held at once.
    this.ticks.pipe(debounceTime(HOLD_MS), takeUntilDestroyed()).subscribe(() => this.hold());
  }

  /** None is lost when the person goes elsewhere; at this hook outputs can still be heard. */
  ngOnDestroy(): void {
    this.hold();
  }

  protected keyOf(_index: number, row: Row): string {
    return row.subject.key;
  }

  protected state({ items }: Row): 'all' | 'some' | 'none' {
    const ticked = this.ticked();
    return stateOf(items.filter((id) => ticked.has(id)).length, items.length);
  }

  protected tick(items: readonly string[], on: boolean): void {
    this.ticked.update((before) => {
      const after = new Set(before);
      for (const id of items)
        if (on) after.add(id);
        else after.delete(id);
      return after;
    });
    this.ahead = true;
    this.ticks.next();
  }

  /** Ticks many at once, and offers what was ticked before. */
  protected tickMany(items: readonly string[], on: boolean): void {
    const before = this.ticked();
    const many = items.filter((id) => before.has(id) !== on).length;
    this.tick(items, on);
    if (many === 0) return;
    const words = on
      ? `${count(many, 'item goes', 'items go')} again`
      : `${count(many, 'item does', 'items do')} not go`;
    this.back.offer(this.screen, words, () => {
      // Nothing is decided any more once the fit is accepted.
      if (!this.open()) return;
      this.ticked.set(before);
      this.ahead = true;
      this.ticks.next();
    });
  }

  protected untickBefore(day: string): void {
    if (day === '') return;
    const old = this.course().items.filter(({ settings }) => {
      const dates = [settings.opens, settings.due, settings.closes, settings.posted].flatMap((d) => d ?? []);
      return dates.length > 0 && dates.every((date) => isBefore(date, day, this.house.zone()));
    });
    this.tickMany(
      old.map((i) => i.id),
      false,
    );
  }

  /** What is ticked holds by itself: nobody has to say so once more. */
  private hold(): void {
    if (!this.ahead) return;
    this.ahead = false;
    this.leftOutChange.emit(this.out());
  }

  private titleOf(id: string): string {
    return this.course().items.find((i) => i.id === id)?.title ?? id;
  }
}

/** Whether a date lies before a day of the house; what bears no zone is held against the day as it is written. */
function isBefore(date: Moment, day: string, zone: string): boolean {
  const time = timeOf(date);
  const begins = date.is === 'instant' ? startOf(day, zone) : null;
  return time !== null && time < (begins ?? Date.parse(day));
}

/** How long further ticks are waited for. */
const HOLD_MS = 300;

function stateOf(goes: number, all: number): 'all' | 'some' | 'none' {
  return all === 0 || goes === 0 ? 'none' : goes === all ? 'all' : 'some';
}

/** Identifiers of the items below a folder. */
function under({ placed }: Subject): string[] {
  const found: string[] = [];
  const stack = [...(placed?.node.children ?? [])];
  for (let node = stack.pop(); node; node = stack.pop()) {
    if (node.item !== undefined) found.push(node.item);
    stack.push(...node.children);
  }
  return found;
}
