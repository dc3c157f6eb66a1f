import * as z from 'zod';
import { mapQuestionTexts } from '../question-changes.ts';
import { Question, partsOf, singleQuestions, type RichText } from '../question.ts';
import { common, type Block, type ChangeText } from './define.ts';

/** What a quiz and a bank have in common: they hold questions. */
export const ofQuestions = {
  fields: { ...common, questions: z.array(Question) },
  texts: <T extends { questions: Question[] }>(item: T, change: ChangeText): T => ({
    ...item,
    questions: item.questions.map((q) =>
      mapQuestionTexts(q, (part, text) => change(`question ${q.id}: ${part}`, text)),
    ),
  }),
  files: ({ questions }: { questions: readonly Question[] }) => questions.flatMap((q) => q.files),
  shows: ({ questions }: { questions: readonly Question[] }) =>
    questions.flatMap(singleQuestions).flatMap((q) => (q.type === 'hotspot' && q.image ? [q.image.file] : [])),
  questions: ({ questions }: { questions: readonly Question[] }) => questions,
  fingerprint: ({ questions }: { questions: readonly Question[] }, readable: (text: RichText) => string) =>
    questions
      .flatMap((q) => [q, ...partsOf(q).subquestions])
      .map((q) => readable(q.prompt))
      .join('\n'),
  blocks: ({ questions }: { questions: readonly Question[] }): Block[] => [{ is: 'questions', questions }],
};
