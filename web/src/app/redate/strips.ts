import { CdkDrag, type CdkDragEnd, type CdkDragMove } from '@angular/cdk/drag-drop';
import {
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  ElementRef,
  Injector,
  afterNextRender,
  computed,
  inject,
  input,
  output,
  signal,
} from '@angular/core';
import { dayOf, mondayOf, momentWords, numberOf, type RedateRow, type Term } from '@treenail/core';
import { scaleLinear } from 'd3-scale';
import { linkVertical } from 'd3-shape';

/** A stretch of days that a strip shows. */
export interface Strip {
  name: string;
  says: string;
  /** Days since 1970; the last is the day after. */
  from: number;
  to: number;
  breaks: readonly { name: string; from: number; to: number }[];
}

/** Dates that go from one day to another together: one line between the strips. */
interface Thread {
  key: string;
  was: number | null;
  will: number | null;
  rows: readonly RedateRow[];
  tone: 'fine' | 'said' | 'look' | 'away';
  words: string;
}

const [TOP, STRIP, BETWEEN] = [22, 30, 92];
const LOWER = TOP + STRIP + BETWEEN;
const HEIGHT = LOWER + STRIP + 20;
const SIDE = 14;
const RADIUS = 5;

/** The strip of a term, from its first Monday to the end of its last week. */
export function stripOf(term: Term, says: string): Strip {
  const breaks = term.breaks.map((b) => ({ name: b.name, from: numberOf(b.from), to: numberOf(b.to) + 1 }));
  return { name: term.name, says, from: mondayOf(numberOf(term.from)), to: mondayOf(numberOf(term.to)) + 7, breaks };
}

/** The strip of days in which dates lie, where no term says so; `null` where there are none. */
export function stripAround(days: readonly (number | null)[], says: string): Strip | null {
  const known = days.filter((day) => day !== null).sort((a, b) => a - b);
  const [first, last] = [known[0], known.at(-1)];
  if (first === undefined || last === undefined) return null;
  return { name: '', says, from: mondayOf(first), to: mondayOf(last) + 7, breaks: [] };
}

/**
 * The old term above the new, a line for every date. A dot of the lower strip is dragged to another day, or moved by the arrow
 * keys (a week with Shift); up and down lead to the dots beside it.
 */
@Component({
  selector: 'tn-date-strips',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [CdkDrag],
  template: `
    <svg [attr.viewBox]="'0 0 ' + width() + ' ' + height" [style.height.px]="height" aria-hidden="true">
      <defs>
        <pattern id="tn-hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect class="hatch" width="2" height="6" />
        </pattern>
      </defs>
      @for (strip of drawn(); track strip.top) {
        <text class="name" x="14" [attr.y]="strip.top - 8">
          {{ strip.name }}
          <tspan class="says" dx="14">{{ strip.says }}</tspan>
          <tspan class="says" dx="14">{{ strip.edges }}</tspan>
        </text>
        <rect class="strip" rx="3" [attr.x]="side" [attr.y]="strip.top" [attr.width]="inner()" [attr.height]="thick" />
        @for (pause of strip.breaks; track $index) {
          <rect
            fill="url(#tn-hatch)"
            [attr.x]="pause.x"
            [attr.y]="strip.top"
            [attr.width]="pause.width"
            [attr.height]="thick"
          />
          @if (pause.width > 44) {
            <text class="pause" text-anchor="middle" [attr.x]="pause.x + pause.width / 2" [attr.y]="strip.top + 19">
              {{ pause.name }}
            </text>
          }
        }
        @for (week of strip.weeks; track week.x) {
          <line
            class="week"
            [attr.x1]="week.x"
            [attr.x2]="week.x"
            [attr.y1]="strip.top"
            [attr.y2]="strip.top + thick"
          />
          @if (week.words) {
            <text class="when" [attr.x]="week.x + 3" [attr.y]="strip.top + thick + 13">{{ week.words }}</text>
          }
        }
      }
      @for (thread of threads(); track thread.key) {
        <g [class]="thread.tone" [class.at]="thread.key === at()">
          <path class="thread" [attr.d]="line(thread)" />
          @if (thread.was !== null) {
            <circle r="5" [attr.cx]="upper(thread.was)" [attr.cy]="upperDot" />
          }
        </g>
      }
    </svg>
    @for (thread of movable(); track thread.key; let i = $index) {
      <div
        cdkDrag
        cdkDragLockAxis="x"
        role="slider"
        [class]="'dot ' + thread.tone"
        [attr.tabindex]="i === focusable() ? 0 : -1"
        [attr.data-key]="thread.key"
        [attr.aria-label]="thread.words"
        [attr.aria-valuenow]="thread.will"
        [attr.aria-valuetext]="dayWords(thread.will ?? 0)"
        [style.left.px]="lower(thread.will ?? 0) - radius"
        [style.top.px]="lowerDot - radius"
        [title]="thread.words"
        [cdkDragDisabled]="disabled()"
        [cdkDragFreeDragPosition]="still"
        (cdkDragMoved)="drag(thread, $event)"
        (cdkDragEnded)="drop(thread, $event)"
        (focus)="at.set(thread.key)"
        (click)="chosen.emit(thread.rows)"
        (keydown)="key(thread, $event)"
      ></div>
    }
    @if (told(); as words) {
      <div class="told" role="status">{{ words }}</div>
    }
  `,
  styleUrl: './strips.scss',
})
export class DateStrips {
  readonly rows = input.required<readonly RedateRow[]>();
  readonly before = input.required<Strip>();
  readonly after = input.required<Strip>();
  readonly disabled = input(false);
  /** Dates are moved by so many days. */
  readonly moved = output<{ rows: readonly RedateRow[]; by: number }>();
  readonly chosen = output<readonly RedateRow[]>();

