import * as z from 'zod';
import { defineKind } from '../define.ts';
import { ofQuestions } from '../questions.ts';

const { fields, blocks, ...shared } = ofQuestions;

/** Questions kept for quizzes to draw from: for authors, never for learners. */
export const bank = defineKind({
  kind: 'bank',
  label: 'question bank',
  schema: z.object({ ...fields, kind: z.literal('bank') }),
  content: true,
  ...shared,
  preview: blocks,
});
