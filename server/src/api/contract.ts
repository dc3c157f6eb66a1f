import {
  Comparison,
  Course,
  Decision,
  Finding,
  Forecast,
  HouseRules,
  Match,
  Note,
  Problem,
  Profile,
  Rule,
  SourceFacts,
  SubjectKind,
  Totals,
  TransferReport,
  Weight,
} from '@treenail/core';
import * as z from 'zod';

/** Every request and answer of the API, shared with the web application. Times are ISO 8601 in UTC; sizes are bytes. */

export const Role = z.enum(['administrator', 'instructor']);
export type Role = z.infer<typeof Role>;

export const Person = z.object({ id: z.number(), name: z.string(), email: z.string(), role: Role });
export type Person = z.infer<typeof Person>;

/** Whether a person is told by mail of long jobs that are done, and of those that failed. */
export const MailChoice = z.object({ done: z.boolean(), failed: z.boolean() });
export type MailChoice = z.infer<typeof MailChoice>;

export const SignIn = z.object({ email: z.email(), password: z.string().min(1).max(200) });
export type SignIn = z.infer<typeof SignIn>;

export const InstanceSummary = z.object({
  id: z.number(),
  name: z.string(),
  platform: z.string(),
  /** Whether courses can be fetched from it, or delivered into it. */
  gives: z.boolean(),
  takes: z.boolean(),
  /** It will be gone on a day that is known. */
  leaving: z.boolean(),
  listedAt: z.string().nullable(),
  /** Why the last listing failed, if it did. */
  trouble: z.string().nullable(),
});
export type InstanceSummary = z.infer<typeof InstanceSummary>;

export const ExportFormId = z.enum(['standard', 'archive']);
export type ExportFormId = z.infer<typeof ExportFormId>;

export const Health = z.object({
  ok: z.boolean(),
  checkedAt: z.string(),
  /** Milliseconds that its answer took. */
  took: z.number(),
  queue: z.number(),
  /** Seconds one job of its queue takes, about. */
  each: z.number(),
  problem: z.string().nullable(),
});
export type Health = z.infer<typeof Health>;

export const PlatformSummary = InstanceSummary.extend({
  label: z.string(),
  baseUrl: z.string(),
  health: Health.nullable(),
  cutOff: z.object({ at: z.string(), why: z.string() }).nullable(),
  courses: z.number(),
  withoutCopy: z.number(),
  forms: z.array(z.object({ id: z.string(), label: z.string(), lacks: z.array(z.string()) })),
  exportsCount: z.boolean(),
  /** Since when it is paused: no job asks it for anything. */
  pausedAt: z.string().nullable(),
  /** Minutes that a job waits for it while it does not answer. */
  patienceMinutes: z.number(),
  /** Jobs of it that failed and were not put away. */
  failedJobs: z.number(),
  /** Formats that it takes courses in, the first unless another is chosen. */
  takesAs: z.array(z.string()),
  profileVersion: z.number().nullable(),
});
export type PlatformSummary = z.infer<typeof PlatformSummary>;

export const PlatformKindSummary = z.object({ id: z.string(), label: z.string() });
export type PlatformKindSummary = z.infer<typeof PlatformKindSummary>;

export const DescriptionSummary = z.object({
  /** Identifier of the description: that of the kind of archive. */
  archive: z.string(),
  name: z.string(),
  version: z.number(),
  text: z.string(),
  /** Whether archives of its kind are read by it. */
  inUse: z.boolean(),
  changedAt: z.string(),
});
export type DescriptionSummary = z.infer<typeof DescriptionSummary>;

export const DescriptionAnswer = z.object({
  archive: z.string(),
  inUse: z.boolean(),
  /** The newest first. */
  versions: z.array(
    z.object({
      version: z.number(),
      text: z.string(),
      note: z.string(),
      changedBy: z.string().nullable(),
      changedAt: z.string(),
    }),
  ),
});
export type DescriptionAnswer = z.infer<typeof DescriptionAnswer>;

export const NewDescription = z.object({
  text: z.string().max(500_000),
  inUse: z.boolean(),
  note: z.string().trim().max(300),
  /** The version it was written over; 0 for a first one. */
  after: z.number().int().min(0),
});
export type NewDescription = z.infer<typeof NewDescription>;

export const NewPlatform = z.object({
  name: z.string().trim().min(1).max(120),
  platform: z.string(),
  baseUrl: z
    .url({ protocol: /^https?$/ })
    .max(300)
    .refine((text) => {
      const { search, hash, username, password } = new URL(text);
      return search + hash + username + password === '';
    }, 'An address without a question mark, a # and a name before an @.'),
  credential: z.string().min(1).max(500),
});
export type NewPlatform = z.infer<typeof NewPlatform>;

