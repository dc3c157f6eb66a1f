import {
  ChangeDetectionStrategy,
  Component,
  ElementRef,
  afterRenderEffect,
  computed,
  effect,
  input,
  model,
  signal,
  viewChild,
  type OnDestroy,
} from '@angular/core';
import {
  KIND_LABELS,
  foldJoint,
  type DrawnPeg,
  type FoldedJoint,
  type Joint,
  type JointRow,
  type Outcome,
} from '@treenail/core';
import { select } from 'd3-selection';
import { linkHorizontal } from 'd3-shape';
import { OUTCOME_COLOURS } from '../parts/peg';
import { MatButton, MatIconButton } from '@angular/material/button';
import { MatIcon } from '@angular/material/icon';

export const ROW = 26;
const WIDTH = 150;
/** Rows drawn beyond the visible ones, so that a quick scroll shows no gap. */
const MARGIN = 12;

interface ShownRow extends JointRow {
  top: number;
  holds: number;
  closed: boolean;
  line: number | null;
}

interface Mark {
  key: string;
  path: string;
  x: number;
  y: number;
  outcome: Outcome;
  count: number;
  line: number;
  dashed: boolean;
}

/** The mark of an outcome around (0, 0), as in `tn-peg`. */
const MARKS: Record<Outcome, string> = {
  whole: 'M-4.5 0a4.5 4.5 0 1 0 9 0a4.5 4.5 0 1 0 -9 0z',
  reworked: 'M0 -5a5 5 0 0 0 0 10z',
  'left behind': 'M2.8 -4a5 5 0 1 1 -5.6 0',
  extra: 'M0 -6 6 0 0 6 -6 0z',
  unsure: 'M-4.5 0a4.5 4.5 0 1 0 9 0a4.5 4.5 0 1 0 -9 0z',
};

/**
 * Two outlines face each other, and a peg line joins each row with what became of it. Only what is in view is drawn,
 * so ten thousand rows scroll like ten.
 */
@Component({
  selector: 'tn-joint',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton, MatIcon, MatIconButton],
  templateUrl: './joint.html',
  styleUrl: './joint.scss',
})
export class JointView implements OnDestroy {
  readonly joint = input.required<Joint>();
  readonly leftName = input.required<string>();
  readonly rightName = input.required<string>();
  /** What the two sides are, where they are no before and after. */
  readonly sides = input<readonly [left: string, right: string] | null>(null);
  protected readonly heads = computed(
    () => this.sides() ?? (['As it was', this.pale() ? 'As it will be' : 'As it is now'] as const),
  );
  /** A forecast is drawn pale, a check solid. */
  readonly pale = input(false);
  /** Index of the chosen line. */
  readonly chosen = model<number | null>(null);

  protected readonly width = WIDTH;
  protected readonly kinds = KIND_LABELS;
  private readonly scroller = viewChild.required<ElementRef<HTMLElement>>('scroller');
  private readonly canvas = viewChild.required<ElementRef<SVGSVGElement>>('canvas');
  private readonly closed = signal<{ left: ReadonlySet<string>; right: ReadonlySet<string> }>({
    left: new Set(),
    right: new Set(),
  });
  private readonly view = signal({ top: 0, height: 600 });
  private readonly folded = computed(() => foldJoint(this.joint(), this.closed()));
  protected readonly height = computed(() => Math.max(this.folded().left.length, this.folded().right.length) * ROW);
  private readonly range = computed(() => {
    const { top, height } = this.view();
    return { from: Math.max(0, Math.floor(top / ROW) - MARGIN), to: Math.ceil((top + height) / ROW) + MARGIN };
  });
  private readonly lineOf = computed(() => {
    const left = new Map<number, number>();
    const right = new Map<number, number>();
    for (const peg of this.folded().pegs) {
      if (peg.left !== null && !left.has(peg.left)) left.set(peg.left, peg.line);
      if (peg.right !== null && !right.has(peg.right)) right.set(peg.right, peg.line);
    }
    return { left, right };
  });
  protected readonly leftRows = computed(() => this.inView(this.folded().left, this.closed().left, this.lineOf().left));
  protected readonly rightRows = computed(() =>
    this.inView(this.folded().right, this.closed().right, this.lineOf().right),
  );
  private readonly marks = computed(() => {
    const { from, to } = this.range();
    const touches = (at: number | null) => at !== null && at >= from && at <= to;
    return this.folded()
      .pegs.filter((p) => touches(p.left) || touches(p.right) || crosses(p, from, to))
      .map(draw);
  });
  private observer: ResizeObserver | null = null;

  constructor() {
    effect(() => {
      // Another course: nothing of the old folding holds.
      this.joint();
      this.closed.set({ left: new Set(), right: new Set() });
    });
    afterRenderEffect(() => {
      const element = this.scroller().nativeElement;
      if (!this.observer) {
        this.observer = new ResizeObserver(() => this.measure());
        this.observer.observe(element);
      }
    });
    afterRenderEffect(() => this.reveal(this.chosen(), this.folded()));
    afterRenderEffect(() => this.paint(this.canvas().nativeElement, this.marks(), this.chosen(), this.pale()));
  }

  ngOnDestroy(): void {
    this.observer?.disconnect();
  }

