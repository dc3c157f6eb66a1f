import * as z from 'zod';
import type { Span } from '../../markup/index.ts';
import { baseName, type Course, type CourseFile, type Item, type Profile } from '../../model/index.ts';
import { KnownAddresses, NO_ADDRESSES, type CourseLink } from '../links.ts';
import type { Passage } from '../reading.ts';

/** What a finding means for whoever meets it: the gravest first. */
export const WEIGHTS = ['breaks', 'exposes', 'weakens', 'clutters'] as const;
export const Weight = z.enum(WEIGHTS);
export type Weight = z.infer<typeof Weight>;

export const WEIGHT_LABELS: Record<Weight, string> = {
  breaks: 'will not work',
  exposes: 'personal data',
  weakens: 'worth a look',
  clutters: 'clutter',
};

/** Findings, decisions and rules that were kept before call the key of their group otherwise. */
export function underGroupKey(given: unknown): unknown {
  if (typeof given !== 'object' || given === null || !('like' in given)) return given;
  const { like: groupKey, ...rest } = given;
  return { groupKey, ...rest };
}

const SpanOf = z.object({ start: z.number(), end: z.number() });

/** Where in a text a finding stands, by offsets into the text as it was read. */
export const Spot = z.object({
  at: SpanOf,
  /** The tag it belongs to, and its closing tag. */
  open: SpanOf.nullable(),
  close: SpanOf.nullable(),
  /** Whether it stands in a style sheet, where characters are not written as entities. */
  inStyle: z.boolean(),
});
export type Spot = z.infer<typeof Spot>;

/** A mend that fits, with all it needs to be done. */
export const Suggestion = z.object({
  mend: z.string(),
  params: z.record(z.string(), z.string()),
  /** What it will do, in words: `Lead it to “Caulking”`. */
  words: z.string(),
});
export type Suggestion = z.infer<typeof Suggestion>;

const FindingNow = z.object({
  /** The same for the same thing found again. */
  key: z.string(),
  kind: z.string(),
  weight: Weight,
  /** The same for all that can be decided alike. */
  groupKey: z.string(),
  /** The item it is about; `null` for a file or a folder. */
  item: z.string().nullable(),
  /** The folder, heading or further place of the outline that it is about; `null` where it is about none. */
  node: z.string().nullable().default(null),
  /** Title of the item or folder, or the file's path. */
  title: z.string(),
  /** Which of the item's texts it stands in; empty where it is no text. */
  part: z.string(),
  file: z.string().nullable(),
  line: z.number().nullable(),
  /** What was found, as it stands there. */
  evidence: z.string(),
  spot: Spot.nullable(),
  suggestions: z.array(Suggestion),
});
export type Finding = z.infer<typeof FindingNow>;
export const Finding: z.ZodType<Finding, unknown> = z.preprocess(underGroupKey, FindingNow);

/** What a kind of finding tells of one find; the rest is added by whoever collects them. */
export interface FindingDraft {
  groupKey?: string;
  item?: Item | null;
  node?: string;
  title?: string;
  part?: string;
  file?: string | null;
  line?: number | null;
  evidence: string;
  spot?: Spot;
  suggestions?: Suggestion[];
  /** Where this one is graver or lighter than its kind. */
  weight?: Weight;
}

/** What is known of an address that was asked. */
export const OutsideAnswer = z.object({
  address: z.string(),
  /** `gone` is certain; `silent` may be a bad day. */
  state: z.enum(['there', 'moved', 'gone', 'silent', 'unasked']),
  /** Where it has moved to. */
  to: z.string().nullable(),
  words: z.string(),
  askedAt: z.string(),
});
export type OutsideAnswer = z.infer<typeof OutsideAnswer>;

/** What an institution says of its own habits: the same for all its courses. */
export const FindingSettings = z.object({
  /** Patterns of what a platform was to fill in when a page was shown. */
  placeholders: z.array(z.string()),
  /** What a placeholder stands for, where that is known; those of the course itself are added. */
  values: z.record(z.string(), z.string()),
  /** What tells a person: a name for it and a pattern. */
  personal: z.array(z.object({ name: z.string(), pattern: z.string() })),
  /** Names of files that are lists of people. */
  peopleFiles: z.string(),
  /** Authors that are nobody: the institution itself, its departments. */
  noPersons: z.array(z.string()).default([]),
  /** Classes by which icon fonts draw, with the symbol that says the same. */
  icons: z.record(z.string(), z.string()),
  staleDays: z.number().int().positive(),
  oversizeBytes: z.number().int().positive(),
});
export type FindingSettings = z.infer<typeof FindingSettings>;

