import { Course, SubjectKind } from '@treenail/core';
import * as z from 'zod';
import { CopySummary } from './copies.ts';

/** Parts of a course that go where others went before. */

/** An item of the course, as it stands beside what went before. */
export const FurtherItem = z.object({
  id: z.string(),
  /** `went`: and nothing of it changed since at its source; `changed`: it went, and is another now; `new`: it never went. */
  since: z.enum(['went', 'changed', 'new']),
  /** What it was called in the copy that it went from. */
  was: z.string().nullable(),
  /**
   * What became at the destination of what went, since it was checked there: `absent` where it had not arrived then, `unknown`
   * where the destination could not be read.
   */
  there: z.enum(['same', 'changed', 'removed', 'absent', 'unknown']).nullable(),
});
export type FurtherItem = z.infer<typeof FurtherItem>;

/** What was found out before a part was chosen. */
export const FurtherState = z.object({
  items: z.array(FurtherItem),
  /** What went, and is not in the course any more: it stays where it is. */
  gone: z.array(z.object({ id: z.string(), title: z.string(), kind: SubjectKind })),
  /** Why the destination could not be looked at; '' where it was. */
  unread: z.string(),
});
export type FurtherState = z.infer<typeof FurtherState>;

export const FurtherAnswer = z.object({
  /** How many items went by all that was delivered, and how many of the course did not. */
  went: z.number().int(),
  left: z.number().int(),
  /** Some of those that did not. */
  some: z.array(z.string()),
  /** What a part can be taken from: the copy that the move has, first, and others of the course. */
  copies: z.array(CopySummary),
  /** Whether it can be fetched anew. */
  fetches: z.boolean(),
  /** Whether one can be begun: all is delivered and checked that was to go. */
  can: z.boolean(),
});
export type FurtherAnswer = z.infer<typeof FurtherAnswer>;

export const SentAnswer = z.object({ source: Course });
export type SentAnswer = z.infer<typeof SentAnswer>;

/** A part taken from this copy, or from one that is fetched now. */
export const NewPart = z.object({ copyId: z.number().int().nullable() });
export type NewPart = z.infer<typeof NewPart>;
