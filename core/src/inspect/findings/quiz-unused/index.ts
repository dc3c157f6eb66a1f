import { count, drawsOf } from '../../../model/index.ts';
import type { FindingKind } from '../contract.ts';
import { leaveOut } from '../content-parts.ts';

export const quizUnused: FindingKind = {
  id: 'quiz-unused',
  label: 'Quizzes and banks that nothing shows',
  weight: 'clutters',
  mends: ['leave-out'],
  why: () => 'No place of the outline shows them and no quiz draws from them; old attempts often lie about so.',
  *inCourse(context) {
    const drawn = new Set(
      context.course.items.flatMap((i) => (i.kind === 'quiz' ? drawsOf(i).map((d) => d.bank) : [])),
    );
    const linked = new Set(context.links.flatMap((l) => l.to ?? []));
    for (const item of context.course.items) {
      const unused =
        (item.kind === 'quiz' && !context.placed.has(item.id) && !linked.has(item.id)) ||
        (item.kind === 'bank' && !drawn.has(item.id) && !context.placed.has(item.id));
      if (!unused) continue;
      yield {
        groupKey: item.kind,
        item,
        evidence: `${item.kind === 'quiz' ? 'quiz' : 'question bank'} with ${count(item.questions.length, 'question')}`,
        suggestions: [leaveOut(item.kind === 'quiz' ? 'Leave the quiz out' : 'Leave the bank out')],
      };
    }
  },
};
