import type { Area, Question, QuestionOf } from './question.ts';

/** Places on pictures, in pixels, as HTML's image maps and QTI write them. */

/**
 * Whether a point lies in a place; an ellipse is its middle and its two half axes. It is written into packages as its text
 * too, so it may use nothing but what a browser has.
 */
export function isInside({ shape, coords }: Pick<Area, 'shape' | 'coords'>, x: number, y: number): boolean {
  const [a = 0, b = 0, c = 0, d = 0] = coords;
  switch (shape) {
    case 'default':
      return true;
    case 'rect':
      return x >= a && x <= c && y >= b && y <= d;
    case 'circle':
      return Math.hypot(x - a, y - b) <= c;
    case 'ellipse':
      return ((x - a) / (c || 1)) ** 2 + ((y - b) / (d || 1)) ** 2 <= 1;
    case 'poly': {
      // How often a ray to the right crosses an edge: odd from the inside.
      let isIn = false;
      for (let i = 0, j = coords.length - 2; i + 1 < coords.length; j = i, i += 2) {
        const [x1 = 0, y1 = 0] = [coords[i], coords[i + 1]];
        const [x2 = 0, y2 = 0] = [coords[j], coords[j + 1]];
        if (y1 > y !== y2 > y && x < ((x2 - x1) * (y - y1)) / (y2 - y1) + x1) isIn = !isIn;
      }
      return isIn;
    }
  }
}

/** A point in the place, if it is easily found. */
export function pointIn({ shape, coords }: Pick<Area, 'shape' | 'coords'>): [number, number] {
  const [a = 0, b = 0, c = 0, d = 0] = coords;
  if (shape === 'rect') return [(a + c) / 2, (b + d) / 2];
  if (shape !== 'poly') return [a, b];
  const each = (from: number) => coords.filter((_n, i) => i % 2 === from);
  const middle = (list: readonly number[]) => list.reduce((sum, n) => sum + n, 0) / Math.max(1, list.length);
  return [middle(each(0)), middle(each(1))];
}

/** Whether a point is set anywhere on the picture, and its places are the key: shown to choose from, they would tell it. */
export function isPointing(question: Question): boolean {
  return question.type === 'hotspot' && question.asked?.by.includes('pointing') === true;
}

/** What a point in a place of such a question gives. */
export function valueOfPlace({ points }: QuestionOf<'hotspot'>, { correct, score }: Area): number {
  return score ?? (correct ? (points ?? 1) : 0);
}

/** Whether one point is asked for: of several places each is then right, and together they would give too much. */
export function asksForOnePoint(question: QuestionOf<'hotspot'>): boolean {
  if (question.areas.length <= 1) return true;
  const sum = question.areas.reduce((all, area) => all + Math.max(0, valueOfPlace(question, area)), 0);
  return question.scoring?.most === undefined && sum > (question.points ?? 1);
}
