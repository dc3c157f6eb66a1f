import * as z from 'zod';

export const RichText = z.object({ format: z.enum(['html', 'plain']), text: z.string() });
export type RichText = z.infer<typeof RichText>;

export const QUESTION_TYPES = [
  'choice',
  'multiple response',
  'true/false',
  'short answer',
  'pattern',
  'cloze',
  'numeric',
  'essay',
  'matching',
  'associate',
  'gap match',
  'ordering',
  'hotspot',
  'upload',
  'foreign',
] as const;
export const QuestionType = z.enum(QUESTION_TYPES);
export type QuestionType = z.infer<typeof QuestionType>;

/** Points that a part gives by itself; absent where the question is right as a whole or not at all. */
const score = z.number().optional();

export const Choice = z.object({
  id: z.string(),
  text: RichText,
  correct: z.boolean(),
  score,
  feedback: RichText.optional(),
});
export type Choice = z.infer<typeof Choice>;

export const Answer = z.object({
  text: z.string(),
  caseSensitive: z.boolean(),
  match: z.enum(['equal', 'substring']),
  score,
  feedback: RichText.optional(),
});
export type Answer = z.infer<typeof Answer>;

/** A gap in the prompt, where its mark stands: see `blankMark`. */
export const Blank = z.object({ id: z.string(), answers: z.array(Answer), choices: z.array(Choice) });
export type Blank = z.infer<typeof Blank>;

/** Numbers from `low` to `high`; `value` is the one that is shown as right. */
export const NumberKey = z.object({
  value: z.number(),
  low: z.number(),
  high: z.number(),
  /** Ends that are not accepted themselves; absent where both are. */
  open: z.enum(['low', 'high', 'both']).optional(),
  /** How the source says the ends: so much to either side, or so many per cent of the value. Absent for plain ends. */
  tolerance: z.enum(['absolute', 'relative']).optional(),
  score,
  feedback: RichText.optional(),
});
export type NumberKey = z.infer<typeof NumberKey>;

export const MatchTarget = z.object({ id: z.string(), text: RichText });
export type MatchTarget = z.infer<typeof MatchTarget>;

export const MatchPair = z.object({ choice: z.string(), target: z.string(), score });
export type MatchPair = z.infer<typeof MatchPair>;

export const SHAPES = ['circle', 'rect', 'poly', 'ellipse', 'default'] as const;
/** Coordinates in pixels of the image, as HTML's image maps and QTI write them. */
export const Area = z.object({
  id: z.string(),
  shape: z.enum(SHAPES),
  coords: z.array(z.number()),
  correct: z.boolean(),
  score,
});
export type Area = z.infer<typeof Area>;

/** Feedback that does not hang on one choice. */
export const FEEDBACK_KINDS = ['general', 'correct', 'incorrect', 'hint', 'solution'] as const;
export const FeedbackKind = z.enum(FEEDBACK_KINDS);
export type FeedbackKind = z.infer<typeof FeedbackKind>;

/** What the points of parts come to. */
export const Scoring = z.object({
  /** Points of an answer that no part names; none where absent. */
  others: z.number().optional(),
  /** The least that the parts together give, where they would give less. */
  least: z.number().optional(),
  /** The most that the parts together give, where they would give more. */
  most: z.number().optional(),
});
export type Scoring = z.infer<typeof Scoring>;

/** Where the source's own words of a question stand: characters of the decoded text of a file of the package. */
export const SourceText = z.object({ path: z.string(), start: z.number().int(), end: z.number().int() });
export type SourceText = z.infer<typeof SourceText>;

/** What hotspots lie on: package path, and its size in pixels if the package says it. */
export const HotspotImage = z.object({
  file: z.string(),
  width: z.number().optional(),
  height: z.number().optional(),
});
export type HotspotImage = z.infer<typeof HotspotImage>;

/** What holds a question's substance and its key; which of them a type has is said by `QUESTION_SCHEMAS`. */
const PARTS = {
  choices: z.array(Choice),
  answers: z.array(Answer),
  /** Their marks stand in the prompt. */
  blanks: z.array(Blank),
  numbers: z.array(NumberKey),
  /** What the choices are matched with. */
  targets: z.array(MatchTarget),
  /** The key of what is matched: choices with targets, with blanks, or with each other. */
  pairs: z.array(MatchPair),
  /** Identifiers of the choices as they belong; the choices stand as they are shown. */
  order: z.array(z.string()),
  /** `null` where the package does not have it. */
  image: HotspotImage.nullable(),
  areas: z.array(Area),
};
type PartName = keyof typeof PARTS;
export type QuestionParts = { [P in PartName]: z.infer<(typeof PARTS)[P]> };

