import * as z from 'zod';

/** What Quernhold knows of a course beyond its folders: only its own archive holds all of it. */

const named = { ref: z.string(), title: z.string() };

export const QRich = z.object({
  notices: z.array(z.object({ ...named, text: z.string(), posted: z.string() })),
  checklists: z.array(z.object({ ...named, steps: z.array(z.string()) })),
  automations: z.array(
    z.object({
      ...named,
      when: z.enum(['score-below', 'not-opened', 'absent', 'said']),
      said: z.string().optional(),
      item: z.string().nullable(),
      value: z.number(),
      mailTo: z.enum(['learner', 'tutor']),
      text: z.string(),
    }),
  ),
  attendance: z.nullable(
    z.object({
      ...named,
      marks: z.array(z.object({ code: z.string(), label: z.string(), share: z.number() })),
      sessions: z.array(z.string()),
    }),
  ),
  events: z.array(z.object({ ...named, text: z.string(), from: z.string(), to: z.string() })),
  rubrics: z.array(
    z.object({
      ...named,
      rows: z.array(
        z.object({
          title: z.string(),
          cells: z.array(z.object({ title: z.string(), points: z.number(), text: z.string() })),
        }),
      ),
    }),
  ),
  groups: z.array(z.object({ ...named, names: z.array(z.string()) })),
  ledger: z.object({
    letters: z.record(z.string(), z.number()),
    categories: z.array(z.object({ ...named, weight: z.number(), dropLowest: z.number(), equal: z.boolean() })),
    columns: z.array(
      z.object({
        ...named,
        points: z.number(),
        category: z.string().nullable(),
        item: z.string().nullable(),
        bonus: z.boolean(),
      }),
    ),
  }),
  /** Dates, conditions and locks by the item that they hold for. */
  rules: z.array(
    z.object({
      item: z.string(),
      opens: z.string().nullable(),
      due: z.string().nullable(),
      closes: z.string().nullable(),
      also: z.array(z.string()).optional(),
      after: z.nullable(z.object({ item: z.string(), score: z.number() })),
      done: z.enum(['viewed', 'handed in', 'passed']).nullable(),
      password: z.string().nullable(),
      lockdown: z.boolean(),
      originality: z.boolean(),
      group: z.string().nullable(),
      rubric: z.string().nullable(),
      starter: z.string().nullable(),
    }),
  ),
  people: z.array(z.object({ name: z.string(), mail: z.string(), number: z.string() })),
  work: z.array(z.object({ person: z.string(), item: z.string(), score: z.number() })),
  /** Paths of files that are only linked from the shared repository, and where they are there. */
  linked: z.record(z.string(), z.string()),
});
export type QRich = z.infer<typeof QRich>;

export const NOTHING: QRich = {
  notices: [],
  checklists: [],
  automations: [],
  attendance: null,
  events: [],
  rubrics: [],
  groups: [],
  ledger: { letters: {}, categories: [], columns: [] },
  rules: [],
  people: [],
  work: [],
  linked: {},
};