export const PlatformChange = z.object({
  credential: z.string().min(1).max(500).optional(),
  cutOff: z
    .object({ at: z.iso.datetime(), why: z.string().min(1).max(200) })
    .nullable()
    .optional(),
  paused: z.boolean().optional(),
  /** From a minute to a week. */
  patienceMinutes: z.number().int().min(1).max(10_080).optional(),
});
export type PlatformChange = z.infer<typeof PlatformChange>;

export const PlatformTest = z.object({ health: Health, courses: z.number().nullable() });
export type PlatformTest = z.infer<typeof PlatformTest>;

export const ProfileAnswer = z.object({
  profile: Profile,
  history: z.array(
    z.object({
      version: z.number(),
      changedAt: z.string(),
      by: z.string(),
      note: z.string(),
      changes: z.array(z.string()),
    }),
  ),
});
export type ProfileAnswer = z.infer<typeof ProfileAnswer>;

export const ProfileChange = z.object({ profile: Profile, note: z.string().trim().min(1).max(300) });
export type ProfileChange = z.infer<typeof ProfileChange>;

export const Term = z.object({
  name: z.string().min(1).max(60),
  from: z.iso.date(),
  to: z.iso.date(),
  breaks: z.array(z.object({ name: z.string().max(60), from: z.iso.date(), to: z.iso.date() })),
});
export type Term = z.infer<typeof Term>;

export const CourseSummary = z.object({
  id: z.number(),
  instance: z.object({ id: z.number(), name: z.string(), platform: z.string(), gives: z.boolean() }),
  code: z.string(),
  section: z.string(),
  term: z.string(),
  title: z.string(),
  owner: z.string(),
  size: z.number(),
  changedAt: z.string(),
  newestCopy: z.object({ id: z.number(), keptAt: z.string(), form: ExportFormId }).nullable(),
  /** When the instance will be gone, and why. */
  cutOff: z.object({ at: z.string(), why: z.string() }).nullable(),
  /** The newest move of this course. */
  move: z.object({ id: z.number(), step: z.string() }).nullable(),
  /** The newest fetch that is not over, or failed and was not seen. */
  fetch: z.object({ jobId: z.number(), state: z.string(), words: z.string() }).nullable(),
});
export type CourseSummary = z.infer<typeof CourseSummary>;

/** How the register is narrowed down. */
export const CourseFilter = z.object({
  words: z.string().max(200),
  instance: z.number().nullable(),
  lacks: z.enum(['no copy', 'old copy', 'cut-off']).nullable(),
});
export type CourseFilter = z.infer<typeof CourseFilter>;
export const SavedFilterSummary = z.object({ id: z.number(), name: z.string(), filter: CourseFilter });
export type SavedFilterSummary = z.infer<typeof SavedFilterSummary>;

export const CopySummary = z.object({
  form: z.enum(['standard', 'archive']),
  partial: z.boolean(),
  personal: z.boolean(),
  id: z.number(),
  fileName: z.string(),
  code: z.string(),
  section: z.string(),
  term: z.string(),
  title: z.string(),
  from: z.string(),
  format: z.string(),
  size: z.number(),
  sha256: z.string(),
  items: z.number(),
  keptAt: z.string(),
  moveId: z.number().nullable(),
  courseId: z.number().nullable(),
  /** What it holds, beside what the platform that gave it says of the course. */
  facts: SourceFacts,
  /** Its bytes are gone; that it was kept is still told. */
  removed: z.object({ at: z.string(), why: z.string() }).nullable(),
  /** When its bytes were found to be no more what they were. */
  damagedAt: z.string().nullable(),
});
export type CopySummary = z.infer<typeof CopySummary>;

/** What is to be fetched of a course. Personal data needs a reason, which goes into the trail. */
export const FetchOptions = z
  .object({
    form: ExportFormId,
    parts: z.array(z.string()).min(1).max(5000).nullable(),
    copyLinked: z.boolean(),
    personal: z.boolean(),
    reason: z.string().max(300),
    /** The platform's own export file is removed once a copy is kept. */
    removeAfter: z.boolean(),
  })
  .refine((o) => !o.personal || o.reason.trim().length >= 5, 'Personal data is fetched only with a reason.');
export type FetchOptions = z.infer<typeof FetchOptions>;

/** Parts can be chosen of one course only. Both forms at once are two fetches. */
export const FetchRequest = z.object({ courseIds: z.array(z.number().int()).min(1).max(500), options: FetchOptions });
export type FetchRequest = z.infer<typeof FetchRequest>;

export const CoursePart: z.ZodType<CoursePart> = z.object({
  ref: z.string(),
  title: z.string(),
  kind: z.string(),
  bytes: z.number(),
  get inside() {
    return z.array(CoursePart);
  },
});
export interface CoursePart {
  ref: string;
  title: string;
  kind: string;
  bytes: number;
  inside: CoursePart[];
}

