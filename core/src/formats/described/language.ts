import * as z from 'zod';
import { ITEM_KINDS, SettingName } from '../../model/index.ts';

/**
 * The language of archive descriptions: what an archive is made of, where its records stand and what they become.
 * docs/descriptions.md tells it to those who write one; `readDescription` says what is wrong with one, and in which line.
 */

/** A JSONPath (it begins with `$`) in documents of JSON or YAML, an XPath in documents of XML; seen from a record. */
const Path = z.string().min(1, 'An empty path finds nothing.');
const Scalar = z.union([z.string(), z.number(), z.boolean()]);

/** Which records a rule is for: where something is found, or where it is, or is not, one of the values given. */
export interface When {
  path: string;
  of?: Whose | undefined;
  is?: (string | number | boolean)[] | undefined;
  not?: (string | number | boolean)[] | undefined;
}
const Whose = z.enum(['above', 'course']);
export type Whose = z.infer<typeof Whose>;
const listed = z.preprocess((v) => (Array.isArray(v) || v === undefined ? v : [v]), z.array(Scalar).optional());
const When: z.ZodType<When> = z.preprocess(
  (v) => (typeof v === 'string' ? { path: v } : v),
  z.strictObject({ path: Path, of: Whose.optional(), is: listed, not: listed }),
);

/**
 * What a value is taken as: `text` as it stands, `words` without its mark-up, `html` with its references to files
 * resolved, `markdown` (CommonMark) made into HTML, `inside` the mark-up inside an element of XML, `number`, `yes`,
 * `list` of all that is found, `file` and `files` by their keys, `date` from seconds since 1970 or any date that
 * ECMAScript reads.
 */
export const TAKEN_AS = [
  'text',
  'words',
  'html',
  'markdown',
  'inside',
  'number',
  'yes',
  'list',
  'file',
  'files',
  'date',
] as const;
export type TakenAs = (typeof TAKEN_AS)[number];

/** A value of a record; written as a path alone, a number or yes/no as it stands, or a list of which the first counts. */
export interface Value {
  path?: string | undefined;
  is?: string | number | boolean | undefined;
  /** A text with paths in braces. */
  fill?: string | undefined;
  first?: Value[] | undefined;
  /** In the record above, or in the course's own, instead of in the record itself. */
  of?: Whose | undefined;
  when?: When | undefined;
  /** Records by name in which the value is a key; `then` is taken there. */
  look?: string | undefined;
  then?: Value | undefined;
  table?: Record<string, string> | undefined;
  times?: number | undefined;
  divide?: number | undefined;
  as?: TakenAs | undefined;
}
const SOURCES = ['path', 'is', 'fill', 'first'] as const;
export const Value: z.ZodType<Value> = z.lazy(
  () =>
    z.preprocess(
      (v) =>
        typeof v === 'string'
          ? { path: v }
          : typeof v === 'number' || typeof v === 'boolean'
            ? { is: v }
            : Array.isArray(v)
              ? { first: v }
              : v,
      z
        .strictObject({
          path: Path.optional(),
          is: Scalar.optional(),
          fill: z.string().optional(),
          first: z.array(Value).min(1).optional(),
          of: Whose.optional(),
          when: When.optional(),
          look: z.string().optional(),
          then: Value.optional(),
          table: z.record(z.string(), z.coerce.string()).optional(),
          times: z.number().optional(),
          divide: z.number().optional(),
          as: z.enum(TAKEN_AS).optional(),
        })
        .refine((v) => SOURCES.filter((s) => v[s] !== undefined).length === 1, {
          message: `A value has exactly one of ${SOURCES.join(', ')}.`,
        })
        .refine((v) => (v.look === undefined) === (v.then === undefined), {
          message: 'look and then go together.',
        }),
    ) as z.ZodType<Value>,
);

/** Where records stand: in files that a pattern names, at a path, or under a key among others. */
export interface Find {
  in?: string | undefined;
  at?: string | undefined;
  /** What is found are paths of documents, from the archive's root or beside the document: the records are those. */
  follow?: 'root' | 'beside' | undefined;
  look?: string | undefined;
  by?: Value | undefined;
}
const Find: z.ZodType<Find> = z.preprocess(
  (v) => (typeof v === 'string' ? { at: v } : v),
  z
    .strictObject({
      in: z.string().min(1).optional(),
      at: Path.optional(),
      follow: z.preprocess((v) => (v === true ? 'root' : v), z.enum(['root', 'beside']).optional()),
      look: z.string().optional(),
      by: Value.optional(),
    })
    .refine((f) => f.in !== undefined || f.at !== undefined || f.look !== undefined, {
      message: 'Say where the records stand: in, at or look.',
    })
    .refine((f) => (f.look === undefined) === (f.by === undefined), { message: 'look and by go together.' }),
);

const opt = Value.optional();
const found = { find: Find, when: When.optional() };
const Choices = z.strictObject({ ...found, id: opt, text: Value, correct: opt, score: opt, feedback: opt });
const Answers = z.strictObject({ ...found, text: Value, caseSensitive: opt, part: opt, score: opt });
export type Choices = z.infer<typeof Choices>;
export type Answers = z.infer<typeof Answers>;

