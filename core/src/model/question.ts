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
  'several parts',
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

/** Manners of asking that are no matter of the type or the key, and what is so in the source. */
export const MANNERS = {
  'words in a text': 'words are picked in the text itself',
  slider: 'a number is set on a slider',
  pointing: 'a point is set anywhere on a picture',
  'places on a picture': 'what belongs together or in order lies on a picture',
  drawing: 'something is drawn on a picture',
  'made anew': 'its values are made anew for each try',
  'several steps': 'it goes on by what was answered before',
} as const;
export const Manner = z.enum(Object.keys(MANNERS) as (keyof typeof MANNERS)[]);
export type Manner = z.infer<typeof Manner>;

/** How the source asks; of what is set on a slider, from where to where and in which steps. */
export const Asked = z.object({
  by: z.array(Manner).min(1),
  range: z.object({ low: z.number(), high: z.number(), step: z.number().optional() }).optional(),
});
export type Asked = z.infer<typeof Asked>;

/** How the source asks, as a person reads it. */
export function askedWords({ by, range }: Asked): string {
  const bounds =
    range && `from ${range.low} to ${range.high}${range.step === undefined ? '' : ` in steps of ${range.step}`}`;
  return by
    .map((manner) => (manner === 'slider' && bounds ? `${MANNERS[manner]} ${bounds}` : MANNERS[manner]))
    .join('; ');
}

/** What holds a question's substance and its key; which of them a type has is said by `QUESTION_SCHEMAS`. */
const SIMPLE_PARTS = {
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
  /** Absent where it is asked as questions of its type are. */
  asked: Asked.optional(),
  /**
   * An answer for which the rules of the source give other points than the key that was read of them; absent where no
   * answer that was tried shows any difference.
   */
  scoredOtherwise: z.object({ answer: z.string(), source: z.number(), read: z.number() }).optional(),
  /** What was read, as it stands in the package. */
  xml: SourceText.optional(),
  /** Package paths of files that the prompt or a choice shows. */
  files: z.array(z.string()),
};
/** What every question has, whatever its type. */
export type QuestionCommon = z.infer<z.ZodObject<typeof common>>;

function typed<const T extends QuestionType, const P extends readonly (keyof typeof SIMPLE_PARTS)[]>(
  type: T,
  ...parts: P
) {
  // The names say what is picked.
  const own = Object.fromEntries(parts.map((part) => [part, SIMPLE_PARTS[part]])) as Pick<
    typeof SIMPLE_PARTS,
    P[number]
  >;
  return z.object({ ...common, type: z.literal(type), ...own });
}

/** Each type with the parts that it has, and no others. */
const SIMPLE_SCHEMAS = {
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
} satisfies { [T in Exclude<QuestionType, 'several parts'>]: z.ZodType<{ type: T }> };
type SimpleSchemas = typeof SIMPLE_SCHEMAS;

/** A question that asks one thing. */
export type SimpleQuestion = { [T in keyof SimpleSchemas]: z.infer<SimpleSchemas[T]> }[keyof SimpleSchemas];
const SimpleQuestion = z.discriminatedUnion(
  'type',
  Object.values(SIMPLE_SCHEMAS) as unknown as [z.ZodObject<{ type: z.ZodLiteral<SimpleQuestion['type']> }>],
) as unknown as z.ZodType<SimpleQuestion>;

const PARTS = {
  ...SIMPLE_PARTS,
  /**
   * What is asked by one question: each stands in the prompt where its mark is. Their points add up; where they have none,
   * the question is right only with all of them.
   */
  subquestions: z.array(SimpleQuestion),
};
type PartName = keyof typeof PARTS;
export type QuestionParts = { [P in PartName]: z.infer<(typeof PARTS)[P]> };

const QUESTION_SCHEMAS = {
  ...SIMPLE_SCHEMAS,
  'several parts': z.object({ ...common, type: z.literal('several parts'), subquestions: PARTS.subquestions }),
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
  subquestions: [],
};

export const PARTS_OF = Object.fromEntries(
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

/** The questions that a question consists of: itself, where it asks one thing. */
export function singleQuestions(question: Question): readonly Question[] {
  return question.type === 'several parts' ? question.subquestions : [question];
}

/** Whether what is to be put in order stands in it already: shown so, it would be its own answer. */
function showsItsKey(type: QuestionType, { choices = [], order = [] }: Partial<QuestionParts>): boolean {
  return type === 'ordering' && order.length > 1 && order.every((id, i) => choices[i]?.id === id);
}

/** A question of a type that is known only when it is read: the parts that the type has are taken, the others are not. */
export function questionOf(type: QuestionType, shared: QuestionCommon, parts: Partial<QuestionParts> = {}): Question {
  const own = Object.fromEntries(PARTS_OF[type].map((part) => [part, parts[part] ?? NO_PARTS[part]]));
  const { id, title, prompt, points, feedback, category, scoring, shuffled, asked, xml, files } = shared;
  const whole = {
    id,
    title,
    type,
    prompt,
    points,
    ...own,
    feedback,
    ...(category === undefined ? {} : { category }),
    ...((shuffled || showsItsKey(type, own)) && 'choices' in own ? { shuffled: true } : {}),
    ...(asked ? { asked } : {}),
    ...(xml ? { xml } : {}),
    files,
    // Every type gets the parts that its schema names.
  } as Question;
  return scoring && hasPartialCredit(whole) ? { ...whole, scoring } : whole;
}

/** All parts of a question, those that its type does not have empty. */
export function partsOf(question: Question): QuestionParts {
  // Asked for many times of every question: no copy is made of it.
  const own = question as Partial<QuestionParts>;
  return {
    choices: own.choices ?? NO_PARTS.choices,
    answers: own.answers ?? NO_PARTS.answers,
    blanks: own.blanks ?? NO_PARTS.blanks,
    numbers: own.numbers ?? NO_PARTS.numbers,
    targets: own.targets ?? NO_PARTS.targets,
    pairs: own.pairs ?? NO_PARTS.pairs,
    order: own.order ?? NO_PARTS.order,
    image: own.image ?? NO_PARTS.image,
    areas: own.areas ?? NO_PARTS.areas,
    subquestions: own.subquestions ?? NO_PARTS.subquestions,
  };
}

export type PartChanges = { [P in PartName]?: (part: QuestionParts[P]) => QuestionParts[P] };

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
  const { choices, answers, blanks, numbers, pairs, areas, subquestions } = partsOf(q);
  if (subquestions.some((part) => part.points !== null || hasPartialCredit(part))) return true;
  const inBlanks = blanks.flatMap((b) => [...b.answers, ...b.choices]);
  return [...choices, ...answers, ...numbers, ...pairs, ...areas, ...inBlanks].some((p) => p.score !== undefined);
}