  protected measure(): void {
    const { scrollTop, clientHeight } = this.scroller().nativeElement;
    this.view.set({ top: scrollTop, height: clientHeight });
  }

  protected toggle(side: 'left' | 'right', row: ShownRow, event: Event): void {
    event.stopPropagation();
    this.closed.update((closed) => {
      const next = new Set(closed[side]);
      if (!next.delete(row.key)) next.add(row.key);
      return { ...closed, [side]: next };
    });
  }

  protected choose(row: ShownRow): void {
    if (row.line !== null) this.chosen.set(row.line);
  }

  /** Brings the chosen line into view, if it is out of it. */
  private reveal(chosen: number | null, { pegs }: FoldedJoint): void {
    const peg = pegs.find((p) => p.line === chosen);
    const at = peg?.left ?? peg?.right;
    if (at === null || at === undefined) return;
    const element = this.scroller().nativeElement;
    const top = at * ROW;
    if (top < element.scrollTop || top + ROW > element.scrollTop + element.clientHeight) {
      element.scrollTop = top - element.clientHeight / 3;
    }
  }

  private inView(
    rows: readonly JointRow[],
    closed: ReadonlySet<string>,
    lines: ReadonlyMap<number, number>,
  ): ShownRow[] {
    const { from, to } = this.range();
    return rows.slice(from, to).map((row, i) => ({
      ...row,
      top: (from + i) * ROW,
      holds: row.end,
      closed: closed.has(row.key),
      line: lines.get(from + i) ?? null,
    }));
  }

  private paint(svg: SVGSVGElement, marks: readonly Mark[], chosen: number | null, pale: boolean): void {
    const groups = select(svg)
      .selectAll<SVGGElement, Mark>('g')
      .data(marks, (m) => m.key)
      .join((enter) => {
        const g = enter.append('g');
        g.append('path').attr('class', 'line').attr('fill', 'none');
        g.append('path').attr('class', 'ground').attr('d', 'M-7 0a7 7 0 1 0 14 0a7 7 0 1 0 -14 0z');
        g.append('path').attr('class', 'mark');
        g.append('title');
        return g;
      })
      .on('click', (_event, m) => this.chosen.set(m.line));
    groups.attr('color', (m) => OUTCOME_COLOURS[m.outcome]).classed('chosen', (m) => m.line === chosen);
    groups
      .select('path.line')
      .attr('d', (m) => m.path)
      .attr('stroke', 'currentColor')
      .attr('stroke-opacity', (m) => (m.line === chosen ? 1 : pale ? 0.5 : 0.8))
      .attr('stroke-width', (m) => (m.line === chosen ? 3 : m.count > 1 ? Math.min(9, 2 + Math.log2(m.count)) : 1.5))
      .attr('stroke-dasharray', (m) => (m.dashed ? '4 3' : null));
    groups
      .select('path.ground')
      .attr('transform', (m) => `translate(${m.x},${m.y})`)
      .attr('fill', 'var(--surface)');
    groups
      .select('path.mark')
      .attr(
        'd',
        (m) => MARKS[m.outcome] + (m.outcome === 'reworked' ? 'M-4.5 0a4.5 4.5 0 1 0 9 0a4.5 4.5 0 1 0 -9 0z' : ''),
      )
      .attr('transform', (m) => `translate(${m.x},${m.y})`)
      .attr('fill', (m) => (m.outcome === 'left behind' || m.outcome === 'unsure' ? 'none' : 'currentColor'))
      .attr('fill-rule', 'evenodd')
      .attr('stroke', 'currentColor')
      .attr('stroke-width', (m) => (m.outcome === 'left behind' ? 2 : 1))
      .attr('stroke-dasharray', (m) => (m.outcome === 'unsure' ? '2 2' : null));
    groups.select('title').text((m) => (m.count > 1 ? `${m.count} items, at worst ${m.outcome}` : m.outcome));
  }
}

/** A line from above the view to below it is seen too. */
function crosses(peg: DrawnPeg, from: number, to: number): boolean {
  if (peg.left === null || peg.right === null) return false;
  return Math.min(peg.left, peg.right) < from && Math.max(peg.left, peg.right) > to;
}

const curve = linkHorizontal<unknown, [number, number]>();

function draw(peg: DrawnPeg): Mark {
  const middle = (row: number) => row * ROW + ROW / 2;
  const key = `${peg.left ?? ''}:${peg.right ?? ''}:${peg.line}`;
  const base = { key, outcome: peg.outcome, count: peg.count, line: peg.line };
  if (peg.left !== null && peg.right !== null) {
    const [y1, y2] = [middle(peg.left), middle(peg.right)];
    return {
      ...base,
      path: curve({ source: [0, y1], target: [WIDTH, y2] }) ?? '',
      x: WIDTH / 2,
      y: (y1 + y2) / 2,
      dashed: false,
    };
  }
  if (peg.left !== null) {
    const y = middle(peg.left);
    return { ...base, path: `M0 ${y}H50`, x: 58, y, dashed: true };
  }
  const y = middle(peg.right ?? 0);
  return { ...base, path: `M${WIDTH} ${y}H102`, x: 94, y, dashed: false };
}