const common = {
  id: z.string(),
  title: z.string(),
  prompt: RichText,
  /** `null` where the package says nothing of points. */
  points: z.number().nullable(),
  feedback: z.partialRecord(FeedbackKind, RichText),
  category: z.string().optional(),
  /** Of questions whose parts give points. */
  scoring: Scoring.optional(),
  /** The choices are shown in another order each time. */
  shuffled: z.literal(true).optional(),
  /** What was read, as it stands in the package. */
  xml: SourceText.optional(),
  /** Package paths of files that the prompt or a choice shows. */
  files: z.array(z.string()),
};
/** What every question has, whatever its type. */
export type QuestionCommon = z.infer<z.ZodObject<typeof common>>;

function typed<const T extends QuestionType, const P extends readonly PartName[]>(type: T, ...parts: P) {
  // The names say what is picked.
  const own = Object.fromEntries(parts.map((part) => [part, PARTS[part]])) as Pick<typeof PARTS, P[number]>;
  return z.object({ ...common, type: z.literal(type), ...own });
}

/** Each type with the parts that it has, and no others. */
const QUESTION_SCHEMAS = {
  choice: typed('choice', 'choices'),
  'multiple response': typed('multiple response', 'choices'),
  'true/false': typed('true/false', 'choices'),
  'short answer': typed('short answer', 'answers'),
  pattern: typed('pattern', 'answers'),
  /** Each blank has answers, or choices to pick from. */
  cloze: typed('cloze', 'blanks'),
  numeric: typed('numeric', 'numbers'),
  essay: typed('essay'),
  matching: typed('matching', 'choices', 'targets', 'pairs'),
  associate: typed('associate', 'choices', 'pairs'),
  /** Choices are dropped into blanks that have no key of their own. */
  'gap match': typed('gap match', 'choices', 'blanks', 'pairs'),
  ordering: typed('ordering', 'choices', 'order'),
  hotspot: typed('hotspot', 'image', 'areas'),
  upload: typed('upload'),
  /** What the reader does not understand. */
  foreign: typed('foreign'),
} satisfies { [T in QuestionType]: z.ZodType<{ type: T }> };
type QuestionSchemas = typeof QUESTION_SCHEMAS;

export type Question = { [T in QuestionType]: z.infer<QuestionSchemas[T]> }[QuestionType];
export type QuestionOf<T extends QuestionType> = Extract<Question, { type: T }>;

const NO_PARTS: QuestionParts = {
  choices: [],
  answers: [],
  blanks: [],
  numbers: [],
  targets: [],
  pairs: [],
  order: [],
  image: null,
  areas: [],
};

const PARTS_OF = Object.fromEntries(
  QUESTION_TYPES.map((type) => [type, Object.keys(QUESTION_SCHEMAS[type].shape).filter((key) => key in PARTS)]),
) as Record<QuestionType, PartName[]>;

/** Courses were kept when every question had choices and answers, and the other parts only where there were any. */
function asNow(row: unknown): unknown {
  if (typeof row !== 'object' || row === null || !('type' in row)) return row;
  const type = QuestionType.safeParse(row.type);
  if (!type.success || PARTS_OF[type.data].every((part) => part in row)) return row;
  return { ...Object.fromEntries(PARTS_OF[type.data].map((part) => [part, NO_PARTS[part]])), ...row };
}

const [first, ...others] = QUESTION_TYPES.map((type) => QUESTION_SCHEMAS[type]);
if (!first) throw new Error('there are no types of questions');
export const Question: z.ZodType<Question> = z.preprocess(asNow, z.discriminatedUnion('type', [first, ...others]));

/** A question of a type that is known only when it is read: the parts that the type has are taken, the others are not. */
export function questionOf(type: QuestionType, shared: QuestionCommon, parts: Partial<QuestionParts> = {}): Question {
  const own = Object.fromEntries(PARTS_OF[type].map((part) => [part, parts[part] ?? NO_PARTS[part]]));
  const { id, title, prompt, points, feedback, category, scoring, shuffled, xml, files } = shared;
  const whole = {
    id,
    title,
    type,
    prompt,
    points,
    ...own,
    feedback,
    ...(category === undefined ? {} : { category }),
    ...(shuffled && 'choices' in own ? { shuffled } : {}),
    ...(xml ? { xml } : {}),
    files,
    // Every type gets the parts that its schema names.
  } as Question;
  return scoring && hasPartialCredit(whole) ? { ...whole, scoring } : whole;
}

/** All parts of a question, those that its type does not have empty. */
export function partsOf(question: Question): QuestionParts {
  const { choices, answers, blanks, numbers, targets, pairs, order, image, areas } = { ...NO_PARTS, ...question };
  return { choices, answers, blanks, numbers, targets, pairs, order, image, areas };
}

type PartChanges = { [P in PartName]?: (part: QuestionParts[P]) => QuestionParts[P] };

/** The question with changes to those of its parts that it has. */
export function mapParts(question: Question, changes: PartChanges): Question {
  const parts = partsOf(question);
  const changed = <P extends PartName>(part: P) => [part, (changes[part] ?? ((same) => same))(parts[part])] as const;
  // Each part is of the same shape after a change.
  return { ...question, ...Object.fromEntries(PARTS_OF[question.type].map(changed)) };
}

