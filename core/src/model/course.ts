import * as z from 'zod';
import { Item } from './kinds/index.ts';
import { Settings } from './settings/index.ts';

/**
 * The neutral course model. Readers turn packages into it, writers turn it into packages; no format knows another.
 * Everything here is plain JSON: it goes into the database, over HTTP and between threads as it is. Bytes never do:
 * files are named by their path in the package they came from.
 */

/**
 * A place in the outline: a folder, a heading (a label that holds nothing), or where an item stands. An item is a resource,
 * and may stand in several places; a folder may have one of its own, and so bear `item` beside its children.
 */
export interface OutlineNode {
  id: string;
  title: string;
  heading?: boolean | undefined;
  item?: string | undefined;
  /**
   * What is set of a folder, and of an item where it stands a second time or more. What is set of an item in its first
   * place stands with the item, since most items have one place.
   */
  settings?: Settings | undefined;
  children: OutlineNode[];
}
export const OutlineNode: z.ZodType<OutlineNode> = z.object({
  id: z.string(),
  title: z.string(),
  heading: z.boolean().optional(),
  item: z.string().optional(),
  settings: Settings.optional(),
  get children() {
    return z.array(OutlineNode);
  },
});

export const CourseFile = z.object({
  path: z.string(),
  size: z.number().int().nonnegative(),
  mediaType: z.string(),
  /** `content` is what an author would name; `definition` is XML that describes an item. */
  role: z.enum(['content', 'definition']),
  sha256: z.string().optional(),
  /** What is wrong with it, where its bytes are not what the package says they are. */
  damage: z.string().optional(),
});
export type CourseFile = z.infer<typeof CourseFile>;

export const Metadata = z.object({
  description: z.string().optional(),
  keywords: z.array(z.string()),
  rights: z.string().optional(),
  language: z.string().optional(),
  catalogEntry: z.string().optional(),
});
export type Metadata = z.infer<typeof Metadata>;

/** What a package holds of students: counted, and where it lies, so that it can be taken out. */
export const Personal = z.object({
  people: z.number().int(),
  submissions: z.number().int(),
  grades: z.number().int(),
  posts: z.number().int(),
  files: z.array(z.string()),
});
export type Personal = z.infer<typeof Personal>;

/** Where the course was read from. `untouched` ends when anything reshapes it. */
export const Origin = z.object({
  /** Identifier of the format; older courses name the editions of SCORM. */
  format: z.string().transform((id) => id.replace(/^scorm(?:12|2004)$/, 'scorm')),
  version: z.string(),
  untouched: z.boolean(),
  /** Other versions of the format in whose words it can be said as it stands. */
  alsoAs: z.array(z.string()).optional(),
});
export type Origin = z.infer<typeof Origin>;

/** What the platform that made the package calls the course; parts that it does not say are empty. */
export const Identity = z.object({
  /** The platform's own identifier of it. */
  id: z.string(),
  code: z.string(),
  section: z.string(),
  term: z.string(),
});
export type Identity = z.infer<typeof Identity>;

/** What stands at a destination already: it is not sent once more, and what leads to it leads there. */
export const StandsThere = z.object({
  /** Items, with the path by which texts of the package lead to each. */
  items: z.array(z.object({ id: z.string(), path: z.string().nullable() })),
  files: z.array(z.object({ path: z.string(), sha256: z.string() })),
});
export type StandsThere = z.infer<typeof StandsThere>;

export const Course = z.object({
  title: z.string(),
  origin: Origin,
  identity: Identity.optional(),
  metadata: Metadata,
  /** What is set of the course as a whole. */
  settings: Settings.optional(),
  outline: z.array(OutlineNode),
  items: z.array(Item),
  files: z.array(CourseFile),
  personal: Personal.optional(),
  /** Of a part of a course that follows others. */
  there: StandsThere.optional(),
});
export type Course = z.infer<typeof Course>;

/** The banks that a quiz draws from, and how many questions of each; `null` for all of them, and where no number is said. */
export function drawsOf({ settings: { draws } }: Pick<Item, 'settings'>): { bank: string; number: number | null }[] {
  return Object.entries(draws ?? {}).map(([bank, written]) => ({
    bank,
    number: Number(written) > 0 ? Number(written) : null,
  }));
}