export const FormSummary = z.object({
  id: ExportFormId,
  label: z.string(),
  extension: z.string(),
  lacks: z.array(z.string()),
});
export type FormSummary = z.infer<typeof FormSummary>;

export const PartsAnswer = z.object({ parts: z.array(CoursePart), forms: z.array(FormSummary) });
export type PartsAnswer = z.infer<typeof PartsAnswer>;

/** What fetching these courses will cost, by the instance they are on and the form they are fetched in. */
export const CostsAnswer = z.array(
  z.object({
    instance: z.string(),
    courses: z.number(),
    /** Why the instance could not say, if it could not. */
    trouble: z.string().nullable(),
    forms: z.array(
      FormSummary.extend({
        bytes: z.number(),
        /** Courses whose size is not told. */
        unsized: z.number(),
        /** Items of all the courses; `null` where one is not told. */
        items: z.number().nullable(),
        /** Other people's jobs before the first of them. */
        ahead: z.number().nullable(),
        /** Until the last of them is ready, by what the platform says. */
        seconds: z.number().nullable(),
      }),
    ),
  }),
);
export type CostsAnswer = z.infer<typeof CostsAnswer>;

export const EstimateAnswer = z.object({
  bytes: z.number().nullable(),
  items: z.number().nullable(),
  ahead: z.number().nullable(),
  seconds: z.number().nullable(),
});
export type EstimateAnswer = z.infer<typeof EstimateAnswer>;

export const JobState = z.enum(['queued', 'running', 'waiting', 'done', 'failed', 'called off']);
export type JobState = z.infer<typeof JobState>;

export const JobKind = z.enum([
  'register',
  'mail',
  'intake',
  'fetch',
  'look',
  'tidy',
  'outside',
  'build',
  'deliver',
  'check',
]);
export type JobKind = z.infer<typeof JobKind>;

export const JobSummary = z.object({
  id: z.number(),
  kind: JobKind,
  moveId: z.number().nullable(),
  courseId: z.number().nullable(),
  /** Course code and section. */
  course: z.string(),
  state: JobState,
  /** What it is doing, in words. */
  words: z.string(),
  /** Other people's jobs before it at the platform; `null` where it does not wait there. */
  ahead: z.number().nullable(),
  done: z.number(),
  total: z.number(),
  unit: z.string(),
  problem: Problem.nullable(),
  createdAt: z.string(),
  finishedAt: z.string().nullable(),
  seen: z.boolean(),
  /** It is being called off. */
  callOff: z.boolean(),
});
export type JobSummary = z.infer<typeof JobSummary>;

export const MOVE_STEPS = ['fetch', 'look', 'tidy', 'fit', 'build', 'deliver', 'check', 'hand-over'] as const;
export const MoveStep = z.enum(MOVE_STEPS);
export type MoveStep = z.infer<typeof MoveStep>;

/** `open`: gone past, though something of it is left to decide. */
export const StepState = z.enum(['done', 'open', 'here', 'working', 'failed', 'ahead']);
export type StepState = z.infer<typeof StepState>;

export const MoveSummary = z.object({
  id: z.number(),
  course: z.object({ id: z.number(), code: z.string(), section: z.string(), term: z.string(), title: z.string() }),
  from: z.object({ id: z.number(), name: z.string(), platform: z.string() }),
  to: z.object({ id: z.number(), name: z.string(), platform: z.string() }),
  /** Each step with its state and one line of result. */
  steps: z.array(z.object({ step: MoveStep, state: StepState, result: z.string() })),
  at: MoveStep,
  createdAt: z.string(),
  copy: CopySummary.nullable(),
  built: z.object({ fileName: z.string(), format: z.string(), size: z.number(), sha256: z.string() }).nullable(),
  shell: z.object({ id: z.string(), title: z.string(), url: z.string() }).nullable(),
  /** Whether its fit can be opened again: it is accepted, and nothing is delivered yet. */
  canReopen: z.boolean(),
  calledOffAt: z.string().nullable(),
  putAwayAt: z.string().nullable(),
  jobs: z.array(JobSummary),
});
export type MoveSummary = z.infer<typeof MoveSummary>;

/** The newest moves, and how many there are of which not all may be told. */
export const MovesAnswer = z.object({
  moves: z.array(MoveSummary),
  /** Moves that are not put away, or of all where those are asked for too. */
  total: z.number(),
  away: z.number(),
});
export type MovesAnswer = z.infer<typeof MovesAnswer>;
/** How many moves are told at most, and whether those that were put away are among them. */
export const MovesAsked = z.object({
  most: z.coerce.number().int().min(1).max(2000).default(100),
  away: z.stringbool().default(false),
});
export type MovesAsked = z.infer<typeof MovesAsked>;

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

