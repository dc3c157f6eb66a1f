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
import { KIND_LABELS, count, plural, type Course, type Item, type Moment } from '@treenail/core';
import type { ChosenToGo, FurtherState } from '@treenail/server/contract';
import { Subject as Ticks, debounceTime } from 'rxjs';
import { DayField } from '../parts/day-field';
import { House } from '../data/house';
import { Undo } from '../parts/undo';
import { FurtherNote, groupsOf, markOf, type Mark } from './further-note';
import { datedBefore, rowsOf, type Row } from './rows';
import { GoesBy, stateOf, type Group } from './goes-by';
import { MatCheckbox } from '@angular/material/checkbox';

/** Ticks what goes: by item, folder, kind, state and date. What is ticked holds by itself. */
@Component({
  selector: 'tn-what-goes',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [
    CdkFixedSizeVirtualScroll,
    CdkVirtualForOf,
    CdkVirtualScrollViewport,
    DayField,
    FurtherNote,
    GoesBy,
    MatButton,
    MatCheckbox,
  ],
  template: `
    <div class="bar">
      <b>{{ goes() }} of {{ count(course().items.length, 'item') }} go</b>
      <tn-goes-by
        label="Kinds that go"
        [groups]="kinds()"
        [ticked]="ticked()"
        [open]="open()"
        (pressed)="tickMany($event.items, $event.on)"
      />
      @if (hidden().length > 0) {
        <button matButton type="button" class="small" [disabled]="!open()" (click)="tickMany(hidden(), false)">
          untick {{ hidden().length }} hidden
        </button>
      }
      @if (since().length > 0) {
        <tn-goes-by
          label="What goes, by what became of it"
          [groups]="since()"
          [ticked]="ticked()"
          [open]="open()"
          (pressed)="tickMany($event.items, $event.on)"
        />
      }
      <span class="quiet"
        >hidden until
        <tn-day-field label="hidden until" [day]="hiddenDay()" [disabled]="!open()" (dayChange)="hide($event)" />
        @if (hiddenUntil() !== null && open()) {
          <button matButton type="button" class="small" (click)="hide('')">show at once</button>
        }
      </span>
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
    @if (further(); as further) {
      <tn-further-note
        class="panel said before"
        role="note"
        [further]="further"
        [course]="course()"
        [comesAgain]="comesAgain()"
      />
    }
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
        <div
          *cdkVirtualFor="let row of rows(); trackBy: keyOf; templateCacheSize: 0"
          class="line"
          [style.padding-left.px]="12 + row.depth * 18"
        >
          <mat-checkbox
            class="row"
            [class.out]="state(row) === 'none' && !stays(row)"
            [class.stays]="state(row) === 'none' && stays(row)"
            [disabled]="!open() || row.items.length === 0"
            [checked]="state(row) === 'all'"
            [indeterminate]="state(row) === 'some'"
            (change)="tick(row.items, state(row) !== 'all')"
          >
            <span [class.folder]="row.subject.kind === 'folder'">{{ row.subject.title }}</span>
            <span class="quiet">{{
              row.subject.kind === 'folder' ? count(row.items.length, 'item') : labels[row.subject.kind]
            }}</span>
            @if (markOf(row); as mark) {
              <span class="tag" [class.due]="mark.conflict">{{ mark.words }}</span>
            }
          </mat-checkbox>
          @if (markOf(row)?.changed; as item) {
            <button matButton type="button" class="small" (click)="asked.emit(item)">Both versions</button>
          }
        </div>
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
    .before {
      display: block;
      border-color: var(--slate);
    }
    .list {
      flex: 1;
      display: flex;
      min-height: 0;
    }
    cdk-virtual-scroll-viewport {
      flex: 1;
    }
    .line {
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
    .out .quiet,
    .out .tag {
      text-decoration: none;
    }
    .stays .folder,
    .stays span {
      color: var(--quiet);
    }
  `,
})
export class WhatGoes implements OnDestroy {
  readonly course = input.required<Course>();
  readonly leftOut = input.required<readonly string[]>();
  readonly pulledIn = input.required<readonly { item: string; by: string }[]>();
  readonly dangling = input.required<readonly { item: string; to: string; words: string }[]>();
  readonly open = input.required<boolean>();
  readonly hiddenUntil = input<Moment | null>(null);
  /** Of a part that goes where others went before. */
  readonly further = input<FurtherState | null>(null);
  readonly comesAgain = input(false);
  readonly chosen = output<ChosenToGo>();
  /** An item that changed since it went, to be seen as it was and as it is. */
  readonly asked = output<string>();
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

  protected readonly rows = computed(() => rowsOf(this.course()));
  protected readonly kinds = computed((): Group[] => {
    const byKind = new Map<Item['kind'], string[]>();
    for (const { kind, id } of this.course().items) byKind.set(kind, [...(byKind.get(kind) ?? []), id]);
    return [...byKind].map(([kind, items]) => ({ label: plural(KIND_LABELS[kind]), items }));
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
    this.tickMany(datedBefore(this.course(), day, this.house.zone()), false);
  }

  /** What is ticked holds by itself: nobody has to say so once more. */
  private hold(): void {
    if (!this.ahead) return;
    this.ahead = false;
    this.chosen.emit({ leftOut: this.out(), hiddenUntil: this.hiddenUntil() });
  }

  private readonly stands = computed(() => new Map((this.further()?.items ?? []).map((item) => [item.id, item])));
  protected readonly hiddenDay = computed(() => {
    const at = this.hiddenUntil();
    return at?.is === 'day' ? at.on : '';
  });
  protected readonly since = computed((): Group[] => {
    const further = this.further();
    return further ? groupsOf(further) : [];
  });

  protected markOf({ subject }: Row): Mark | null {
    return markOf(subject.item ? this.stands().get(subject.item.id) : undefined);
  }

  /** Whether all that the row stands for went before: not ticked, it stays as it went. */
  protected stays({ items }: Row): boolean {
    const stands = this.stands();
    return items.length > 0 && items.every((id) => (stands.get(id)?.since ?? 'new') !== 'new');
  }

  protected hide(day: string): void {
    this.chosen.emit({ leftOut: this.out(), hiddenUntil: day === '' ? null : { is: 'day', on: day } });
  }

  private titleOf(id: string): string {
    return this.course().items.find((i) => i.id === id)?.title ?? id;
  }
}

/** How long further ticks are waited for. */
const HOLD_MS = 300;
