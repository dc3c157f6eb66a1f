import type { isInside } from '../../model/index.ts';
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

/** Whether a point of a picture lies in a place on it: `isInside` of the model, handed on as its text too. */
export type InPlace = typeof isInside;

/** It is written into packages as the text of this function, so it may use nothing but what a browser has. */
export function judging(inPlace: InPlace): JudgeQuestion {
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
      return (
        x !== undefined &&
        y !== undefined &&
        inPlace({ shape: accept.shape ?? 'rect', coords: accept.coords ?? [] }, x, y)
      );
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
  return (question, valuesOf) => {
    const parts = question.parts.filter((p) => p.rule !== 'none');
    const results = parts.map((p) => judgePart(p, valuesOf(p.name), question.others));
    const right = parts.length > 0 && results.every((r) => r.right);
    const parted = results.reduce((n, r) => n + r.score, 0);
    const sum = Math.min(question.most ?? Infinity, Math.max(question.least ?? -Infinity, parted));
    const score = question.whole ? (right ? question.points : 0) : sum;
    return { score, right, open: parts.length === 0 };
  };
}
