import * as z from 'zod';

/** The documents of a Tarnhall crate. */
export const Crate = z.looseObject({
  crate: z.literal(1),
  id: z.string().default(''),
  code: z.string(),
  section: z.string().default(''),
  term: z.string().default(''),
  title: z.string(),
  /** What is said of the course, where anybody said it. */
  about: z
    .object({
      text: z.string().optional(),
      rights: z.string().optional(),
      language: z.string().optional(),
      words: z.array(z.string()).default([]),
    })
    .optional(),
  units: z.array(z.string()),
  pools: z.array(z.string()),
  files: z.array(z.object({ id: z.string(), path: z.string(), blob: z.string() })),
  /** What is spoken of and not in it: it is to be found where the crate is unpacked, by origin and by hash. */
  there: z
    .object({
      entries: z.array(z.object({ id: z.string(), origin: z.string() })),
      files: z.array(z.object({ id: z.string(), sha256: z.string() })),
    })
    .optional(),
});

export const Unit = z.looseObject({
  id: z.string(),
  title: z.string(),
  origin: z.string().nullable(),
  /** Its entries stand beside the units, in its place. */
  loose: z.boolean().default(false),
  /** Learners do not see it. Crates that were packed before there was such a thing hide nothing. */
  hidden: z.boolean().default(false),
  entries: z.array(z.string()),
});

export const Entry = z.looseObject({
  id: z.string(),
  sort: z.enum(['text', 'file', 'pointer', 'talk', 'task', 'test', 'launcher', 'heading']),
  title: z.string(),
  origin: z.string().nullable(),
  body: z.string(),
  url: z.string(),
  file: z.string().nullable(),
  files: z.array(z.string()),
  marks: z.number().nullable(),
  ways: z.array(z.string()),
  tries: z.number().nullable(),
  minutes: z.number().nullable(),
  asks: z.array(z.string()),
  hidden: z.boolean().default(false),
});
export type Entry = z.infer<typeof Entry>;

export const Pool = z.looseObject({
  id: z.string(),
  title: z.string(),
  origin: z.string().nullable(),
  asks: z.array(z.string()),
});

export const Ask = z.looseObject({
  key: z.string(),
  label: z.string(),
  form: z.enum(['one', 'many', 'yesno', 'word', 'prose']),
  ask: z.string(),
  marks: z.number().nullable(),
  options: z.array(z.object({ key: z.string(), text: z.string(), right: z.boolean(), reply: z.string().nullable() })),
  words: z.array(z.object({ text: z.string(), strict: z.boolean() })),
  replies: z.object({ any: z.string().nullable(), right: z.string().nullable(), wrong: z.string().nullable() }),
});
export type Ask = z.infer<typeof Ask>;
