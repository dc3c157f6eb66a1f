import { Problem } from '@treenail/core';
import * as z from 'zod';

/** What goes on without a browser. */

export const JobState = z.enum(['queued', 'running', 'waiting', 'done', 'failed', 'called off']);
export type JobState = z.infer<typeof JobState>;

export const JobKind = z.enum([
  'register',
  'mail',
  'intake',
  'fetch',
  'look',
  'tidy',
  'outside',
  'build',
  'deliver',
  'check',
  'take-back',
  'give',
]);
export type JobKind = z.infer<typeof JobKind>;

export const JobSummary = z.object({
  id: z.number(),
  kind: JobKind,
  moveId: z.number().nullable(),
  courseId: z.number().nullable(),
  /** Course code and section. */
  course: z.string(),
  state: JobState,
  /** What it is doing, in words. */
  words: z.string(),
  /** Other people's jobs before it at the platform; `null` where it does not wait there. */
  ahead: z.number().nullable(),
  done: z.number(),
  total: z.number(),
  unit: z.string(),
  problem: Problem.nullable(),
  createdAt: z.string(),
  finishedAt: z.string().nullable(),
  seen: z.boolean(),
  /** It is being called off. */
  callOff: z.boolean(),
});
export type JobSummary = z.infer<typeof JobSummary>;