/** An export that lies at a platform. */
export const RemoteExportSummary = z.object({
  id: z.string(),
  course: z.string(),
  bytes: z.number().nullable(),
  ready: z.boolean(),
  madeAt: z.string().nullable(),
  /** Treenail asked for it. */
  ours: z.boolean(),
});
export type RemoteExportSummary = z.infer<typeof RemoteExportSummary>;

/** What a person says of a file that is taken in. An empty title is taken from the package. */
export const Intake = z.object({
  fileName: z.string().min(1).max(300),
  /** The course in the register that the file is a copy of; without it, it stands under the files. */
  courseId: z.coerce.number().int().positive().optional(),
  code: z.string().max(60),
  section: z.string().max(30),
  term: z.string().max(60),
  title: z.string().max(300),
});
export type Intake = z.infer<typeof Intake>;

export const DeliverRequest = z.object({
  section: z.string().min(1).max(30),
  term: z.string().min(1).max(60),
  title: z.string().min(1).max(300),
});
export type DeliverRequest = z.infer<typeof DeliverRequest>;

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

/** A kind of finding, in words for the destination of the move. */
export const FindingKindAnswer = z.object({
  id: z.string(),
  label: z.string(),
  weight: Weight,
  why: z.string(),
  mends: z.array(z.string()),
});
export type FindingKindAnswer = z.infer<typeof FindingKindAnswer>;

export const RuleSummary = z.object({ id: z.number(), rule: Rule });
export type RuleSummary = z.infer<typeof RuleSummary>;

/** Everything there is to decide of a course before it is moved. */
export const TidyAnswer = z.object({
  findings: z.array(Finding),
  kinds: z.array(FindingKindAnswer),
  decisions: z.array(Decision),
  rules: z.array(RuleSummary),
  failed: z.array(z.object({ key: z.string(), decision: z.string(), why: z.string() })),
  leftOut: z.array(z.string()),
  pulledIn: z.array(z.object({ item: z.string(), by: z.string() })),
  dangling: z.array(z.object({ item: z.string(), to: z.string(), words: z.string() })),
  /** Whether the working copy has everything in it that was decided. */
  current: z.boolean(),
  /** Whether decisions can still be made: until the fit is accepted. */
  open: z.boolean(),
});
export type TidyAnswer = z.infer<typeof TidyAnswer>;

export const NewDecision = z.object({
  match: Match,
  mend: z.string().max(60),
  params: z.record(z.string(), z.string().max(2000)),
  reason: z.string().trim().max(300),
});
export type NewDecision = z.infer<typeof NewDecision>;

export const BeforeAfterAnswer = z.object({
  before: z.string(),
  after: z.string(),
  line: z.number().nullable(),
  why: z.string().nullable(),
});
export type BeforeAfterAnswer = z.infer<typeof BeforeAfterAnswer>;

/** Moves that a rule could be used for, with how many of their findings it fits. */
export const RuleUse = z.object({ moveId: z.number(), course: z.string(), title: z.string(), findings: z.number() });
export type RuleUse = z.infer<typeof RuleUse>;

export { HouseRules };

export const LookAnswer = z.object({
  course: Course,
  inventory: InventoryAnswer,
  notes: z.array(Note),
  /** Whether there is a working copy with mends in it, that previews can be of. */
  mended: z.boolean(),
});
export type LookAnswer = z.infer<typeof LookAnswer>;

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
});
export type FitAnswer = z.infer<typeof FitAnswer>;

export const CheckAnswer = z.object({ course: Course, arrived: Course, comparison: Comparison });
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

export const PreviewAnswer = z.discriminatedUnion('form', [
  z.object({ form: z.literal('page'), html: z.string() }),
  z.object({ form: z.literal('text'), text: z.string() }),
  z.object({ form: z.enum(['image', 'audio', 'video', 'pdf']), dataUrl: z.string() }),
  z.object({ form: z.literal('long'), as: z.enum(['image', 'audio', 'video']), path: z.string() }),
  z.object({ form: z.literal('none'), why: z.string() }),
]);
export type PreviewAnswer = z.infer<typeof PreviewAnswer>;

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
export { TransferReport };

export const Found = z.object({
  kind: z.enum(['course', 'move', 'copy', 'item']),
  title: z.string(),
  detail: z.string(),
  link: z.string(),
});
export type Found = z.infer<typeof Found>;

/** RFC 9457, with Treenail's stable code and what to do. */
export const ProblemDocument = z.object({
  type: z.string(),
  title: z.string(),
  status: z.number(),
  code: z.string(),
  detail: z.string(),
  action: z.string(),
  /** Where in what was sent or read: file, item, 1-based line. */
  file: z.string().optional(),
  item: z.string().optional(),
  line: z.number().int().optional(),
});
export type ProblemDocument = z.infer<typeof ProblemDocument>;
