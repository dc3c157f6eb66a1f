import * as z from 'zod';

/** How Quernhold keeps a course. */
export const QQuestion = z.object({
  ref: z.string(),
  title: z.string(),
  prompt: z.string(),
  points: z.number(),
  topic: z.string().nullable(),
  type: z.enum(['choice', 'several', 'truth', 'blank', 'pattern', 'essay']),
  choices: z.array(z.object({ text: z.string(), right: z.boolean() })),
  answers: z.array(z.string()),
  feedback: z.string().nullable(),
  model: z.string().nullable(),
});
export type QQuestion = z.infer<typeof QQuestion>;

const named = { ref: z.string(), title: z.string() };

export type QNode = { kind: 'folder'; ref: string; title: string; inside: QNode[] } | z.infer<typeof QLeaf>;

const QLeaf = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('page'),
    ...named,
    path: z.string(),
    tutorsOnly: z.boolean(),
    use: z.enum(['syllabus', 'lessonplan']).nullable(),
  }),
  z.object({ kind: z.literal('file'), ...named, path: z.string() }),
  z.object({ kind: z.literal('link'), ...named, url: z.string(), newWindow: z.boolean() }),
  z.object({ kind: z.literal('talk'), ...named, text: z.string(), attached: z.array(z.string()) }),
  z.object({
    kind: z.literal('task'),
    ...named,
    text: z.string(),
    points: z.number(),
    ways: z.array(z.string()),
    notes: z.string().nullable(),
    attached: z.array(z.string()),
  }),
  z.object({
    kind: z.literal('tool'),
    ...named,
    url: z.string(),
    about: z.string(),
    parameters: z.record(z.string(), z.string()),
  }),
  z.object({
    kind: z.literal('quiz'),
    ...named,
    intro: z.string(),
    tries: z.number(),
    minutes: z.number(),
    questions: z.array(QQuestion),
  }),
]);

const QFolder: z.ZodType<QNode> = z.object({
  kind: z.literal('folder'),
  ...named,
  get inside() {
    return z.array(z.union([QLeaf, QFolder]));
  },
});

export const QCourse = z.object({
  id: z.string(),
  code: z.string(),
  section: z.string(),
  term: z.string(),
  title: z.string(),
  owner: z.string(),
  about: z.string(),
  keywords: z.array(z.string()),
  changedAt: z.string(),
  nodes: z.array(z.union([QLeaf, QFolder])),
  banks: z.array(z.object({ ...named, questions: z.array(QQuestion) })),
});
export type QCourse = z.infer<typeof QCourse>;

/** One export in the queue: a bundle of a course, or somebody else's job that is only waited for. */
export const QJob = z.object({
  id: z.string(),
  course: z.string().nullable(),
  /** Free words of whoever asked; Quernhold only repeats them. */
  note: z.string(),
  askedAt: z.number(),
  startedAt: z.number().nullable(),
  takes: z.number(),
  state: z.enum(['waiting', 'building', 'ready', 'failed']),
  size: z.number().nullable(),
});
export type QJob = z.infer<typeof QJob>;

export const QState = z.object({ courses: z.array(QCourse), jobs: z.array(QJob), next: z.number() });
export type QState = z.infer<typeof QState>;

export function* leaves(nodes: readonly QNode[]): Generator<Exclude<QNode, { kind: 'folder' }>> {
  for (const node of nodes) {
    if (node.kind === 'folder') yield* leaves(node.inside);
    else yield node;
  }
}
