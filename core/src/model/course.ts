import * as z from 'zod';
import { Condition, conditionOfWords } from './condition.ts';
import { Question, RichText } from './question.ts';

/**
 * The neutral course model. Readers turn packages into it, writers turn it into packages; no format knows another.
 * Everything here is plain JSON: it goes into the database, over HTTP and between threads as it is. Bytes never do:
 * files are named by their path in the package they came from.
 */

const PlainValue = z.union([
  z.string(),
  z.number(),
  z.boolean(),
  z.array(z.string()),
  z.record(z.string(), z.string()),
]);
type PlainValue = z.infer<typeof PlainValue>;
/** The value of any setting. */
export const SettingValue = z.union([PlainValue, z.array(Condition)]);
export type SettingValue = z.infer<typeof SettingValue>;

/** Every setting that some reader can find. Its words on screen are in `SETTING_LABELS`. */
export const SETTINGS = [
  'points',
  'attempts',
  'timeLimit',
  'instructions',
  'submissionFormats',
  'instructorNotes',
  'audience',
  'intendedUse',
  'linkTarget',
  'customParameters',
  'vendor',
  'icon',
  'attachments',
  'embeds',
  'leads',
  'tracked',
  'prerequisites',
  'masteryScore',
  'launchData',
  'timeAllowed',
  'timeLimitAction',
  'completionThreshold',
  'sequencing',
  'parameters',
  'hidden',
  'description',
  'keywords',
  'standards',
  'variants',
  'draws',
  'opens',
  'due',
  'closes',
  'posted',
  'visibleWhen',
  'doneWhen',
  'password',
  'lockdown',
  'originality',
  'onlyFor',
  'usesRubric',
  'starterPost',
  'category',
  'gradesItem',
  'weight',
  'dropLowest',
  'equalPoints',
  'bonus',
  'sessions',
  'repository',
] as const;
export const SettingName = z.enum(SETTINGS);
export type SettingName = z.infer<typeof SettingName>;

export const SETTING_LABELS: Record<SettingName, string> = {
  points: 'points',
  attempts: 'attempts allowed',
  timeLimit: 'time limit, minutes',
  instructions: 'instructions',
  submissionFormats: 'ways to hand in',
  instructorNotes: 'notes for the instructor',
  audience: 'shown to',
  intendedUse: 'intended use',
  linkTarget: 'opens in',
  customParameters: 'parameters sent to the tool',
  vendor: 'vendor of the tool',
  icon: 'icon',
  attachments: 'attachments',
  embeds: 'files used in the text',
  leads: 'links to other items',
  tracked: 'reports to the platform',
  prerequisites: 'prerequisites',
  masteryScore: 'score to pass, per cent',
  launchData: 'data given at the start',
  timeAllowed: 'time allowed',
  timeLimitAction: 'what happens when time is up',
  completionThreshold: 'share that completes it',
  sequencing: 'sequencing rules',
  parameters: 'address parameters',
  hidden: 'hidden in the outline',
  description: 'description',
  keywords: 'keywords',
  standards: 'curriculum standards',
  variants: 'other versions of it',
  draws: 'questions drawn from banks',
  opens: 'opens',
  due: 'due',
  closes: 'closes',
  posted: 'posted',
  visibleWhen: 'shown only when',
  doneWhen: 'counts as done when',
  password: 'password',
  lockdown: 'locked-down browser',
  originality: 'originality check',
  onlyFor: 'only for the group',
  usesRubric: 'rubric',
  starterPost: 'first post',
  category: 'grade category',
  gradesItem: 'grades the item',
  weight: 'weight, per cent',
  dropLowest: 'lowest scores dropped',
  equalPoints: 'all worth the same',
  bonus: 'bonus',
  sessions: 'sessions',
  repository: 'lies in the shared repository',
};

