import * as z from 'zod';
import { defineKind } from '../define.ts';
import { ofQuestions } from '../questions.ts';

const { fields, blocks, ...shared } = ofQuestions;

/** Questions that are answered and scored. */
export const quiz = defineKind({
  kind: 'quiz',
  label: 'quiz',
  schema: z.object({ ...fields, kind: z.literal('quiz') }),
  content: true,
  ledTo: true,
  ...shared,
  asPage: blocks,
});
