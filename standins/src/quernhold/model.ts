import * as z from 'zod';
import { NOTHING, QRich } from './rich.ts';

/** Archives that others packed may leave a number open. */
const counted = z.preprocess((n) => n ?? 0, z.number());

/** How Quernhold keeps a course. */
export const QQuestion = z.object({
  ref: z.string(),
  title: z.string(),
  prompt: z.string(),
  points: counted,
  topic: z.string().nullable(),
  type: z.enum(['choice', 'several', 'truth', 'blank', 'pattern', 'essay']),
  choices: z.array(z.object({ text: z.string(), right: z.boolean() })),
  answers: z.array(z.string()),
  feedback: z.string().nullable(),
  model: z.string().nullable(),
  marked: z.boolean().optional(),
  exact: z.array(z.number()).optional(),
});
export type QQuestion = z.infer<typeof QQuestion>;

const named = { ref: z.string(), title: z.string() };

export type QNode =
  | {
      kind: 'folder';
      ref: string;
      title: string;
      about?: string | undefined;
      was?: string | undefined;
      inside: QNode[];
    }
  | z.infer<typeof QLeaf>;

const QWord = z.object({ word: z.string(), means: z.string(), pictures: z.array(z.string()) });
export type QWord = z.infer<typeof QWord>;

const QLeaf = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('page'),
    ...named,
    path: z.string(),
    tutorsOnly: z.boolean(),
    use: z.enum(['syllabus', 'lessonplan']).nullable(),
    shownTo: z.string().optional(),
  }),
  z.object({ kind: z.literal('file'), ...named, path: z.string() }),
  z.object({
    kind: z.literal('link'),
    ...named,
    url: z.string(),
    newWindow: z.boolean(),
    window: z.string().optional(),
  }),
  z.object({ kind: z.literal('talk'), ...named, text: z.string(), attached: z.array(z.string()) }),
  z.object({
    kind: z.literal('task'),
    ...named,
    text: z.string(),
    points: counted,
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
    kind: z.literal('words'),
    ...named,
    about: z.string(),
    words: z.array(QWord),
  }),
  z.object({
    kind: z.literal('quiz'),
    ...named,
    intro: z.string(),
    tries: counted,
    minutes: counted,
    questions: z.array(QQuestion),
  }),
]);

const QFolder: z.ZodType<QNode> = z.object({
  kind: z.literal('folder'),
  ...named,
  about: z.string().optional(),
  was: z.string().optional(),
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
  rich: QRich.default(NOTHING),
  /** Free words of whoever made it; Quernhold only repeats them. */
  note: z.string().optional(),
  /** Bytes that the course and its bundles may take. */
  quota: z.number().default(2 ** 30),
  /** Nothing in it can be changed any more. */
  closed: z.boolean().default(false),
  /** How often anything in it became another. */
  turn: z.number().default(0),
  /** Notes of those who had it emptied: asked for again, it is not emptied again. */
  emptied: z.array(z.string()).default([]),
});
export type QCourse = z.infer<typeof QCourse>;

/** A course that nobody closed, changed or emptied yet. */
export const untouched = (): Pick<QCourse, 'closed' | 'turn' | 'emptied'> => ({ closed: false, turn: 0, emptied: [] });

/** What was asked of an export. */
export const QAsk = z.object({
  form: z.enum(['cartridge-1.1', 'archive']),
  note: z.string().max(200),
  /** Folders and leaves at the top of what is wanted; all where none are named. */
  parts: z.array(z.string()).nullable().default(null),
  /** Files of the shared repository: copied in, or left as links to it. */
  linked: z.enum(['copy', 'leave']).default('leave'),
  people: z.boolean().default(false),
});
export type QAsk = z.infer<typeof QAsk>;

/** One export in the queue: a bundle of a course, or somebody else's job that is only waited for. */
export const QJob = z.object({
  id: z.string(),
  course: z.string().nullable(),
  /** Free words of whoever asked; Quernhold only repeats them. */
  note: z.string(),
  ask: QAsk.nullable().default(null),
  askedAt: z.number(),
  startedAt: z.number().nullable(),
  takes: z.number(),
  state: z.enum(['waiting', 'building', 'ready', 'failed']),
  endedAt: z.number().nullable().default(null),
  /** Told to never end. */
  hangs: z.boolean().default(false),
  size: z.number().nullable(),
});
export type QJob = z.infer<typeof QJob>;

/** An archive that is sent in, piece by piece. */
export const QArrival = z.object({ id: z.string(), note: z.string(), bytes: z.number(), got: z.number() });
export type QArrival = z.infer<typeof QArrival>;

export const QRestore = z.object({
  id: z.string(),
  course: z.string(),
  arrival: z.string(),
  note: z.string(),
  state: z.enum(['waiting', 'unpacking', 'restored', 'failed']),
  startedAt: z.number().nullable(),
  log: z.array(z.string()),
});
export type QRestore = z.infer<typeof QRestore>;

export const QState = z.object({
  courses: z.array(QCourse),
  jobs: z.array(QJob),
  arrivals: z.array(QArrival).default([]),
  restores: z.array(QRestore).default([]),
  next: z.number(),
});
export type QState = z.infer<typeof QState>;

export function* leaves(nodes: readonly QNode[]): Generator<Exclude<QNode, { kind: 'folder' }>> {
  for (const node of nodes) {
    if (node.kind === 'folder') yield* leaves(node.inside);
    else yield node;
  }
}