/**
 * Lists and records hold: `attachments`, `embeds` package paths; `leads` the title by the identifier of each item that has
 * no page or file of its own; `standards` a label by the identifier of each; `variants`
 * identifiers of items; `draws` how many questions (or `all`) by the identifier of each bank.
 */
export type Settings = { [K in Exclude<SettingName, 'visibleWhen'>]?: PlainValue } & { visibleWhen?: Condition[] };

/** Before conditions were data they were written down in words. */
const Conditions = z
  .union([z.string().transform((words) => [words]), z.array(z.union([z.string(), Condition]))])
  .transform((all) => all.map((one) => (typeof one === 'string' ? conditionOfWords(one) : one)));

export const Settings = z
  .partialRecord(SettingName, SettingValue)
  .transform(({ visibleWhen, ...others }, context): Settings => {
    for (const [name, value] of Object.entries(others)) {
      if (Array.isArray(value) && value.some((one) => typeof one !== 'string')) {
        context.addIssue({ code: 'custom', message: 'is no condition', path: [name] });
      }
    }
    const plain = others as Omit<Settings, 'visibleWhen'>;
    return visibleWhen === undefined ? plain : { ...plain, visibleWhen: Conditions.parse(visibleWhen) };
  });

/** A value that is a list of names, paths or words; none where it is anything else. */
export function listIn(value: SettingValue | null | undefined): string[] {
  return Array.isArray(value) ? value.filter((one) => typeof one === 'string') : [];
}

const common = {
  /** The identifier that the item had in its package or on its platform. */
  id: z.string(),
  title: z.string(),
  /** Path of the file that holds the item's definition, if it has one of its own. */
  place: z.string().nullable(),
  settings: Settings,
  /** Fingerprint of the text without mark-up, or of the bytes; set by the survey. */
  print: z.string().optional(),
};

export const Page = z.object({ ...common, kind: z.literal('page'), file: z.string() });
export const FileItem = z.object({ ...common, kind: z.literal('file'), file: z.string() });
export const Link = z.object({ ...common, kind: z.literal('link'), url: z.string() });
export const Tool = z.object({ ...common, kind: z.literal('tool'), url: z.string(), description: z.string() });
export const Assignment = z.object({ ...common, kind: z.literal('assignment'), text: RichText });
export const Discussion = z.object({ ...common, kind: z.literal('discussion'), text: RichText });
export const Quiz = z.object({ ...common, kind: z.literal('quiz'), questions: z.array(Question) });
export const Bank = z.object({ ...common, kind: z.literal('bank'), questions: z.array(Question) });
/** Kinds that say something with a text and a table, and are no part of what learners go through. */
export const PLAIN_KINDS = [
  'announcement',
  'event',
  'checklist',
  'automation',
  'attendance',
  'rubric',
  'groups',
  'category',
  'column',
] as const;

/**
 * An announcement, event or automation is its `text`. `rows` hold, by kind: a checklist's steps; the marks of an
 * attendance register (code, label, per cent); a rubric's cells (criterion, level, points, text); the names of groups.
 * What grade categories and columns are is in their settings.
 */
export const PlainItem = z.object({
  ...common,
  kind: z.enum(PLAIN_KINDS),
  text: RichText,
  rows: z.array(z.array(z.string())),
});

/** A part of the package that the reader does not understand: kept as it is, carried where it can be. */
export const Foreign = z.object({
  ...common,
  kind: z.literal('foreign'),
  type: z.string(),
  files: z.array(z.string()),
});

export const Item = z.discriminatedUnion('kind', [
  Page,
  FileItem,
  Link,
  Tool,
  Assignment,
  Discussion,
  Quiz,
  Bank,
  PlainItem,
  Foreign,
]);
export type Item = z.infer<typeof Item>;
export type ItemKind = Item['kind'];
export type ItemOf<K extends ItemKind> = Extract<Item, { kind: K }>;

