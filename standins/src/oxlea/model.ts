import * as z from 'zod';

/** Parcels that others wrapped may leave a number open, and have texts that are HTML. */
const counted = z.preprocess((n) => n ?? 0, z.number());
const form = z.enum(['light', 'html']).optional();

/** How Oxlea keeps a course: a book of two halves, each of lessons, each of parts; texts in a light mark-up. */
export const OQuestion = z.object({
  key: z.string(),
  name: z.string(),
  form,
  asks: z.string(),
  worth: counted,
  sort: z.enum(['pick', 'pick-many', 'true-false', 'fill', 'write']),
  options: z.array(z.string()),
  /** Places of the right options, from 1; or the words that are taken. */
  right: z.array(z.union([z.number(), z.string()])),
  says: z.string().nullable(),
  other: z.string().optional(),
  exact: z.array(z.number()).optional(),
});
export type OQuestion = z.infer<typeof OQuestion>;

const named = {
  key: z.string(),
  name: z.string(),
  /** The key came with it from elsewhere. */
  own: z.boolean().optional(),
};

export const OPart = z.discriminatedUnion('sort', [
  z.object({ sort: z.literal('reading'), ...named, form, text: z.string() }),
  /** A line between parts, with a name. */
  z.object({ sort: z.literal('line'), ...named }),
  z.object({ sort: z.literal('handout'), ...named, file: z.string() }),
  z.object({ sort: z.literal('web'), ...named, to: z.string() }),
  z.object({ sort: z.literal('talk'), ...named, form, text: z.string() }),
  z.object({ sort: z.literal('piece'), ...named, form, text: z.string(), worth: counted, by: z.string().nullable() }),
  z.object({ sort: z.literal('test'), ...named, minutes: counted, goes: counted, questions: z.array(OQuestion) }),
]);
export type OPart = z.infer<typeof OPart>;

export const OLesson = z.object({ ...named, loose: z.boolean().optional(), from: z.string(), parts: z.array(OPart) });
export type OLesson = z.infer<typeof OLesson>;

export const OBook = z.object({
  id: z.string(),
  code: z.string(),
  group: z.string(),
  year: z.string(),
  name: z.string(),
  author: z.string(),
  about: z.string(),
  edited: z.string(),
  halves: z.array(z.object({ ...named, loose: z.boolean().optional(), lessons: z.array(OLesson) })),
  readers: z.array(z.object({ name: z.string(), mail: z.string() })),
});
export type OBook = z.infer<typeof OBook>;

export const OAsk = z.object({
  as: z.enum(['cartridge', 'parcel']),
  reference: z.string().max(200),
  /** Keys of lessons, and of single parts of lessons; all where none are named. */
  lessons: z.array(z.string()).nullable().default(null),
  readers: z.boolean().default(false),
});
export type OAsk = z.infer<typeof OAsk>;

export const OParcel = z.object({
  id: z.string(),
  book: z.string(),
  ask: OAsk,
  state: z.enum(['wrapping', 'wrapped', 'torn', 'expired']),
  begun: z.number(),
  hangs: z.boolean(),
  size: z.number().nullable(),
  until: z.string().nullable(),
});
export type OParcel = z.infer<typeof OParcel>;

export const OState = z.object({ books: z.array(OBook), parcels: z.array(OParcel), next: z.number() });
export type OState = z.infer<typeof OState>;

/** A book cut down to the lessons and single parts that were asked for. */
export function cutDown(book: OBook, { lessons }: OAsk): OBook {
  if (!lessons) return book;
  const asked = new Set(lessons);
  const halves = book.halves.map((half) => ({
    ...half,
    lessons: half.lessons.flatMap((lesson) => {
      if (asked.has(lesson.key)) return [lesson];
      const parts = lesson.parts.filter((part) => asked.has(part.key));
      return parts.length > 0 ? [{ ...lesson, parts }] : [];
    }),
  }));
  return { ...book, halves };
}
