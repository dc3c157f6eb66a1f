import { SourceFacts } from '@treenail/core';
import * as z from 'zod';
import { page, pageAsked } from './pages.ts';

/** Kept copies, and files that are taken in. */

export const CopySummary = z.object({
  form: z.enum(['standard', 'archive']),
  partial: z.boolean(),
  personal: z.boolean(),
  id: z.number(),
  fileName: z.string(),
  code: z.string(),
  section: z.string(),
  term: z.string(),
  title: z.string(),
  from: z.string(),
  format: z.string(),
  size: z.number(),
  sha256: z.string(),
  items: z.number(),
  keptAt: z.string(),
  moveId: z.number().nullable(),
  courseId: z.number().nullable(),
  /** What it holds, beside what the platform that gave it says of the course. */
  facts: SourceFacts,
  /** Its bytes are gone; that it was kept is still told. */
  removed: z.object({ at: z.string(), why: z.string() }).nullable(),
  /** When its bytes were found to be no more what they were. */
  damagedAt: z.string().nullable(),
});
export type CopySummary = z.infer<typeof CopySummary>;

/** One copy, with how many others are kept of its course. */
export const CopyDetail = CopySummary.extend({
  others: z.number().int(),
  /** The delivery that it was kept before, as long as that can be taken back by it. */
  before: z.object({ moveId: z.number().int(), title: z.string() }).nullable(),
});
export type CopyDetail = z.infer<typeof CopyDetail>;

export const CopiesAsked = pageAsked(['course', 'term', 'kept', 'from', 'form', 'file', 'size', 'holds']);
export type CopiesAsked = z.output<typeof CopiesAsked>;

export const CopiesPage = page(
  CopySummary,
  z.object({
    /** Copies whose bytes are kept, the courses that they are of, and the bytes that they take; the same bytes count once. */
    kept: z.number().int(),
    courses: z.number().int(),
    bytes: z.number(),
  }),
);
export type CopiesPage = z.infer<typeof CopiesPage>;

/** What a person says of a file that is taken in. An empty title is taken from the package. */
export const Intake = z.object({
  fileName: z.string().min(1).max(300),
  /** The course in the register that the file is a copy of; without it, it stands under the files. */
  courseId: z.coerce.number().int().positive().optional(),
  code: z.string().max(60),
  section: z.string().max(30),
  term: z.string().max(60),
  title: z.string().max(300),
});
export type Intake = z.infer<typeof Intake>;