export const ITEM_KINDS = [
  'page',
  'file',
  'link',
  'tool',
  'assignment',
  'discussion',
  'quiz',
  'bank',
  ...PLAIN_KINDS,
  'foreign',
] as const satisfies readonly ItemKind[];
/** A folder is a place in the outline, not an item; forecasts and comparisons speak of both. */
export const SubjectKind = z.enum(['folder', 'heading', ...ITEM_KINDS]);
export type SubjectKind = z.infer<typeof SubjectKind>;

export const KIND_LABELS: Record<SubjectKind, string> = {
  folder: 'folder',
  heading: 'heading',
  page: 'page',
  file: 'file',
  link: 'web link',
  tool: 'external tool',
  assignment: 'assignment',
  discussion: 'discussion',
  quiz: 'quiz',
  bank: 'question bank',
  announcement: 'announcement',
  event: 'event',
  checklist: 'checklist',
  automation: 'automation',
  attendance: 'attendance register',
  rubric: 'rubric',
  groups: 'group set',
  category: 'grade category',
  column: 'grade column',
  foreign: 'foreign part',
};

/** A place in the outline. `item` is absent in folders; a heading is a label that holds nothing. */
export interface OutlineNode {
  id: string;
  title: string;
  heading?: boolean | undefined;
  item?: string | undefined;
  children: OutlineNode[];
}
export const OutlineNode: z.ZodType<OutlineNode> = z.object({
  id: z.string(),
  title: z.string(),
  heading: z.boolean().optional(),
  item: z.string().optional(),
  get children() {
    return z.array(OutlineNode);
  },
});

export const CourseFile = z.object({
  path: z.string(),
  size: z.number().int().nonnegative(),
  mediaType: z.string(),
  /** `content` is what an author would name; `definition` is XML that describes an item. */
  role: z.enum(['content', 'definition']),
  sha256: z.string().optional(),
});
export type CourseFile = z.infer<typeof CourseFile>;

export const Metadata = z.object({
  description: z.string().optional(),
  keywords: z.array(z.string()),
  rights: z.string().optional(),
  language: z.string().optional(),
  catalogEntry: z.string().optional(),
});
export type Metadata = z.infer<typeof Metadata>;

/** What a package holds of students: counted, and where it lies, so that it can be taken out. */
export const Personal = z.object({
  people: z.number().int(),
  submissions: z.number().int(),
  grades: z.number().int(),
  posts: z.number().int(),
  files: z.array(z.string()),
});
export type Personal = z.infer<typeof Personal>;

/** Where the course was read from. `untouched` ends when anything reshapes it. */
export const Origin = z.object({ format: z.string(), version: z.string(), untouched: z.boolean() });
export type Origin = z.infer<typeof Origin>;

/** What the platform that made the package calls the course; parts that it does not say are empty. */
export const Identity = z.object({
  /** The platform's own identifier of it. */
  id: z.string(),
  code: z.string(),
  section: z.string(),
  term: z.string(),
});
export type Identity = z.infer<typeof Identity>;

export const Course = z.object({
  title: z.string(),
  origin: Origin,
  identity: Identity.optional(),
  metadata: Metadata,
  outline: z.array(OutlineNode),
  items: z.array(Item),
  files: z.array(CourseFile),
  personal: Personal.optional(),
});
export type Course = z.infer<typeof Course>;

/** What is set of an item; `null` where nothing is, as where attempts are said to be without limit. */
export function settingOf({ settings }: Pick<Item, 'settings'>, name: SettingName): SettingValue | null {
  const value = settings[name];
  return value === undefined || (name === 'attempts' && value === 'unlimited') ? null : value;
}

/** The banks that a quiz draws from, and how many questions of each; `null` for all of them, and where no number is said. */
export function drawsOf({ settings: { draws } }: Pick<Item, 'settings'>): { bank: string; number: number | null }[] {
  if (typeof draws !== 'object' || Array.isArray(draws)) return [];
  return Object.entries(draws).map(([bank, said]) => ({ bank, number: Number(said) > 0 ? Number(said) : null }));
}
