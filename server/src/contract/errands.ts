import { Course } from '@treenail/core';
import * as z from 'zod';
import { WayIn } from './into.ts';

/** What is done with a kept copy: restored whole or in part, or things of it given to somebody. */

export const ErrandAct = z.enum(['restore', 'give']);
export type ErrandAct = z.infer<typeof ErrandAct>;

/** A course of the destination that something goes into, and how. */
const Target = z.object({ courseId: z.number().int(), way: WayIn });

export const NewErrand = z.object({
  act: ErrandAct,
  /** Identifiers of what goes; `null` where all of the copy does. What these need comes along. */
  items: z.array(z.string()).min(1).nullable(),
  destinationId: z.number().int(),
  /** `null` where it is chosen at the delivery, or a new shell is made then. */
  into: Target.nullable(),
  /** The same key gives the same errand. */
  key: z.string().regex(/^[\w-]{8,60}$/),
});
export type NewErrand = z.infer<typeof NewErrand>;

/** A move that does an errand. */
export const Errand = z.object({
  act: ErrandAct,
  items: z.array(z.string()).nullable(),
  into: Target.nullable(),
  /** It stands where a person is needed: nothing more of it is done by itself. */
  ready: z.boolean(),
  /** Why it could not go as it was asked; '' where it could. */
  trouble: z.string(),
});
export type Errand = z.infer<typeof Errand>;

/** What can be taken out of a kept copy, and where it can go. */
export const ContentsAnswer = z.object({
  course: Course,
  /** The course that it is a copy of, where that takes something; `null` where it is gone, or its platform takes nothing. */
  back: z
    .object({ courseId: z.number().int(), instanceId: z.number().int(), instance: z.string(), title: z.string() })
    .nullable(),
  /** Formats that a file can be given in; the first keeps the most. */
  targets: z.array(z.object({ id: z.string(), label: z.string() })),
});
export type ContentsAnswer = z.infer<typeof ContentsAnswer>;

export const NewGivenFile = z.object({
  items: z.array(z.string()).min(1),
  target: z.string().max(60),
  key: z.string().regex(/^[\w-]{8,60}$/),
});
export type NewGivenFile = z.infer<typeof NewGivenFile>;

/** What was made out of a kept copy: a file, or a move. */
export const Given = z.object({
  id: z.number().int(),
  /** What it was, in words. */
  words: z.string(),
  by: z.string().nullable(),
  at: z.string(),
  /** `null` of what went, or goes, by a move. */
  file: z
    .object({
      fileName: z.string(),
      format: z.string(),
      size: z.number(),
      /** What the format could not hold of it: a sentence each. */
      losses: z.array(z.string()),
    })
    .nullable(),
  /** It is being made still. */
  isMade: z.boolean(),
  /** Why it could not be made; '' where it was, or is. */
  trouble: z.string(),
  move: z.object({ id: z.number().int(), act: ErrandAct, to: z.string() }).nullable(),
});
export type Given = z.infer<typeof Given>;
