import { Course, WAYS_IN } from '@treenail/core';
import * as z from 'zod';

/** Deliveries into a course that is there, and back out of it. */

export const WayIn = z.enum(WAYS_IN);

/** Who is in a course at the destination, what they did in it, and whether it can be changed. */
export const Standing = z.object({
  tutors: z.number().int(),
  learners: z.number().int(),
  /** How many things learners did: handed in, sat, said. */
  work: z.number().int(),
  /** The platform's own names of what they did it in. */
  workedIn: z.array(z.string()),
  /** Nothing in it can be changed any more. */
  shut: z.boolean(),
  /** Becomes another with every change of what it holds. */
  turn: z.string(),
  /** The platform's own names of all that it holds. */
  held: z.array(z.string()),
});
export type Standing = z.infer<typeof Standing>;

/** A course of the destination that a move could go into. */
export const Target = z.object({
  courseId: z.number().int(),
  code: z.string(),
  section: z.string(),
  term: z.string(),
  title: z.string(),
  /** Why it may be the one, in words; '' where nothing says so. */
  why: z.string(),
});
export type Target = z.infer<typeof Target>;

export const TargetsAnswer = z.object({
  /** Whether courses that are there can be delivered into at all. */
  can: z.boolean(),
  /** Those that match best first. */
  targets: z.array(Target),
  /** How many more there are than are told. */
  more: z.number().int(),
  listedAt: z.string().nullable(),
});
export type TargetsAnswer = z.infer<typeof TargetsAnswer>;

/** A course of the destination as it was looked at. */
export const Looked = z.object({
  courseId: z.number().int(),
  title: z.string(),
  url: z.string(),
  course: Course,
  standing: Standing,
  lookedAt: z.string(),
  /** What the platform does with what bears the identifier of something that is there. */
  identifiers: z.enum(['overwritten', 'doubled']),
});
export type Looked = z.infer<typeof Looked>;

/** The course that a move goes into, as it was when it was chosen or looked at again. */
export const Into = Looked.extend({
  /** The platform's own name of the course. */
  id: z.string(),
  way: WayIn,
});
export type Into = z.infer<typeof Into>;

export const IntoChoice = z.object({ courseId: z.number().int(), way: WayIn });
export type IntoChoice = z.infer<typeof IntoChoice>;

export const IntoAnswer = z.object({
  /** `null` where it goes into a new shell. */
  into: Into.nullable(),
  /** What is said of it before anything is sent: a sentence each. */
  says: z.array(z.string()),
  /** What has to be typed before it is done; '' where nothing has to. */
  typed: z.string(),
});
export type IntoAnswer = z.infer<typeof IntoAnswer>;

/** What taking a delivery back would do. */
export const BackAnswer = z.object({
  can: z.boolean(),
  /** What it does, or why it can't be done: a sentence each. */
  says: z.array(z.string()),
});
export type BackAnswer = z.infer<typeof BackAnswer>;
