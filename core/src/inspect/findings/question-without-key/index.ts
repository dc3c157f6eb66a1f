import { holdsQuestions, type Question } from '../../../model/index.ts';
import { readable } from '../../passages.ts';
import type { FindingKind } from '../contract.ts';

export const questionWithoutKey: FindingKind = {
  id: 'question-without-key',
  label: 'Questions without a key',
  weight: 'breaks',
  mends: ['leave-out-question'],
  why: () => 'No answer is right, so nobody gets the points, or the import refuses the whole quiz.',
  *inCourse({ course }) {
    for (const item of course.items) {
      if (!holdsQuestions(item)) continue;
      for (const q of item.questions) {
        if (hasKey(q)) continue;
        yield {
          groupKey: q.type,
          item,
          part: `question ${q.id}: prompt`,
          evidence: `${q.type}: ${readable(q.prompt).slice(0, 120)}`,
          suggestions: [{ mend: 'leave-out-question', params: { question: q.id }, words: 'Leave the question out' }],
        };
      }
    }
  },
};

function hasKey(q: Question): boolean {
  switch (q.type) {
    case 'choice':
    case 'multiple response':
    case 'true/false':
      return q.choices.some((c) => c.correct || (c.score ?? 0) > 0);
    case 'short answer':
    case 'pattern':
      return q.answers.length > 0;
    case 'cloze':
      return q.blanks.every((b) => b.answers.length > 0 || b.choices.some((c) => c.correct));
    case 'numeric':
      return q.numbers.length > 0;
    case 'matching':
    case 'associate':
    case 'gap match':
      return q.pairs.length > 0;
    case 'ordering':
      return q.order.length > 0;
    case 'hotspot':
      return q.areas.some((a) => a.correct);
    case 'several parts':
      return q.subquestions.every(hasKey);
    default:
      return true;
  }
}