/** Where a blank stands in a prompt. The brackets are those of mathematics, which no author types by accident. */
export function blankMark(id: string): string {
  return `\u27e6${id}\u27e7`;
}

const MARK = /\u27e6([^\u27e6\u27e7]*)\u27e7/g;

/** A prompt in pieces: texts, and between them the identifiers of blanks. */
export function splitAtBlanks(prompt: string): ({ text: string } | { blank: string })[] {
  return prompt
    .split(MARK)
    .map((part, i) => (i % 2 === 0 ? { text: part } : { blank: part }))
    .filter((part) => !('text' in part) || part.text !== '');
}

/** A prompt as a person reads it. */
export function withGaps(prompt: string): string {
  return prompt.replace(MARK, '______');
}

/** Whether parts of the question give points of their own. */
export function hasPartialCredit(q: Question): boolean {
  const { choices, answers, blanks, numbers, pairs, areas } = partsOf(q);
  const inBlanks = blanks.flatMap((b) => [...b.answers, ...b.choices]);
  return [...choices, ...answers, ...numbers, ...pairs, ...areas, ...inBlanks].some((p) => p.score !== undefined);
}

/** The question with a change to every part that may give points of its own. */
export function mapScored(q: Question, change: <T extends { score?: number | undefined }>(part: T) => T): Question {
  const all = <T extends { score?: number | undefined }>(list: readonly T[]) => list.map(change);
  return mapParts(q, {
    choices: all,
    answers: all,
    blanks: (blanks) => blanks.map((b) => ({ ...b, answers: all(b.answers), choices: all(b.choices) })),
    numbers: all,
    pairs: all,
    areas: all,
  });
}

/**
 * Puts each text of a question through `change`, under a name that tells where in it it stands: `prompt`, `choice a`,
 * `reply to a`, `reply to answer 1`, `match b`, or the kind of feedback.
 */
export function mapQuestionTexts(q: Question, change: (part: string, text: RichText) => RichText): Question {
  const choice = (c: Choice): Choice => ({
    ...c,
    text: change(`choice ${c.id}`, c.text),
    ...(c.feedback ? { feedback: change(`reply to ${c.id}`, c.feedback) } : {}),
  });
  const prompt = change('prompt', q.prompt);
  const replied = <T extends { feedback?: RichText | undefined }>(list: readonly T[]): T[] =>
    list.map((key, i) => (key.feedback ? { ...key, feedback: change(`reply to answer ${i + 1}`, key.feedback) } : key));
  const parts = mapParts(q, {
    choices: (list) => list.map(choice),
    answers: replied,
    numbers: replied,
    blanks: (list) => list.map((b) => ({ ...b, choices: b.choices.map(choice) })),
    targets: (list) => list.map((t) => ({ ...t, text: change(`match ${t.id}`, t.text) })),
  });
  const feedback = Object.entries(q.feedback) as [FeedbackKind, RichText][];
  return {
    ...parts,
    prompt,
    feedback: Object.fromEntries(feedback.map(([kind, text]) => [kind, change(kind, text)])),
  };
}

/** The question, every point of it given so many times. */
export function timesPoints(q: Question, times: number): Question {
  const more = mapScored(q, (part) => (part.score === undefined ? part : { ...part, score: part.score * times }));
  const scoring = Object.entries(q.scoring ?? {}).map(([what, points = 0]) => [what, points * times]);
  return {
    ...more,
    // What nobody says anything of is right or not, which is worth one.
    points: (q.points ?? 1) * times,
    ...(q.scoring ? { scoring: Object.fromEntries(scoring) as Scoring } : {}),
  };
}

/** Which ends are open, as a number key says it. */
export function openEnds({ low, high }: { low: boolean; high: boolean }): Pick<NumberKey, 'open'> {
  return low || high ? { open: low && high ? 'both' : low ? 'low' : 'high' } : {};
}

/** Limits of what points of parts come to, as far as some answer would go beyond them. */
export function limitsOf(
  scores: readonly number[],
  single: boolean,
  { others, least, most }: { [L in keyof Scoring]?: number | undefined },
): Scoring | undefined {
  const all = others === undefined || others === 0 ? scores : [...scores, others];
  const reach = (side: 1 | -1) => {
    const towards = all.map((score) => Math.max(0, score * side));
    return side * (single ? Math.max(0, ...towards) : towards.reduce((sum, score) => sum + score, 0));
  };
  const scoring = {
    ...(others === undefined || others === 0 ? {} : { others }),
    ...(least !== undefined && reach(-1) < least ? { least } : {}),
    ...(most !== undefined && reach(1) > most ? { most } : {}),
  };
  return Object.keys(scoring).length === 0 ? undefined : scoring;
}
