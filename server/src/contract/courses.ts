import * as z from 'zod';
import { page, pageAsked } from './pages.ts';
import { ExportFormId } from './platforms.ts';

/** The register of courses, and what is found. */

export const CourseSummary = z.object({
  id: z.number(),
  instance: z.object({
    id: z.number(),
    name: z.string(),
    platform: z.string(),
    gives: z.boolean(),
    fetches: z.boolean(),
  }),
  code: z.string(),
  section: z.string(),
  term: z.string(),
  title: z.string(),
  owner: z.string(),
  size: z.number(),
  changedAt: z.string(),
  newestCopy: z.object({ id: z.number(), keptAt: z.string(), form: ExportFormId }).nullable(),
  /** When the instance will be gone, and why. */
  cutOff: z.object({ at: z.string(), why: z.string() }).nullable(),
  /** The newest move of this course. */
  move: z.object({ id: z.number(), step: z.string() }).nullable(),
  /** The newest fetch that is not over, or failed and was not seen. */
  fetch: z.object({ jobId: z.number(), state: z.string(), words: z.string() }).nullable(),
});
export type CourseSummary = z.infer<typeof CourseSummary>;

/** What a course may lack to be safe; a cut-off counts once it is within sixty days. */
export const Lack = z.enum(['no copy', 'old copy', 'cut-off']);
export type Lack = z.infer<typeof Lack>;

/** How the register is narrowed down. */
export const CourseFilter = z.object({
  words: z.string().max(200),
  instance: z.number().nullable(),
  lacks: Lack.nullable(),
});
export type CourseFilter = z.infer<typeof CourseFilter>;

export const CoursesAsked = pageAsked([
  'course',
  'title',
  'term',
  'instance',
  'owner',
  'size',
  'changed',
  'copy',
  'lacks',
  'gone',
]).extend({ instance: z.coerce.number<number | string>().int().positive().optional(), lacks: Lack.optional() });
export type CoursesAsked = z.output<typeof CoursesAsked>;

export const CoursesPage = page(
  CourseSummary,
  z.object({
    /** Bytes of all courses that fit. */
    size: z.number(),
  }),
);
export type CoursesPage = z.infer<typeof CoursesPage>;

/** The register as a whole. */
export const RegisterSums = z.object({
  courses: z.number().int(),
  /** How many of them lack what. */
  lacks: z.record(Lack, z.number().int()),
  /** Instances that they are on. */
  on: z.array(z.number().int()),
});
export type RegisterSums = z.infer<typeof RegisterSums>;

export const SavedFilterSummary = z.object({ id: z.number(), name: z.string(), filter: CourseFilter });
export type SavedFilterSummary = z.infer<typeof SavedFilterSummary>;

export const SearchHit = z.object({
  kind: z.enum(['course', 'move', 'copy', 'item']),
  title: z.string(),
  detail: z.string(),
  link: z.string(),
});
export type SearchHit = z.infer<typeof SearchHit>;
