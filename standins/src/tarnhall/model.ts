import * as z from 'zod';

/** How Tarnhall keeps a space: units one level deep, each a list of entries; tests with questions; pools. */
export const TQuestion = z.object({
  key: z.string(),
  label: z.string(),
  form: z.enum(['one', 'many', 'yesno', 'word', 'prose']),
  ask: z.string(),
  marks: z.number(),
  options: z.array(z.object({ key: z.string(), text: z.string(), right: z.boolean(), reply: z.string().nullable() })),
  words: z.array(z.object({ text: z.string(), strict: z.boolean() })),
  replies: z.object({ any: z.string().nullable(), right: z.string().nullable(), wrong: z.string().nullable() }),
});
export type TQuestion = z.infer<typeof TQuestion>;

export const TEntry = z.object({
  id: z.string(),
  sort: z.enum(['text', 'file', 'pointer', 'talk', 'task', 'test', 'launcher', 'heading']),
  title: z.string(),
  /** Identifier in the package it came from; entries made here have none. */
  origin: z.string().nullable(),
  body: z.string().default(''),
  url: z.string().default(''),
  file: z.string().nullable().default(null),
  files: z.array(z.string()).default([]),
  marks: z.number().nullable().default(null),
  ways: z.array(z.string()).default([]),
  tries: z.number().nullable().default(null),
  minutes: z.number().nullable().default(null),
  questions: z.array(TQuestion).default([]),
  /** Learners do not see it. */
  hidden: z.boolean().optional(),
});
export type TEntry = z.infer<typeof TEntry>;

export const TUnit = z.object({
  id: z.string(),
  title: z.string(),
  origin: z.string().nullable(),
  entries: z.array(TEntry),
  hidden: z.boolean().optional(),
});
export type TUnit = z.infer<typeof TUnit>;

export const TFile = z.object({
  id: z.string(),
  path: z.string(),
  bytes: z.number(),
  sha256: z.string(),
  media: z.string(),
});
export type TFile = z.infer<typeof TFile>;

export const TPool = z.object({
  id: z.string(),
  title: z.string(),
  origin: z.string().nullable(),
  questions: z.array(TQuestion),
});
export type TPool = z.infer<typeof TPool>;

/** Somebody who is in a space. */
export const TPerson = z.object({ name: z.string(), part: z.enum(['tutor', 'learner']) });
export type TPerson = z.infer<typeof TPerson>;

/** What a learner did in an entry: handed in, sat, said. */
export const TWork = z.object({ id: z.string(), entry: z.string(), person: z.string(), at: z.string() });
export type TWork = z.infer<typeof TWork>;

export const TSpace = z.object({
  id: z.string(),
  code: z.string(),
  section: z.string(),
  term: z.string(),
  title: z.string(),
  keeper: z.string(),
  remark: z.string(),
  changedAt: z.string(),
  /** What a crate said of the course; shown by no page, and packed again. */
  about: z.record(z.string(), z.unknown()).nullable().default(null),
  units: z.array(TUnit),
  pools: z.array(TPool),
  files: z.array(TFile),
  people: z.array(TPerson).default([]),
  work: z.array(TWork).default([]),
  /** Nothing in it can be changed any more. */
  shut: z.boolean().default(false),
  /** Only its keeper changes it: with the house's key it is read, and no more. */
  sealed: z.boolean().optional(),
  /** How often anything in it became another. */
  turn: z.number().default(0),
  /** Remarks of those who had it cleared: asked for again, it is not cleared again. */
  cleared: z.array(z.string()).default([]),
});
export type TSpace = z.infer<typeof TSpace>;

export const TDrop = z.object({ id: z.string(), remark: z.string(), bytes: z.number(), got: z.number() });
export type TDrop = z.infer<typeof TDrop>;

export const TRun = z.object({
  id: z.string(),
  space: z.string().nullable(),
  drop: z.string().nullable(),
  remark: z.string(),
  mode: z.enum(['beside', 'replace']),
  state: z.enum(['standing', 'unpacking', 'ended', 'broken']),
  takes: z.number(),
  done: z.number(),
  total: z.number(),
  log: z.array(z.string()),
  /** What stood in the space when it began, so that it can begin anew there; kept while it goes on. */
  before: z
    .object({ units: z.array(TUnit), pools: z.array(TPool), files: z.array(TFile) })
    .nullable()
    .default(null),
});
export type TRun = z.infer<typeof TRun>;

/** A package of a space that was asked for: its archive, or a cartridge. */
export const TCrate = z.object({
  id: z.string(),
  as: z.enum(['crate', 'cartridge']).default('crate'),
  /** Units and entries that were asked for; all where none are named. */
  parts: z.array(z.string()).nullable().default(null),
  space: z.string(),
  remark: z.string(),
  state: z.enum(['packing', 'packed', 'broken']),
  begun: z.number(),
  hangs: z.boolean(),
  bytes: z.number().nullable(),
});
export type TCrate = z.infer<typeof TCrate>;

export const TState = z.object({
  crates: z.array(TCrate).default([]),
  spaces: z.array(TSpace),
  drops: z.array(TDrop),
  runs: z.array(TRun),
  next: z.number(),
});
export type TState = z.infer<typeof TState>;
