import { ClosedDay, KnownDate, Note, RedatePlan, Term, WrittenDate } from '@treenail/core';
import * as z from 'zod';

/** The dates of a course that is moved, and what is decided of them. What comes of it is computed where it is shown. */
export const RedateAnswer = z.object({
  dates: z.array(KnownDate),
  written: z.array(WrittenDate),
  /** Folders that a rule can be about. */
  folders: z.array(z.object({ id: z.string(), title: z.string() })),
  /** `null` where nobody has decided anything: dates go as they are. */
  plan: RedatePlan.nullable(),
  terms: z.array(Term),
  closed: z.array(ClosedDay),
  zone: z.string(),
  today: z.string(),
  /** Name of the term that the course is of, as far as it is known, and of the one that comes after it. */
  from: z.string().nullable(),
  to: z.string().nullable(),
  /** Whether texts and calendar files were looked through for dates, and what could not be read of them. */
  searched: z.boolean(),
  notes: z.array(Note),
  /** Texts in which the new date could not be written, by the keys of their findings. */
  failed: z.array(z.object({ key: z.string(), why: z.string() })),
  /** Whether the working copy has everything in it that was decided. */
  current: z.boolean(),
  open: z.boolean(),
});
export type RedateAnswer = z.infer<typeof RedateAnswer>;
