import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { count, type Course } from '@treenail/core';
import { scaleUtc } from 'd3-scale';
import { datedIn, type DateName, type Dated } from './rows';

const LEFT = 230;
const WIDTH = 1000;
const ROW = 26;
/** Rows that are drawn; a course with more dates is gone through in the outline by date. */
const MOST = 400;

/** The dates of a course on one strip: a line from the day an item opens to the day it closes, a peg where it is due. */
@Component({
  selector: 'tn-date-strip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (rows().length === 0) {
      <p class="quiet none">Nothing in this course bears a date.</p>
    } @else {
      <div class="scroll" role="region" aria-label="Dates">
        <svg [attr.viewBox]="'0 0 ' + width + ' ' + height()" [attr.aria-label]="said()" role="group">
          @for (tick of ticks(); track tick.x) {
            <line class="tick" [attr.x1]="tick.x" [attr.x2]="tick.x" y1="22" [attr.y2]="height()" />
            <text class="when" [attr.x]="tick.x + 4" y="14">{{ tick.words }}</text>
          }
          @if (today(); as x) {
            <line class="today" [attr.x1]="x" [attr.x2]="x" y1="22" [attr.y2]="height()" />
            <text class="now" [attr.x]="x + 4" [attr.y]="height() - 4">today</text>
          }
          @for (row of rows(); track row.key; let i = $index) {
            <g
              role="button"
              tabindex="0"
              [attr.aria-label]="row.words"
              [attr.transform]="'translate(0 ' + (28 + i * rowHeight) + ')'"
              (click)="chosen.emit(row.dated)"
              (keydown.enter)="chosen.emit(row.dated)"
            >
              <rect class="back" x="0" y="0" [attr.width]="width" [attr.height]="rowHeight" />
              <text class="title" x="8" y="17">{{ row.title }}</text>
              @if (row.from !== row.to) {
                <line class="span" [attr.x1]="row.from" [attr.x2]="row.to" y1="13" y2="13" />
              }
              @for (mark of row.marks; track mark.name) {
                <path
                  [attr.class]="mark.name"
                  [attr.d]="shapes[mark.name]"
                  [attr.transform]="'translate(' + mark.x + ' 13)'"
                >
                  <title>{{ mark.name }} {{ mark.words }}</title>
                </path>
                @if (mark.far) {
                  <text
                    class="far"
                    y="17"
                    [attr.x]="mark.x + (mark.x > width / 2 ? -10 : 10)"
                    [attr.text-anchor]="mark.x > width / 2 ? 'end' : 'start'"
                  >
                    {{ mark.words }}
                  </text>
                }
              }
            </g>
          }
        </svg>
      </div>
      <p class="quiet legend">
        <svg viewBox="-7 -7 14 14"><path class="opens" [attr.d]="shapes.opens" /></svg> opens
        <svg viewBox="-7 -7 14 14"><path class="due" [attr.d]="shapes.due" /></svg> due
        <svg viewBox="-7 -7 14 14"><path class="closes" [attr.d]="shapes.closes" /></svg> closes
        <svg viewBox="-7 -7 14 14"><path class="posted" [attr.d]="shapes.posted" /></svg> posted
      </p>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
    }
    .scroll {
      flex: 1;
      overflow: auto;
      min-height: 0;
    }
    .scroll > svg {
      display: block;
      width: 100%;
      min-width: 760px;
    }
    text {
      font: 13px var(--sans);
      fill: var(--ink);
    }
    .when,
    .far,
    .now {
      fill: var(--quiet);
      font-size: 12px;
    }
    .tick {
      stroke: var(--line);
    }
    .today {
      stroke: var(--ochre);
      stroke-dasharray: 3 3;
    }
    .now {
      fill: var(--ochre);
    }
    g {
      cursor: pointer;
    }
    .back {
      fill: transparent;
    }
    g:focus-visible {
      outline: none;
    }
    g:focus-visible .back {
      stroke: var(--spruce);
      stroke-width: 2;
    }
    g:hover .back {
      fill: var(--spruce-pale);
      opacity: 0.6;
    }
    .span {
      stroke: var(--timber);
      stroke-width: 5;
    }
    .opens,
    .closes {
      fill: var(--timber-dark);
    }
    .due {
      fill: var(--spruce);
    }
    .posted {
      fill: none;
      stroke: var(--slate);
      stroke-width: 2;
    }
    .legend {
      display: flex;
      align-items: center;
      gap: 4px;
      margin: 0;
      padding: 4px 12px;
      border-top: 1px solid var(--line);
    }
    .legend svg {
      width: 14px;
      margin-left: 10px;
    }
    .none {
      padding: 12px 16px;
      margin: 0;
    }
  `,
})
export class DateStrip {
  readonly course = input.required<Course>();
  /** Day that counts as today, ISO 8601. */
  readonly now = input(new Date().toISOString());
  readonly chosen = output<Dated>();
  protected readonly width = WIDTH;
  protected readonly rowHeight = ROW;
  protected readonly shapes: Record<DateName, string> = {
    opens: 'M-5 -5L3 0L-5 5z',
    due: 'M-5 0a5 5 0 1 0 10 0a5 5 0 1 0 -10 0z',
    closes: 'M-2 -6h4v12h-4z',
    posted: 'M0 -5L5 0L0 5L-5 0z',
  };
  private readonly dated = computed(() =>
    datedIn(this.course()).sort((a, b) => (a.dates[0]?.time ?? 0) - (b.dates[0]?.time ?? 0)),
  );
  private readonly scale = computed(() => {
    const all = this.dated().flatMap(({ dates }) => dates.map((d) => d.time));
    const [from, to] = mostOf(all);
    const room = Math.max(86_400_000, (to - from) * 0.03);
    return (
      scaleUtc()
        .domain([new Date(from - room), new Date(to + room)])
        .range([LEFT, WIDTH - 16])
        // What lies far off stands at the edge, with its date in words.
        .clamp(true)
    );
  });
  protected readonly height = computed(() => 40 + this.rows().length * ROW);
  protected readonly ticks = computed(() => {
    const scale = this.scale();
    const words = scale.tickFormat(8);
    return scale.ticks(8).map((t) => ({ x: Math.round(scale(t)), words: words(t) }));
  });
  protected readonly today = computed(() => {
    const at = new Date(this.now());
    const [from, to] = this.scale().domain();
    return from && to && at >= from && at <= to ? this.scale()(at) : null;
  });
  protected readonly rows = computed(() => {
    const scale = this.scale();
    return this.dated()
      .slice(0, MOST)
      .map((dated) => {
        const { key, dates } = dated;
        const [first, last] = scale.domain();
        const marks = dates.map((d) => {
          const at = new Date(d.time);
          return {
            name: d.name,
            x: Math.round(scale(at)),
            words: at.toLocaleDateString('en-GB', { dateStyle: 'long', timeZone: 'UTC' }),
            far: first !== undefined && last !== undefined && (at < first || at > last),
          };
        });
        const xs = marks.map((m) => m.x);
        const title = dated.title.length > 32 ? `${dated.title.slice(0, 31)}…` : dated.title;
        const words = `${dated.title}: ${marks.map((m) => `${m.name} ${m.words}`).join(', ')}`;
        return { key, dated, title, words, marks, from: Math.min(...xs), to: Math.max(...xs) };
      });
  });
  protected readonly said = computed(() => `${count(this.dated().length, 'entry', 'entries')} with dates`);
}

/**
 * The stretch that most of the dates lie in, ms: a notice of years ago must not press a term into a corner. Where nine of
 * ten lie within a third of the whole, it is theirs.
 */
export function mostOf(times: readonly number[]): [number, number] {
  const sorted = [...times].sort((a, b) => a - b);
  const [first = 0, last = 0] = [sorted[0], sorted.at(-1)];
  const many = Math.ceil(sorted.length * 0.9);
  let best: [number, number] = [first, last];
  for (let i = 0; i + many <= sorted.length; i++) {
    const [from = first, to = last] = [sorted[i], sorted[i + many - 1]];
    if (to - from < best[1] - best[0]) best = [from, to];
  }
  if ((best[1] - best[0]) * 3 > last - first) return [first, last];
  // What lies near them, within half as much again, belongs to them.
  const near = (best[1] - best[0]) / 2;
  const within = sorted.filter((t) => t >= best[0] - near && t <= best[1] + near);
  return [within[0] ?? first, within.at(-1) ?? last];
}