  private readonly injector = inject(Injector);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  protected readonly side = SIDE;
  protected readonly thick = STRIP;
  protected readonly height = HEIGHT;
  protected readonly radius = RADIUS;
  protected readonly upperDot = TOP + STRIP / 2;
  protected readonly lowerDot = LOWER + STRIP / 2;
  /** What is dragged stands where its day is once it is let go. */
  protected readonly still = { x: 0, y: 0 };
  protected readonly width = signal(1000);
  protected readonly inner = computed(() => this.width() - 2 * SIDE);
  protected readonly at = signal('');
  /** The dot that is being dragged, and by how many days. */
  private readonly dragged = signal<{ key: string; by: number } | null>(null);
  /** Both strips are as long as the longer, so that a week is as wide in one as in the other. */
  private readonly days = computed(() => Math.max(length(this.before()), length(this.after()), 7));
  private readonly upperScale = computed(() => this.scaleOf(this.before()));
  private readonly lowerScale = computed(() => this.scaleOf(this.after()));
  protected readonly threads = computed(() => threadsOf(this.rows()));
  protected readonly movable = computed(() => this.threads().filter((thread) => thread.will !== null));
  /** The one dot that Tab comes to. */
  protected readonly focusable = computed(() =>
    Math.max(
      0,
      this.movable().findIndex((thread) => thread.key === this.at()),
    ),
  );
  protected readonly drawn = computed(() => [
    { ...this.drawnOf(this.before(), this.upperScale(), 'wasDay'), top: TOP },
    { ...this.drawnOf(this.after(), this.lowerScale(), 'willDay'), top: LOWER },
  ]);
  protected readonly told = computed(() => {
    const dragged = this.dragged();
    const thread = dragged && this.threads().find((t) => t.key === dragged.key);
    return !dragged || thread?.will == null ? '' : `${thread.words}, then ${this.dayWords(thread.will + dragged.by)}`;
  });

  constructor() {
    const destroy = inject(DestroyRef);
    afterNextRender(() => {
      const watch = new ResizeObserver(([entry]) => {
        if (entry) this.width.set(Math.max(320, Math.round(entry.contentRect.width)));
      });
      watch.observe(this.host.nativeElement);
      destroy.onDestroy(() => watch.disconnect());
    });
  }

  private scaleOf({ from }: Strip) {
    return scaleLinear()
      .domain([from, from + this.days()])
      .range([SIDE, SIDE + this.inner()])
      .clamp(true);
  }

  /** The middle of a day. */
  protected upper(day: number): number {
    return this.upperScale()(day + 0.5);
  }

  protected lower(day: number): number {
    return this.lowerScale()(day + 0.5);
  }

  protected dayWords(day: number): string {
    return momentWords({ is: 'day', on: dayOf(day) });
  }

  protected line({ key, was, will }: Thread): string {
    const dragged = this.dragged();
    const by = dragged?.key === key ? dragged.by : 0;
    if (was === null || will === null) return '';
    const path = linkVertical<unknown, [number, number]>();
    const source: [number, number] = [this.upper(was), this.upperDot + RADIUS];
    const target: [number, number] = [this.lower(will + by), this.lowerDot - RADIUS];
    return path({ source, target }) ?? '';
  }

