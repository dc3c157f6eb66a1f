import { count, drawsOf, hasPartialCredit } from '../../../model/index.ts';
import { readable } from '../../passages.ts';
import type { FindingKind } from '../contract.ts';

export const pointsDoNotAddUp: FindingKind = {
  id: 'points-do-not-add-up',
  label: 'Points that do not add up',
  weight: 'weakens',
  mends: ['set-points'],
  why: () => 'The gradebook counts other points than the quiz gives.',
  *inCourse({ course, items }) {
    for (const item of course.items) {
      if (item.kind === 'quiz' && typeof item.settings.points === 'number' && item.questions.length > 0) {
        const sum = item.questions.reduce((total, q) => total + (q.points ?? 0), 0);
        const drawn = drawsOf(item).length > 0;
        if (drawn || item.questions.some((q) => q.points === null) || sum === item.settings.points) continue;
        yield {
          item,
          evidence: `set to ${item.settings.points} points, its questions give ${sum}`,
          suggestions: [{ mend: 'set-points', params: { points: String(sum) }, words: `Set it to ${sum} points` }],
        };
      }
      if (item.kind === 'quiz') {
        for (const q of item.questions) {
          if (!hasPartialCredit(q) || q.points === null || q.type !== 'multiple response') continue;
          const best = q.choices.reduce((total, c) => total + Math.max(0, c.score ?? 0), 0);
          if (best === 0 || Math.abs(best - q.points) < 1e-6) continue;
          yield {
            groupKey: 'parts',
            item,
            part: `question ${q.id}: prompt`,
            evidence: `“${readable(q.prompt).slice(0, 80)}” is worth ${q.points}, its right choices give ${best}`,
          };
        }
      }
      if (item.kind === 'column') {
        const graded = typeof item.settings.gradesItem === 'string' ? items.get(item.settings.gradesItem) : undefined;
        const own = graded?.settings.points;
        if (typeof own !== 'number' || typeof item.settings.points !== 'number' || own === item.settings.points)
          continue;
        yield {
          groupKey: 'column',
          item,
          evidence: `the column counts ${item.settings.points} points, “${graded?.title ?? ''}” gives ${own}`,
          suggestions: [{ mend: 'set-points', params: { points: String(own) }, words: `Count ${own} points` }],
        };
      }
    }
    const weights = course.items.flatMap((i) =>
      i.kind === 'category' && typeof i.settings.weight === 'number' && i.settings.bonus !== true
        ? [i.settings.weight]
        : [],
    );
    const sum = weights.reduce((a, b) => a + b, 0);
    if (weights.length > 0 && sum > 0 && Math.abs(sum - 100) > 0.01) {
      yield {
        groupKey: 'weights',
        title: 'Gradebook',
        evidence: `the weights of ${count(weights.length, 'grade category', 'grade categories')} come to ${sum} %`,
      };
    }
  },
};
