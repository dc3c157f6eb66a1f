import * as z from 'zod';

/** A stretch of days, both ends of it among them, ISO 8601: `2026-10-26`. */
export const Stretch = z.object({ name: z.string().max(60), from: z.iso.date(), to: z.iso.date() });
export type Stretch = z.infer<typeof Stretch>;

/** A term of the house, with the days in it on which nothing is taught. */
export const Term = z.object({
  name: z.string().min(1).max(60),
  from: z.iso.date(),
  to: z.iso.date(),
  breaks: z.array(Stretch),
});
export type Term = z.infer<typeof Term>;

/** A day on which the house is closed, and why: `Good Friday`. */
export const ClosedDay = z.object({ on: z.iso.date(), name: z.string().min(1).max(80) });
export type ClosedDay = z.infer<typeof ClosedDay>;
