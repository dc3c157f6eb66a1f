import * as z from 'zod';

/** What stands in Quernhold's archive, record by record. What is new to this reader is let through and kept. */

const named = { ref: z.string(), title: z.string() };
const text = z.string();

export const Head = z.looseObject({
  k: z.literal('quern/4'),
  id: text.default(''),
  code: text,
  sec: text,
  term: text,
  ttl: text,
  own: text,
  abt: text,
  kw: z.array(text),
  rights: text.optional(),
  lang: text.optional(),
});

export const Question = z.object({
  ref: text,
  title: text,
  prompt: text,
  points: z.number().nullable(),
  topic: text.nullable(),
  type: z.enum(['choice', 'several', 'truth', 'blank', 'pattern', 'essay']),
  choices: z.array(z.object({ text, right: z.boolean() })),
  answers: z.array(text),
  feedback: text.nullable(),
  model: text.nullable(),
  /** Its texts are HTML, choices and feedback too. */
  marked: z.boolean().default(false),
  /** Places, from 1, of the answers that count only as they are written. */
  exact: z.array(z.number()).default([]),
});
export type Question = z.infer<typeof Question>;

const attached = z.array(text);
const node = {
  k: z.literal('node'),
  up: text.nullable(),
  place: z.number(),
  ref: text,
  ttl: text,
  /** What the folder was called where it came from. */
  was: text.optional(),
};

export const Node = z.discriminatedUnion('sort', [
  z.object({ ...node, sort: z.literal('folder'), abt: text.default('') }),
  z.object({
    ...node,
    sort: z.literal('page'),
    has: z.object({ path: text, tutorsOnly: z.boolean(), use: text.nullable(), shownTo: text.optional() }),
  }),
  z.object({ ...node, sort: z.literal('file'), has: z.object({ path: text }) }),
  z.object({
    ...node,
    sort: z.literal('link'),
    has: z.object({ url: text, newWindow: z.boolean(), window: text.optional() }),
  }),
  z.object({ ...node, sort: z.literal('talk'), has: z.object({ text, attached }) }),
  z.object({
    ...node,
    sort: z.literal('task'),
    has: z.object({ text, points: z.number().nullable(), ways: z.array(text), notes: text.nullable(), attached }),
  }),
  z.object({
    ...node,
    sort: z.literal('tool'),
    has: z.object({ url: text, about: text, parameters: z.record(z.string(), z.string()) }),
  }),
  z.object({
    ...node,
    sort: z.literal('words'),
    has: z.object({
      about: text,
      words: z.array(z.object({ word: text, means: text, pictures: z.array(text) })),
    }),
  }),
  z.object({
    ...node,
    sort: z.literal('quiz'),
    has: z.object({
      intro: text,
      tries: z.number().nullable(),
      minutes: z.number().nullable(),
      questions: z.array(Question),
    }),
  }),
]);
export type Node = z.infer<typeof Node>;

const of = <K extends string, S extends z.ZodType>(k: K, has: S) => z.object({ k: z.literal(k), has });

export const Thing = z.discriminatedUnion('k', [
  z.object({ k: z.literal('bank'), ref: text, ttl: text, has: z.object({ questions: z.array(Question) }) }),
  of('notices', z.object({ ...named, text, posted: text })),
  of('checklists', z.object({ ...named, steps: z.array(text) })),
  of(
    'automations',
    z.object({
      ...named,
      when: z.enum(['score-below', 'not-opened', 'absent', 'said']),
      /** The rule in words, where it is `said`. */
      said: text.optional(),
      item: text.nullable(),
      value: z.number(),
      mailTo: z.enum(['learner', 'tutor']),
      text,
    }),
  ),
  of('events', z.object({ ...named, text, from: text, to: text })),
  of(
    'rubrics',
    z.object({
      ...named,
      rows: z.array(z.object({ title: text, cells: z.array(z.object({ title: text, points: z.number(), text })) })),
    }),
  ),
  of('groups', z.object({ ...named, names: z.array(text) })),
  of(
    'rules',
    z.object({
      item: text,
      opens: text.nullable(),
      due: text.nullable(),
      closes: text.nullable(),
      after: z.object({ item: text, score: z.number() }).nullable(),
      /** Further conditions, in words. */
      also: z.array(text).default([]),
      done: text.nullable(),
      password: text.nullable(),
      lockdown: z.boolean(),
      originality: z.boolean(),
      group: text.nullable(),
      rubric: text.nullable(),
      starter: text.nullable(),
    }),
  ),
  of('people', z.object({ name: text, mail: text, number: text })),
  of('work', z.object({ person: text, item: text, score: z.number() })),
  of(
    'attendance',
    z.object({
      ...named,
      marks: z.array(z.object({ code: text, label: text, share: z.number() })),
      sessions: z.array(text),
    }),
  ),
  of(
    'ledger',
    z.object({
      letters: z.record(z.string(), z.number()),
      categories: z.array(z.object({ ...named, weight: z.number(), dropLowest: z.number(), equal: z.boolean() })),
      columns: z.array(
        z.object({
          ...named,
          points: z.number(),
          category: text.nullable(),
          item: text.nullable(),
          bonus: z.boolean(),
        }),
      ),
    }),
  ),
  of('linked', z.record(z.string(), z.string())),
]);
export type Thing = z.infer<typeof Thing>;
export type ThingOf<K extends Thing['k']> = Extract<Thing, { k: K }>;
