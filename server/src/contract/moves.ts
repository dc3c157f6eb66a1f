import {
  AS_IT_WAS,
  Along,
  Comparison,
  Course,
  Decision,
  Forecast,
  QuietHours,
  RedatePlan,
  Totals,
} from '@treenail/core';
import * as z from 'zod';
import { CopySummary } from './copies.ts';
import { Errand } from './errands.ts';
import { FormSummary } from './fetches.ts';
import { WayIn } from './into.ts';
import { JobSummary } from './jobs.ts';
import { page, pageAsked } from './pages.ts';

/** A move, step by step. */

export const MOVE_STEPS = [
  'fetch',
  'look',
  'tidy',
  're-date',
  'fit',
  'build',
  'deliver',
  'check',
  'hand-over',
] as const;

export const MoveStep = z.enum(MOVE_STEPS);
export type MoveStep = z.infer<typeof MoveStep>;

/** What people call the steps. */
export const STEP_NAMES: Readonly<Record<MoveStep, string>> = {
  fetch: 'Fetch',
  look: 'Look inside',
  tidy: 'Tidy',
  're-date': 'Re-date',
  fit: 'Dry fit',
  build: 'Build',
  deliver: 'Deliver',
  check: 'Check',
  'hand-over': 'Hand over',
};

/** `open`: gone past, though something of it is left to decide. */
export const StepState = z.enum(['done', 'open', 'here', 'working', 'failed', 'ahead']);
export type StepState = z.infer<typeof StepState>;

/** A course at the destination, as it was made for a delivery. */
export const Shell = z.object({ id: z.string(), title: z.string(), url: z.string() });

/** What was decided of a move when its fit was accepted. */
export const PlanContent = z.object({
  carriedAs: z.string().nullable(),
  formChosen: z.boolean(),
  decisions: z.array(Decision),
  /** Identifiers of items that do not go. */
  leftOut: z.array(z.string()),
  along: Along.default(AS_IT_WAS),
  /** `null` where dates went as they were, and of plans from before there was such a step. */
  redate: RedatePlan.nullable().default(null),
  /** Of the forecast that was accepted. */
  totals: Totals,
});
export type PlanContent = z.infer<typeof PlanContent>;

export const MoveSummary = z.object({
  id: z.number(),
  course: z.object({ id: z.number(), code: z.string(), section: z.string(), term: z.string(), title: z.string() }),
  from: z.object({ id: z.number(), name: z.string(), platform: z.string() }),
  to: z.object({ id: z.number(), name: z.string(), platform: z.string(), quiet: QuietHours.nullable() }),
  /** Each step with its state and one line of result. */
  steps: z.array(
    z.object({
      step: MoveStep,
      state: StepState,
      result: z.string(),
      /** Who decided it; `null` where Treenail went on by itself, or nobody has decided yet. */
      by: z.string().nullable(),
      /** When it was changed last. */
      at: z.string().nullable(),
    }),
  ),
  /** The version of the plan that counts: one more each time that an accepted fit is opened again. */
  planVersion: z.number().int(),
  /** What was sent, or is on its way, the earliest first. */
  deliveries: z.array(
    z.object({
      planVersion: z.number().int(),
      askedAt: z.string(),
      by: z.string().nullable(),
      deliveredAt: z.string().nullable(),
      takenBackAt: z.string().nullable(),
      /** How it went into a course that was there; `null` of one that went into a new shell. */
      way: WayIn.nullable(),
      shell: Shell.nullable(),
    }),
  ),
  at: MoveStep,
  createdAt: z.string(),
  copy: CopySummary.nullable(),
  built: z.object({ fileName: z.string(), format: z.string(), size: z.number(), sha256: z.string() }).nullable(),
  shell: Shell.nullable(),
  /** Whether its fit can be opened again: it is accepted, and nothing is delivered yet. */
  canReopen: z.boolean(),
  /** Which part it is that is being moved or was moved last: more than 1 where others went before. */
  part: z.number().int(),
  /** Whether a further part can be begun: all is delivered and checked that was to go. */
  canSendMore: z.boolean(),
  /** Whether its delivery can be taken back, as far as Treenail knows. */
  canTakeBack: z.boolean(),
  /** What it restores or gives; `null` of a move like any other. */
  errand: Errand.nullable(),
  calledOffAt: z.string().nullable(),
  putAwayAt: z.string().nullable(),
  jobs: z.array(JobSummary),
});
export type MoveSummary = z.infer<typeof MoveSummary>;

export const MovesAsked = pageAsked(['course', 'from', 'to', 'started', 'steps', 'at', 'result']).extend({
  /** Whether those that were put away are among them. */
  away: z.stringbool().default(false),
});
export type MovesAsked = z.output<typeof MovesAsked>;

