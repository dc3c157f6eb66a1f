import { WAYS_IN } from '@treenail/core';
import * as z from 'zod';
import { FetchOptions, Intake, PLAIN, type JobKind, type MoveStep } from '../contract/index.ts';

/** One kind of job: what it is given, and all that is said of it. What it does stands in `handlers`. */
export interface JobDefinition<K extends JobKind = JobKind, I extends z.ZodType = z.ZodType> {
  readonly kind: K;
  readonly input: I;
  /** What it does, before it says so itself; of whom or what. */
  readonly words: (of: string) => string;
  /** What it is called in a mail; `null` where nobody is told of it by mail. */
  readonly mail: string | null;
  /** The step of a move that it does. */
  readonly step: MoveStep | null;
  /** Which platform of a move or a course it asks for something; held back while that is paused. */
  readonly asks: 'source' | 'destination' | null;
  /** Nobody waits for it: it is not shown, and done in the worker's own process. */
  readonly housekeeping: boolean;
}

type Given<K, I> = { kind: K; input: I; words: (of: string) => string } & Partial<
  Pick<JobDefinition, 'mail' | 'step' | 'asks' | 'housekeeping'>
>;

function defineJob<const K extends JobKind, I extends z.ZodType>(given: Given<K, I>): JobDefinition<K, I> {
  return { mail: null, step: null, asks: null, housekeeping: false, ...given };
}

/** How often what it does was begun anew: what was asked of a platform in a round is asked once. */
const Round = z.object({ round: z.number().int() });

/** Every kind of job. One is added by its line here, its name in the contract, and its handler. */
export const JOBS = {
  register: defineJob({
    kind: 'register',
    input: z.object({ instanceId: z.number() }),
    words: (of) => `listing ${of}`,
    housekeeping: true,
  }),
  mail: defineJob({
    kind: 'mail',
    input: z.object({ jobId: z.number(), userId: z.number() }),
    words: (of) => `telling ${of}`,
    housekeeping: true,
  }),
  intake: defineJob({
    kind: 'intake',
    input: z.object({ uploadId: z.string().regex(/^[0-9a-f]{32}$/), owner: z.string(), asked: Intake }),
    words: (of) => `reading ${of}`,
    mail: 'the file',
  }),
  fetch: defineJob({
    kind: 'fetch',
    input: Round.extend({
      options: FetchOptions.default(PLAIN),
      /** How often the export had to be asked for anew. */
      again: z.number().int().default(0),
      /** How far the export was, and since when it has not got on. */
      still: z.object({ done: z.number(), since: z.number() }).nullable().default(null),
    }),
    words: (of) => `fetching at ${of}`,
    mail: 'the fetch',
    step: 'fetch',
    asks: 'source',
  }),
  look: defineJob({
    kind: 'look',
    input: Round,
    words: () => 'looking inside',
    mail: 'the look inside',
    step: 'look',
  }),
  tidy: defineJob({
    kind: 'tidy',
    input: Round,
    words: () => 'putting the mends into the working copy',
    step: 'tidy',
  }),
  outside: defineJob({ kind: 'outside', input: Round, words: () => 'asking outside addresses' }),
  build: defineJob({
    kind: 'build',
    input: Round,
    words: () => 'building the package',
    mail: 'the build',
    step: 'build',
  }),
  deliver: defineJob({
    kind: 'deliver',
    input: Round.extend({
      shell: z.object({ code: z.string(), section: z.string(), term: z.string(), title: z.string() }),
      /** The course that it goes into, where others went before; a new shell is made where there is none. */
      into: z.object({ id: z.string(), title: z.string(), url: z.string() }).nullable().default(null),
      /** How it goes into a course that others than this move filled. */
      way: z.enum(WAYS_IN).nullable().default(null),
    }),
    words: (of) => `delivering to ${of}`,
    mail: 'the delivery',
    step: 'deliver',
    asks: 'destination',
  }),
  check: defineJob({
    kind: 'check',
    input: Round,
    words: (of) => `checking at ${of}`,
    mail: 'the check',
    step: 'check',
    asks: 'destination',
  }),
  'take-back': defineJob({
    kind: 'take-back',
    input: Round,
    words: (of) => `taking back at ${of}`,
    mail: 'taking back',
    asks: 'destination',
  }),
  give: defineJob({
    kind: 'give',
    input: Round.extend({ givenId: z.number().int() }),
    words: (of) => `making a file of ${of}`,
    mail: 'the file to give',
  }),
} satisfies { [K in JobKind]: JobDefinition<K> };

export type InputOf<K extends JobKind> = z.output<(typeof JOBS)[K]['input']>;
/** What a job is put into the queue with; what it leaves out is as it mostly is. */
export type GivenTo<K extends JobKind> = z.input<(typeof JOBS)[K]['input']>;

const ALL: readonly JobDefinition[] = Object.values(JOBS);

export function definitionOf(kind: JobKind): JobDefinition {
  return JOBS[kind];
}

export const HOUSEKEEPING: readonly JobKind[] = ALL.filter((d) => d.housekeeping).map((d) => d.kind);

/** Kinds that ask this side of a move for something. */
export function kindsThatAsk(side: 'source' | 'destination'): JobKind[] {
  return ALL.filter((d) => d.asks === side).map((d) => d.kind);
}

/** The job that does a step of a move; `null` where a person does it. */
export function jobOfStep(step: MoveStep): JobDefinition | null {
  return ALL.find((d) => d.step === step) ?? null;
}
