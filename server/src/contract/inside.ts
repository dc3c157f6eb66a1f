import { Course, Note, SubjectKind } from '@treenail/core';
import * as z from 'zod';

/** What is in a package. */

export const InventoryAnswer = z.object({
  items: z.number(),
  folders: z.number(),
  depth: z.number(),
  entries: z.number(),
  kinds: z.array(z.object({ kind: SubjectKind, items: z.number(), bytes: z.number() })),
  questions: z.array(z.object({ type: z.string(), count: z.number() })),
  files: z.number(),
  bytes: z.number(),
  byMedia: z.array(z.object({ mediaType: z.string(), files: z.number(), bytes: z.number() })),
  unused: z.array(z.string()),
  unusedBytes: z.number().default(0),
  biggest: z
    .array(z.object({ path: z.string(), size: z.number(), mediaType: z.string(), item: z.string().nullable() }))
    .default([]),
  dates: z.object({ from: z.string(), to: z.string(), items: z.number() }).nullable().default(null),
  hosts: z.array(z.object({ host: z.string(), links: z.number() })).default([]),
  tools: z.array(z.object({ host: z.string(), items: z.number() })).default([]),
  languages: z.array(z.object({ language: z.string(), pages: z.number() })).default([]),
  licence: z.string().nullable().default(null),
  unread: z
    .array(
      z.object({
        name: z.string(),
        times: z.number(),
        places: z.array(z.object({ file: z.string(), line: z.number(), item: z.string().nullable() })),
      }),
    )
    .nullable()
    .default(null),
});
export type InventoryAnswer = z.infer<typeof InventoryAnswer>;

const RelationAnswer = z.object({ other: z.string(), title: z.string(), isItem: z.boolean(), how: z.string() });

/** By the identifier of the item. */
export const RelationsAnswer = z.object({
  pointsAt: z.record(z.string(), z.array(RelationAnswer)),
  pointedAtBy: z.record(z.string(), z.array(RelationAnswer)),
});
export type RelationsAnswer = z.infer<typeof RelationsAnswer>;

/** Items of a course that hold what was searched for; of the first some, what stands around it. */
export const TextSearchAnswer = z.object({
  total: z.number(),
  hits: z.array(
    z.object({
      item: z.string(),
      title: z.string(),
      kind: z.string(),
      times: z.number(),
      inTitle: z.boolean(),
      excerpt: z.object({ text: z.string(), marks: z.array(z.tuple([z.number(), z.number()])) }).nullable(),
    }),
  ),
});
export type TextSearchAnswer = z.infer<typeof TextSearchAnswer>;

export const LookAnswer = z.object({
  course: Course,
  inventory: InventoryAnswer,
  notes: z.array(Note),
  /** Whether there is a working copy with mends in it, that previews can be of. */
  mended: z.boolean(),
});
export type LookAnswer = z.infer<typeof LookAnswer>;

export const PreviewAnswer = z.discriminatedUnion('form', [
  z.object({ form: z.literal('page'), html: z.string() }),
  z.object({ form: z.literal('text'), text: z.string() }),
  z.object({ form: z.enum(['image', 'audio', 'video', 'pdf']), dataUrl: z.string() }),
  z.object({ form: z.literal('long'), as: z.enum(['image', 'audio', 'video']), path: z.string() }),
  z.object({ form: z.literal('none'), why: z.string() }),
]);
export type PreviewAnswer = z.infer<typeof PreviewAnswer>;
