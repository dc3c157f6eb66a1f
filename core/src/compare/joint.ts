import type { Outcome } from '../fit/index.ts';
import type { Line } from '../fit/index.ts';
import { subjects, type Course, type SubjectKind } from '../model/index.ts';

/** One row of an outline in the joint. Rows stand in reading order; a folder's rows follow it up to `end`. */
export interface JointRow {
  key: string;
  title: string;
  kind: SubjectKind;
  depth: number;
  /** Index after the last row below this one; its own index + 1 where nothing is below. */
  end: number;
}

/** What joins two rows; one of the two is `null` where nothing arrived or nobody sent it. `line` indexes the lines. */
export interface JointPeg {
  left: number | null;
  right: number | null;
  line: number;
  outcome: Outcome;
}

export interface Joint {
  left: JointRow[];
  right: JointRow[];
  pegs: JointPeg[];
}

type Draft = Omit<JointRow, 'end'>;

function closeRows(drafts: readonly Draft[]): JointRow[] {
  const rows = drafts.map((d, i): JointRow => ({ ...d, end: i + 1 }));
  const open: JointRow[] = [];
  const close = (depth: number, at: number) => {
    for (let last = open.at(-1); last && last.depth >= depth; last = open.at(-1)) {
      last.end = at;
      open.pop();
    }
  };
  rows.forEach((row, i) => {
    close(row.depth, i);
    open.push(row);
  });
  close(0, rows.length);
  return rows;
}

function outlineRows(course: Course, lines: readonly Line[]): JointRow[] {
  const withCourse = lines.some((line) => line.kind === 'course');
  return closeRows(
    subjects(course, { withCourse }).map((s) => ({
      key: s.key,
      title: s.title,
      kind: s.kind,
      depth: s.placed?.depth ?? 0,
    })),
  );
}

/** The joint of a check: both outlines as they are. */
export function jointOfCheck(source: Course, arrived: Course, lines: readonly Line[]): Joint {
  return pegged(outlineRows(source, lines), outlineRows(arrived, lines), lines, (line) => line.arrived);
}

/** The joint of a forecast: at the right the outline as it will be. */
export function jointOfForecast(source: Course, lines: readonly Line[]): Joint {
  const left = outlineRows(source, lines);
  const bySource = new Map(lines.map((line) => [line.source, line]));
  const right: Draft[] = [];
  // Depths, at the right, of the rows above; a folder that becomes a heading holds nothing, so what was in it moves out.
  const above: { end: number; depth: number }[] = [];
  left.forEach((row, index) => {
    while ((above.at(-1)?.end ?? Infinity) <= index) above.pop();
    const depth = above.at(-1)?.depth ?? 0;
    const line = bySource.get(row.key);
    const kind = line?.as ?? null;
    if (kind !== null) right.push({ key: row.key, title: row.title, kind, depth });
    if (row.end > index + 1)
      above.push({ end: row.end, depth: kind === null || kind === 'heading' ? depth : depth + 1 });
  });
  return pegged(left, closeRows(right), lines, (line) => (line.as === null ? null : line.source));
}

function pegged(
  left: JointRow[],
  right: JointRow[],
  lines: readonly Line[],
  rightKey: (line: Line) => string | null,
): Joint {
  const leftAt = new Map(left.map((row, i) => [row.key, i]));
  const rightAt = new Map(right.map((row, i) => [row.key, i]));
  const pegs = lines.map((line, index): JointPeg => {
    const key = rightKey(line);
    return {
      left: line.source === null ? null : (leftAt.get(line.source) ?? null),
      right: key === null ? null : (rightAt.get(key) ?? null),
      line: index,
      outcome: line.outcome,
    };
  });
  return { left, right, pegs };
}

/** A peg line as it is drawn: between visible rows, standing for one or more pegs that folding brought together. */
export interface DrawnPeg {
  /** Positions among the visible rows. */
  left: number | null;
  right: number | null;
  count: number;
  /** The least whole of the outcomes it stands for. */
  outcome: Outcome;
  line: number;
}

export interface FoldedJoint {
  left: JointRow[];
  right: JointRow[];
  pegs: DrawnPeg[];
}

const SEVERITY: Record<Outcome, number> = { whole: 0, unsure: 1, extra: 2, reworked: 3, 'left behind': 4 };

/** Hides what is below closed folders and gathers its peg lines at the folder's row. Linear in the rows. */
export function foldJoint(
  joint: Joint,
  closed: { left: ReadonlySet<string>; right: ReadonlySet<string> },
): FoldedJoint {
  const left = fold(joint.left, closed.left);
  const right = fold(joint.right, closed.right);
  const drawn = new Map<string, DrawnPeg>();
  for (const peg of joint.pegs) {
    const l = peg.left === null ? null : (left.shownAt[peg.left] ?? null);
    const r = peg.right === null ? null : (right.shownAt[peg.right] ?? null);
    const key = `${l ?? ''}:${r ?? ''}`;
    const before = drawn.get(key);
    if (!before) drawn.set(key, { left: l, right: r, count: 1, outcome: peg.outcome, line: peg.line });
    else {
      before.count++;
      if (SEVERITY[peg.outcome] > SEVERITY[before.outcome]) before.outcome = peg.outcome;
    }
  }
  return { left: left.rows, right: right.rows, pegs: [...drawn.values()] };
}

function fold(rows: readonly JointRow[], closed: ReadonlySet<string>): { rows: JointRow[]; shownAt: number[] } {
  const shown: JointRow[] = [];
  const shownAt: number[] = [];
  for (let i = 0; i < rows.length;) {
    const row = rows[i];
    if (!row) break;
    const at = shown.push(row) - 1;
    const until = closed.has(row.key) ? row.end : i + 1;
    for (; i < until; i++) shownAt.push(at);
  }
  return { rows: shown, shownAt };
}

/** Only what joins by pegs that are kept, and the folders above it. */
export function filterJoint(joint: Joint, keep: (peg: JointPeg) => boolean): Joint {
  const pegs = joint.pegs.filter(keep);
  const left = keepRows(
    joint.left,
    pegs.map((p) => p.left),
  );
  const right = keepRows(
    joint.right,
    pegs.map((p) => p.right),
  );
  return {
    left: left.rows,
    right: right.rows,
    pegs: pegs.map((p) => ({
      ...p,
      left: p.left === null ? null : (left.at[p.left] ?? null),
      right: p.right === null ? null : (right.at[p.right] ?? null),
    })),
  };
}

function keepRows(rows: readonly JointRow[], wanted: readonly (number | null)[]): { rows: JointRow[]; at: number[] } {
  const kept = new Set(wanted);
  const above: number[] = [];
  rows.forEach((row, i) => {
    while (above.length > 0 && (rows[above.at(-1) ?? 0]?.end ?? 0) <= i) above.pop();
    if (kept.has(i)) above.forEach((a) => kept.add(a));
    if (row.end > i + 1) above.push(i);
  });
  const at: number[] = [];
  const drafts: Draft[] = [];
  rows.forEach(({ key, title, kind, depth }, i) => {
    at.push(drafts.length);
    if (kept.has(i)) drafts.push({ key, title, kind, depth });
  });
  return { rows: closeRows(drafts), at };
}
