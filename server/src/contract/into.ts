import { Course, ITEM_KINDS, MeetsAs, WAYS_IN, type Meeting as MeetingShape } from '@treenail/core';
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
  /** With what Treenail signs in by it can be changed, and not only read. */
  mayChange: z.boolean().default(true),
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
  /** The platform's own names of items, by the identifiers that they have in `course`. */
  names: z.record(z.string(), z.string()).default({}),
  /** The ways that the format which the move is carried in can go, and why the others can not; '' where all can. */
  ways: z.array(WayIn).default([...WAYS_IN]),
  unless: z.string().default(''),
});
export type Looked = z.infer<typeof Looked>;

/** The course that a move goes into, as it was when it was chosen or looked at again. */
export const Into = Looked.extend({
  /** The platform's own name of the course. */
  id: z.string(),
  way: WayIn,
  /** What was chosen of what meets its like there, and how ours is called where both are there. */
  chosen: z.record(z.string(), MeetsAs).default({}),
  rule: z.string().default(''),
});
export type Into = z.infer<typeof Into>;

export const IntoChoice = z.object({ courseId: z.number().int(), way: WayIn });
export type IntoChoice = z.infer<typeof IntoChoice>;

/** Something that comes and something that is there that are the same, as far as can be told: see the core's `Meeting`. */
export const Meeting = z.object({
  first: z.string(),
  second: z.string(),
  title: z.string(),
  theirs: z.string(),
  kind: z.enum(ITEM_KINDS),
  by: z.enum(['identifier', 'substance', 'title']),
  same: z.boolean(),
  is: MeetsAs,
  can: z.array(MeetsAs),
  differs: z.array(z.string()),
  why: z.string(),
}) satisfies z.ZodType<MeetingShape>;
export type Meeting = z.infer<typeof Meeting>;

/** What is to become of what meets its like, by the identifiers of items that come. */
export const MeetRequest = z.object({
  chosen: z.record(z.string(), MeetsAs),
  /** `{title}`, `{code}`, `{section}` and `{term}` stand for those of what comes; '' where its name stays. */
  rule: z.string().max(120),
});
export type MeetRequest = z.infer<typeof MeetRequest>;

export const IntoAnswer = z.object({
  /** `null` where it goes into a new shell. */
  into: Into.nullable(),
  /** What is said of it before anything is sent: a sentence each. */
  says: z.array(z.string()),
  meets: z.array(Meeting),
  /** New titles of what of ours is called otherwise, by the identifiers of items. */
  titles: z.record(z.string(), z.string()),
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