export const MovesPage = page(
  MoveSummary,
  z.object({
    /** Moves that are not put away, or all where those are asked for too. */
    all: z.number().int(),
    /** Of these, how many wait for a person. */
    waiting: z.number().int(),
    /** Moves that are put away. */
    away: z.number().int(),
  }),
);
export type MovesPage = z.infer<typeof MovesPage>;

/** Begins with the kept copy named, or with a fetch where none is. */
export const NewMove = z.object({
  courseId: z.number().int(),
  destinationId: z.number().int(),
  copyId: z.number().int().optional(),
  /**
   * Another move beside one that is not delivered yet, under a key of the asker's: the same key gives the same move.
   * Without one, asking again gives the move that is there.
   */
  another: z
    .string()
    .regex(/^[\w-]{8,60}$/)
    .optional(),
});
export type NewMove = z.infer<typeof NewMove>;

/** What a move of a course can begin with, and what there is of it already. */
export const BeginningsAnswer = z.object({
  /** Packages that its platform can make, the one that keeps the most first. */
  forms: z.array(FormSummary),
  copies: z.array(CopySummary),
  /** Moves of it that are neither delivered nor called off. */
  open: z.array(z.object({ id: z.number(), destinationId: z.number(), at: MoveStep })),
});
export type BeginningsAnswer = z.infer<typeof BeginningsAnswer>;

/** Courses that a destination has already and that a delivery would stand beside. */
export const ThereAnswer = z.object({
  courses: z.array(
    z.object({
      title: z.string(),
      code: z.string(),
      section: z.string(),
      term: z.string(),
      /** The move that brought it, where Treenail did. */
      moveId: z.number().nullable(),
      at: z.string().nullable(),
    }),
  ),
  /** When the destination was listed last. */
  listedAt: z.string().nullable(),
});
export type ThereAnswer = z.infer<typeof ThereAnswer>;

export const DeliverRequest = z.object({
  section: z.string().min(1).max(30),
  term: z.string().min(1).max(60),
  title: z.string().min(1).max(300),
  /** What a person typed to say that they know what will be gone. */
  typed: z.string().max(300).default(''),
  /** What is kept goes, though the course was changed at its source since. */
  asKept: z.boolean().default(false),
  /** It waits for the quiet hours of the instance, where it has any. */
  quiet: z.boolean().default(false),
});
export type DeliverRequest = z.infer<typeof DeliverRequest>;

/** A format that a move could be carried in, and what would become of the course in it. */
export const FormChoice = z.object({
  target: z.string(),
  label: z.string(),
  totals: Totals,
  own: z.boolean(),
  chosen: z.boolean(),
});
export type FormChoice = z.infer<typeof FormChoice>;

export const FitAnswer = z.object({
  course: Course,
  forecast: Forecast,
  forms: z.array(FormChoice),
  /** What is known to be missing before anything is moved, or not known to be there: a sentence each. */
  missing: z.array(z.string()),
  /** Findings that nobody has decided on. */
  open: z.number(),
  /** How the dates stand that somebody should look at before; '' where there is nothing to. */
  dates: z.string(),
  /** What the course that it goes into is, and what that does there; none where it goes into a new shell. */
  into: z.array(z.string()),
  /** Of a further part what it will do to what stands there: a sentence each. */
  part: z.array(z.string()),
  /** Whether it is foretold of all that was decided: what was decided last may still be on its way. */
  current: z.boolean(),
});
export type FitAnswer = z.infer<typeof FitAnswer>;

export const CheckAnswer = z.object({
  course: Course,
  /** Without what stood there before, where it went beside that. */
  arrived: Course,
  comparison: Comparison,
  /** What became of what stood there before; '' where nothing did. */
  theirs: z.string(),
});
export type CheckAnswer = z.infer<typeof CheckAnswer>;

export const DeliverAnswer = z.object({
  log: z.array(
    z.object({
      line: z.string(),
      words: z.string().nullable(),
      item: z.string().nullable(),
      key: z.string().nullable(),
    }),
  ),
});
export type DeliverAnswer = z.infer<typeof DeliverAnswer>;

/** What the destination wrote, with what people said of lines that Treenail does not know. */
export const LogAnswer = z.object({
  log: z.array(
    DeliverAnswer.shape.log.element.extend({
      /** What it has in common with lines that say the same: `…` stands for numbers and names of single things. */
      form: z.string(),
      /** Whether a person gave the words. */
      given: z.boolean(),
    }),
  ),
});
export type LogAnswer = z.infer<typeof LogAnswer>;

export const ReportSummary = z.object({
  moveId: z.number(),
  code: z.string(),
  section: z.string(),
  title: z.string(),
  destination: z.string(),
  checkedAt: z.string(),
  totals: Totals,
});
export type ReportSummary = z.infer<typeof ReportSummary>;
