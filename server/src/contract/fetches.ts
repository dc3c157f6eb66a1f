import * as z from 'zod';
import { ExportFormId } from './platforms.ts';

/** What is fetched of a course, and what it costs. */

/** What is to be fetched of a course. Personal data needs a reason, which goes into the trail. */
export const FetchOptions = z
  .object({
    form: ExportFormId,
    parts: z.array(z.string()).min(1).max(5000).nullable(),
    copyLinked: z.boolean(),
    personal: z.boolean(),
    reason: z.string().max(300),
    /** The platform's own export file is removed once a copy is kept. */
    removeAfter: z.boolean(),
  })
  .refine((o) => !o.personal || o.reason.trim().length >= 5, 'Personal data is fetched only with a reason.');
export type FetchOptions = z.infer<typeof FetchOptions>;

export const PLAIN: FetchOptions = {
  form: 'archive',
  parts: null,
  copyLinked: true,
  personal: false,
  reason: '',
  removeAfter: true,
};

/** Parts can be chosen of one course only. Both forms at once are two fetches. */
export const FetchRequest = z.object({ courseIds: z.array(z.number().int()).min(1).max(500), options: FetchOptions });
export type FetchRequest = z.infer<typeof FetchRequest>;

export const CoursePart: z.ZodType<CoursePart> = z.object({
  ref: z.string(),
  title: z.string(),
  kind: z.string(),
  bytes: z.number(),
  get inside() {
    return z.array(CoursePart);
  },
});

export interface CoursePart {
  ref: string;
  title: string;
  kind: string;
  bytes: number;
  inside: CoursePart[];
}

export const FormSummary = z.object({
  id: ExportFormId,
  label: z.string(),
  extension: z.string(),
  lacks: z.array(z.string()),
});
export type FormSummary = z.infer<typeof FormSummary>;

export const PartsAnswer = z.object({ parts: z.array(CoursePart), forms: z.array(FormSummary) });
export type PartsAnswer = z.infer<typeof PartsAnswer>;

/** What fetching these courses will cost, by the instance they are on and the form they are fetched in. */
export const CostsAnswer = z.array(
  z.object({
    instance: z.string(),
    courses: z.number(),
    /** Why the instance could not say, if it could not. */
    trouble: z.string().nullable(),
    forms: z.array(
      FormSummary.extend({
        bytes: z.number(),
        /** Courses whose size is not told. */
        unsized: z.number(),
        /** Items of all the courses; `null` where one is not told. */
        items: z.number().nullable(),
        /** Other people's jobs before the first of them. */
        ahead: z.number().nullable(),
        /** Until the last of them is ready, by what the platform says. */
        seconds: z.number().nullable(),
      }),
    ),
  }),
);
export type CostsAnswer = z.infer<typeof CostsAnswer>;

export const EstimateAnswer = z.object({
  bytes: z.number().nullable(),
  items: z.number().nullable(),
  ahead: z.number().nullable(),
  seconds: z.number().nullable(),
});
export type EstimateAnswer = z.infer<typeof EstimateAnswer>;