export const QuestionRule = z.strictObject({
  ...found,
  id: Value,
  type: Value,
  prompt: Value,
  title: opt,
  points: opt,
  category: opt,
  choices: Choices.optional(),
  answers: Answers.optional(),
  targets: z.strictObject({ ...found, id: opt, text: Value }).optional(),
  pairs: z.strictObject({ ...found, choice: Value, target: Value, score: opt }).optional(),
  order: opt,
  numbers: z.strictObject({ ...found, value: Value, low: opt, high: opt, score: opt }).optional(),
  blanks: z.strictObject({ ...found, id: Value, answers: Answers.optional(), choices: Choices.optional() }).optional(),
  feedback: z.strictObject({ general: opt, correct: opt, incorrect: opt, hint: opt, solution: opt }).optional(),
});
export type QuestionRule = z.infer<typeof QuestionRule>;

/** `nothing`: the record itself becomes nothing, and what is found inside it stands in its place. */
export const RULE_KINDS = ['folder', 'heading', 'nothing', ...ITEM_KINDS] as const;
export type RuleKind = (typeof RULE_KINDS)[number];

/** What records become. A rule that another holds `inside` is seen from each of that one's records. */
export interface Rule {
  name?: string | undefined;
  find: Find;
  when?: When | undefined;
  kind: Value;
  id: Value;
  title: Value;
  /** By what texts name a page, where that is not its identifier. */
  key?: Value | undefined;
  node?: Value | undefined;
  text?: Value | undefined;
  file?: Value | undefined;
  page?: Value | undefined;
  url?: Value | undefined;
  rows?: { find: Find; when?: When | undefined; cells: Value[] } | undefined;
  settings?: Partial<Record<SettingName, Value | undefined>> | undefined;
  questions?: QuestionRule[] | undefined;
  inside?: (Rule | Again)[] | undefined;
}
/** The rule of that name once more: for folders in folders. */
export interface Again {
  again: string;
}
const Again = z.strictObject({ again: z.string() });
const StrictRule: z.ZodType<Rule> = z.lazy(() =>
  z.strictObject({
    ...found,
    name: z.string().optional(),
    kind: z.preprocess((v) => (isKind(v) ? { is: v } : v), Value),
    id: Value,
    title: Value,
    key: opt,
    node: opt,
    text: opt,
    file: opt,
    page: opt,
    url: opt,
    rows: z.strictObject({ ...found, cells: z.array(Value) }).optional(),
    settings: z.partialRecord(SettingName, Value).optional(),
    questions: z.array(QuestionRule).optional(),
    inside: z.array(RuleOrAgain).optional(),
  }),
);
// Not a union of both: one that fails says of neither what is wrong with it.
const RuleOrAgain: z.ZodType<Rule | Again> = z.lazy(() =>
  z.unknown().transform((v, context) => {
    const read = (isObject(v) && 'again' in v ? Again : StrictRule).safeParse(v);
    if (read.success) return read.data;
    for (const issue of read.error.issues) {
      if (issue.code === 'unrecognized_keys') {
        context.addIssue({
          code: issue.code,
          keys: issue.keys,
          input: v as Record<string, unknown>,
          path: [...issue.path],
        });
      } else context.addIssue({ code: 'custom', message: issue.message, path: [...issue.path] });
    }
    return z.NEVER;
  }),
);

function isKind(v: unknown): v is RuleKind {
  return (RULE_KINDS as readonly unknown[]).includes(v);
}
const isObject = (v: unknown): v is object => typeof v === 'object' && v !== null;

const Counted = z.strictObject({ ...found });

export const Description = z.strictObject({
  /** Version of this language. */
  description: z.literal(1),
  id: z.string().regex(/^[a-z][a-z0-9-]{1,39}$/, 'Use 2 to 40 lower-case letters, digits and hyphens.'),
  name: z.string().min(1).max(80),
  /** Version of the archive's own format. */
  version: z.coerce.string(),
  /** By which archives are known: they have a file of that pattern and, where said, something at that path in it. */
  fits: z.strictObject({ file: z.string().min(1), has: Path.optional() }),
  /** A zip or tar of files, or one document that is read as if it were a file of that name. */
  container: z
    .union([z.literal('files'), z.strictObject({ document: z.string().min(1), begins: z.string().min(3).max(200) })])
    .default('files'),
  records: z.record(z.string(), z.strictObject({ ...found, key: Value })).default({}),
  /** Where the bytes of files stand, in an entry of the archive or in the record, and by what path they are to be known. */
  files: z
    .strictObject({ ...found, key: Value, held: opt, base64: opt, path: opt })
    .refine((f) => (f.held === undefined) !== (f.base64 === undefined), {
      message: 'Say where the bytes are: held or base64.',
    })
    .optional(),
  /** What names a file or a page inside texts: what it begins with, then a key, to the end given or the key's own. */
  texts: z
    .array(
      z.strictObject({
        begins: z.string().min(1),
        ends: z.string().min(1).optional(),
        look: z.enum(['files', 'pages']).default('files'),
      }),
    )
    .default([]),
  course: z.strictObject({
    find: Find,
    title: Value,
    code: opt,
    about: opt,
    keywords: opt,
    rights: opt,
    language: opt,
  }),
  outline: z.array(RuleOrAgain).default([]),
  /** What has no place in the outline. */
  items: z.array(RuleOrAgain).default([]),
  personal: z
    .strictObject({
      people: Counted.optional(),
      submissions: Counted.optional(),
      grades: Counted.optional(),
      posts: Counted.optional(),
      /** Patterns of files that hold what is students'. */
      files: z.array(z.string()).optional(),
    })
    .optional(),
  /** Patterns of files that hold nothing of the course: an index, a signature, a list of sizes. */
  ignore: z.array(z.string()).default([]),
});
export type Description = z.infer<typeof Description>;