  private drawnOf(strip: Strip, scale: (day: number) => number, of: 'wasDay' | 'willDay') {
    const weeks = Array.from({ length: Math.floor(length(strip) / 7) + 1 }, (_, i) => strip.from + i * 7);
    // A week's first day is written where it has room for it.
    const every = Math.ceil(64 / Math.max(1, scale(strip.from + 7) - scale(strip.from)));
    const outside = (is: (day: number) => boolean) =>
      this.rows().filter((row) => row[of] !== null && is(row[of])).length;
    const earlier = outside((day) => day < strip.from);
    const later = outside((day) => day >= strip.from + this.days());
    return {
      name: strip.name,
      says: strip.says,
      weeks: weeks.map((day, i) => ({
        x: scale(day),
        words: i % every === 0 && i < weeks.length - 1 ? readable(day) : '',
      })),
      breaks: strip.breaks.map(({ name, from, to }) => ({ name, x: scale(from), width: scale(to) - scale(from) })),
      edges: [earlier > 0 ? `‹ ${earlier} before it` : '', later > 0 ? `${later} after it ›` : '']
        .filter(Boolean)
        .join('   '),
    };
  }

  private daysIn(pixels: number): number {
    return Math.round((pixels / this.inner()) * this.days());
  }

  protected drag({ key }: Thread, { distance }: CdkDragMove): void {
    this.dragged.set({ key, by: this.daysIn(distance.x) });
  }

  protected drop(thread: Thread, { distance, source }: CdkDragEnd): void {
    this.dragged.set(null);
    source.reset();
    this.move(thread, this.daysIn(distance.x));
  }

  private move({ rows }: Thread, by: number): void {
    if (by !== 0 && !this.disabled()) this.moved.emit({ rows, by });
  }

  protected key(thread: Thread, event: KeyboardEvent): void {
    const step = event.shiftKey ? 7 : 1;
    if (event.key === 'ArrowLeft') this.step(thread, -step);
    else if (event.key === 'ArrowRight') this.step(thread, step);
    else if (event.key === 'ArrowUp') this.go(-1);
    else if (event.key === 'ArrowDown') this.go(1);
    else if (event.key === 'Enter') this.chosen.emit(thread.rows);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  /** The dot is another once its day is: it stays the one that is stood on. */
  private step(thread: Thread, by: number): void {
    if (this.disabled() || thread.will === null) return;
    this.move(thread, by);
    const row = thread.rows[0];
    afterNextRender(
      () => {
        const now = this.movable().find((t) => t.rows.some((r) => r.key === row?.key));
        if (now) this.focus(now.key);
      },
      { injector: this.injector },
    );
  }

  private go(by: number): void {
    const next = this.movable()[this.focusable() + by];
    if (next) this.focus(next.key);
  }

  private focus(key: string): void {
    this.at.set(key);
    this.host.nativeElement.querySelector<HTMLElement>(`.dot[data-key="${CSS.escape(key)}"]`)?.focus();
  }
}

const length = ({ from, to }: Strip) => to - from;

const SHORT = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' });
const readable = (day: number) => SHORT.format(day * 86_400_000).replace('Sept', 'Sep');

function toneOf(row: RedateRow): Thread['tone'] {
  if (row.state === 'away') return 'away';
  if (row.notes.some((note) => note.weight === 'look')) return 'look';
  return row.notes.length > 0 ? 'said' : 'fine';
}

/** Dates that are drawn as one, those of the earliest day first. */
export function threadsOf(rows: readonly RedateRow[]): Thread[] {
  const found = new Map<string, { row: RedateRow; rows: RedateRow[] }>();
  for (const row of rows) {
    if (row.words || row.wasDay === null) continue;
    // What was set by hand goes its own way.
    const key = `${row.wasDay} ${row.willDay ?? ''} ${toneOf(row)}${row.byHand ? ` ${row.key}` : ''}`;
    const thread = found.get(key);
    if (thread) thread.rows.push(row);
    else found.set(key, { row, rows: [row] });
  }
  return [...found]
    .map(([key, { row, rows: all }]) => ({
      key,
      was: row.wasDay,
      will: row.willDay,
      rows: all,
      tone: toneOf(row),
      words: all.length === 1 ? `${row.title}, ${row.name}` : `${row.title}, ${row.name}, and ${all.length - 1} more`,
    }))
    .sort((a, b) => (a.will ?? a.was ?? 0) - (b.will ?? b.was ?? 0));
}
