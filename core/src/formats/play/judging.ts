import type { Judged, Part } from './quiz.ts';

/** What an answer to a question earns on a page that is played. */
export interface Verdict {
  score: number;
  /** Every part is right. */
  right: boolean;
  /** A person has to judge. */
  open: boolean;
}

/** Judges a question by its key; `valuesOf` gives what was entered in a control or group. */
export type JudgeQuestion = (question: Judged, valuesOf: (name: string) => readonly string[]) => Verdict;

export interface Judging {
  judge: JudgeQuestion;
  /** Whether a point of a picture lies in a place on it. */
  isInside: (shape: string, coords: readonly number[], x: number, y: number) => boolean;
}

/** It is written into packages as the text of this function, so it may use nothing but what a browser has. */
export function judging(): Judging {
  const isInside: Judging['isInside'] = (shape, coords, x, y) => {
    const [a = 0, b = 0, c = 0, d = 0] = coords;
    if (shape === 'default') return true;
    if (shape === 'rect') return x >= a && x <= c && y >= b && y <= d;
    if (shape === 'circle') return Math.hypot(x - a, y - b) <= c;
    if (shape === 'ellipse') return ((x - a) / (c || 1)) ** 2 + ((y - b) / (d || 1)) ** 2 <= 1;
    // How often a ray to the right crosses an edge: odd from the inside.
    let isIn = false;
    for (let i = 0, j = coords.length - 2; i + 1 < coords.length; j = i, i += 2) {
      const [x1 = 0, y1 = 0] = [coords[i], coords[i + 1]];
      const [x2 = 0, y2 = 0] = [coords[j], coords[j + 1]];
      if (y1 > y !== y2 > y && x < ((x2 - x1) * (y - y1)) / (y2 - y1) + x1) isIn = !isIn;
    }
    return isIn;
  };
  const fits = (part: Part, accept: Part['accept'][number], value: string): boolean => {
    if (part.rule === 'number') {
      const n = Number(value.replace(',', '.'));
      const { low = 0, high = 0, open } = accept;
      const above = open === 'low' || open === 'both' ? n > low : n >= low;
      return value !== '' && above && (open === 'high' || open === 'both' ? n < high : n <= high);
    }
    if (part.rule === 'values') return accept.value === value;
    if (part.rule === 'point') {
      const [x, y] = value.split(/[\s,;]+/).map(Number);
      return x !== undefined && y !== undefined && isInside(accept.shape ?? '', accept.coords ?? [], x, y);
    }
    const [a, b] = accept.caseSensitive ? [accept.value, value] : [accept.value.toLowerCase(), value.toLowerCase()];
    return accept.within ? b.includes(a.trim()) : a.trim() === b;
  };
  /** Each place gives what it gives once, to the first point in it. */
  const judgePoints = (part: Part, values: readonly string[], others: number): { score: number; right: boolean } => {
    const left = [...part.accept];
    const scores = values.map((value) => {
      const at = left.findIndex((a) => fits(part, a, value));
      return at < 0 ? others : (left.splice(at, 1)[0]?.score ?? 0);
    });
    const score = scores.reduce((sum, one) => sum + one, 0);
    return { score, right: score > 0 };
  };
  /** What a part gives, and whether it is right. */
  const judgePart = (part: Part, values: readonly string[], others: number): { score: number; right: boolean } => {
    if (part.rule === 'point') return judgePoints(part, values, others);
    if (part.all) {
      const right =
        values.length === part.accept.length && part.accept.every((a) => values.some((v) => fits(part, a, v)));
      return { score: right ? (part.accept[0]?.score ?? 0) : 0, right };
    }
    // Of several keys that fit, the one that gives most.
    const hits = values.flatMap((v) => {
      const scores = part.accept.filter((a) => fits(part, a, v)).map((a) => a.score);
      return scores.length > 0 ? [Math.max(...scores)] : [];
    });
    const given = hits.reduce((sum, score) => sum + score, 0);
    return { score: given + others * (values.length - hits.length), right: hits.length > 0 };
  };
  const judge: JudgeQuestion = (question, valuesOf) => {
    const parts = question.parts.filter((p) => p.rule !== 'none');
    const results = parts.map((p) => judgePart(p, valuesOf(p.name), question.others));
    const right = parts.length > 0 && results.every((r) => r.right);
    const parted = results.reduce((n, r) => n + r.score, 0);
    const sum = Math.min(question.most ?? Infinity, Math.max(question.least ?? -Infinity, parted));
    const score = question.whole ? (right ? question.points : 0) : sum;
    return { score, right, open: parts.length === 0 };
  };
  return { judge, isInside };
}