export const FINDING_SETTINGS: FindingSettings = {
  placeholders: ['\\{~[^~{}]{1,60}~\\}', '\\{\\{[^{}]{1,60}\\}\\}', '%%[A-Z_]{2,40}%%'],
  values: {},
  personal: [
    { name: 'mail address', pattern: '[\\w.+-]{1,64}@[\\w.-]{1,190}\\.[a-z]{2,24}' },
    { name: 'student number', pattern: '\\bM\\d{6,7}\\b' },
  ],
  peopleFiles: '(class|group|attendance|student|grade)[-_ ]?(list|roll|book)|enrol?ment|roster',
  noPersons: [],
  icons: {
    'ico-anchor': '⚓',
    'ico-warning': '⚠',
    'ico-check': '✓',
    'ico-clock': '⏱',
    'ico-mail': '✉',
    'ico-pen': '✎',
    'ico-book': '📖',
    'ico-download': '⭳',
  },
  staleDays: 365,
  oversizeBytes: 200_000_000,
};

/** Everything that is known while findings are made. `links` and hashes are there once every file was read. */
export interface ScanContext {
  readonly course: Course;
  readonly links: readonly CourseLink[];
  readonly items: ReadonlyMap<string, Item>;
  readonly files: ReadonlyMap<string, CourseFile>;
  /** Identifiers of items that stand in the outline. */
  readonly placed: ReadonlySet<string>;
  /** Titles in lower case, with the items that bear them. */
  readonly byTitle: ReadonlyMap<string, readonly Item[]>;
  /** Content files by their names in lower case. */
  readonly byName: ReadonlyMap<string, readonly CourseFile[]>;
  readonly profile: Profile | null;
  readonly settings: FindingSettings;
  readonly known: KnownAddresses;
  /** Day on which it is looked at, ISO 8601. */
  readonly today: string;
  readonly outside: ReadonlyMap<string, OutsideAnswer>;
  /** What was found in files that are no texts: authors, places. */
  readonly fileMarks: ReadonlyMap<string, readonly string[]>;
}

/** One kind of finding. A kind is added by adding its file and one line to the list in `index.ts`. */
export interface FindingKind {
  readonly id: string;
  /** What there are so and so many of: `Links that lead nowhere`. */
  readonly label: string;
  readonly weight: Weight;
  /** The step of a move at which such findings are decided on, where that is not Tidy. */
  readonly step?: 're-date';
  /** Mends that fit, the most fitting first. Any finding can be left as it is, with a reason. */
  readonly mends: readonly string[];
  /** Why it matters, at the destination where one is chosen. */
  why(destination: Profile | null): string;
  /** Looks at each text when it is read. */
  inPassage?(passage: Passage, context: ScanContext): Iterable<FindingDraft>;
  /** Looks at the course when every file was read. */
  inCourse?(context: ScanContext): Iterable<FindingDraft>;
}

export interface FindingOptions {
  profile?: Profile | null;
  settings?: FindingSettings;
  known?: KnownAddresses;
  today: string;
  outside?: readonly OutsideAnswer[];
}

export function scanContextOf(course: Course, options: FindingOptions, links: readonly CourseLink[] = []): ScanContext {
  const byTitle = new Map<string, Item[]>();
  for (const item of course.items) {
    const title = item.title.trim().toLowerCase();
    const list = byTitle.get(title);
    if (list) list.push(item);
    else byTitle.set(title, [item]);
  }
  const byName = new Map<string, CourseFile[]>();
  for (const file of course.files) {
    if (file.role !== 'content') continue;
    const name = baseName(file.path).toLowerCase();
    const list = byName.get(name);
    if (list) list.push(file);
    else byName.set(name, [file]);
  }
  const placed = new Set<string>();
  const stack = [...course.outline];
  for (let node = stack.pop(); node; node = stack.pop()) {
    if (node.item !== undefined) placed.add(node.item);
    stack.push(...node.children);
  }
  return {
    course,
    links,
    items: new Map(course.items.map((i) => [i.id, i])),
    files: new Map(course.files.map((f) => [f.path, f])),
    placed,
    byTitle,
    byName,
    profile: options.profile ?? null,
    settings: options.settings ?? FINDING_SETTINGS,
    known: options.known ?? NO_ADDRESSES,
    today: options.today,
    outside: new Map((options.outside ?? []).map((a) => [a.address, a])),
    fileMarks: new Map(),
  };
}

/** A spot of a stretch of text that is no reference. */
export function spotAt(at: Span, element?: { open: Span; close: Span | null } | null): Spot {
  return { at, open: element?.open ?? null, close: element?.close ?? null, inStyle: false };
}

/** A stretch of a text, short enough to be shown in a row. */
export function excerpt(text: string, length = 140): string {
  const folded = text.replace(/\s+/g, ' ').trim();
  return folded.length > length ? `${folded.slice(0, length - 1)}…` : folded;
}

/** Line of an offset, 1-based. */
export function lineOf(text: string, offset: number): number {
  let line = 1;
  for (let at = text.indexOf('\n'); at !== -1 && at < offset; at = text.indexOf('\n', at + 1)) line++;
  return line;
}
