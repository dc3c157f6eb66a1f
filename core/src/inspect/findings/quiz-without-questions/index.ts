import { count, drawsOf } from '../../../model/index.ts';
import type { FindingKind } from '../contract.ts';
import { leaveOut } from '../content-parts.ts';

export const quizWithoutQuestions: FindingKind = {
  id: 'quiz-without-questions',
  label: 'Quizzes without questions',
  weight: 'breaks',
  mends: ['leave-out', 'ask-bank'],
  why: () => 'Students open it and find nothing.',
  *inCourse({ course }) {
    const banks = course.items.flatMap((i) => (i.kind === 'bank' && i.questions.length > 0 ? [i] : []));
    for (const item of course.items) {
      if (item.kind !== 'quiz' || item.questions.length > 0) continue;
      const there = drawsOf(item).some((d) => banks.some((b) => b.id === d.bank));
      yield {
        groupKey: there ? 'drawn' : 'empty',
        item,
        evidence: there ? 'all of its questions are drawn from banks' : 'it has no questions, and draws none',
        weight: there ? 'weakens' : 'breaks',
        suggestions: [
          ...banks.slice(0, 3).map((bank) => ({
            mend: 'ask-bank',
            params: { bank: bank.id },
            words: `Put the ${count(bank.questions.length, 'question')} of “${bank.title}” into it`,
          })),
          leaveOut('Leave the quiz out'),
        ],
      };
    }
  },
};
