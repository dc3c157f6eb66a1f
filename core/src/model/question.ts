import * as z from 'zod';

export const RichText = z.object({ format: z.enum(['html', 'plain']), text: z.string() });
export type RichText = z.infer<typeof RichText>;

/**
 * Which of a question's parts hold its substance and its key:
 *
 * | type | parts |
 * |---|---|
 * | choice, multiple response, true/false | `choices`, each `correct` or not |
 * | short answer, pattern | `answers` |
 * | cloze | `blanks`, whose marks stand in the prompt; each has `answers`, or `choices` to pick from |
 * | numeric | `numbers` |
 * | essay, upload | none |
 * | matching | `choices` are the sources, `targets` what they are matched with, `pairs` the key |
 * | associate | `choices`, `pairs` among them |
 * | gap match | `choices` are dropped into the `blanks` of the prompt, `pairs` the key |
 * | ordering | `choices` as they are shown, `order` their identifiers as they belong |
 * | hotspot | `image`, `areas`, each `correct` or not |
 * | foreign | none: what the reader does not understand |
 */
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
});
export type Answer = z.infer<typeof Answer>;

/** A gap in the prompt, where its mark stands: see `blankMark`. */
export const Blank = z.object({ id: z.string(), answers: z.array(Answer), choices: z.array(Choice) });
export type Blank = z.infer<typeof Blank>;

/** Numbers from `low` to `high`, both included; `value` is the one that is shown as right. */
export const NumberKey = z.object({ value: z.number(), low: z.number(), high: z.number(), score });
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

export const Question = z.object({
  id: z.string(),
  title: z.string(),
  type: QuestionType,
  prompt: RichText,
  /** `null` where the package says nothing of points. */
  points: z.number().nullable(),
  choices: z.array(Choice),
  answers: z.array(Answer),
  blanks: z.array(Blank).optional(),
  numbers: z.array(NumberKey).optional(),
  targets: z.array(MatchTarget).optional(),
  pairs: z.array(MatchPair).optional(),
  order: z.array(z.string()).optional(),
  /** What hotspots lie on: package path, and its size in pixels if the package says it. */
  image: z.object({ file: z.string(), width: z.number().optional(), height: z.number().optional() }).optional(),
  areas: z.array(Area).optional(),
  feedback: z.partialRecord(FeedbackKind, RichText),
  category: z.string().optional(),
  /** Package paths of files that the prompt or a choice shows. */
  files: z.array(z.string()),
});
export type Question = z.infer<typeof Question>;

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
  const parts = [...q.choices, ...q.answers, ...(q.numbers ?? []), ...(q.pairs ?? []), ...(q.areas ?? [])];
  const inBlanks = (q.blanks ?? []).flatMap((b) => [...b.answers, ...b.choices]);
  return [...parts, ...inBlanks].some((p) => p.score !== undefined);
}

/**
 * Puts each text of a question through `change`, under a name that tells where in it it stands: `prompt`, `choice a`,
 * `reply to a`, `match b`, or the kind of feedback.
 */
export function mapQuestionTexts(q: Question, change: (part: string, text: RichText) => RichText): Question {
  const choice = (c: Choice): Choice => ({
    ...c,
    text: change(`choice ${c.id}`, c.text),
    ...(c.feedback ? { feedback: change(`reply to ${c.id}`, c.feedback) } : {}),
  });
  const feedback = Object.entries(q.feedback) as [FeedbackKind, RichText][];
  return {
    ...q,
    prompt: change('prompt', q.prompt),
    choices: q.choices.map(choice),
    feedback: Object.fromEntries(feedback.map(([kind, text]) => [kind, change(kind, text)])),
    ...(q.blanks ? { blanks: q.blanks.map((b) => ({ ...b, choices: b.choices.map(choice) })) } : {}),
    ...(q.targets ? { targets: q.targets.map((t) => ({ ...t, text: change(`match ${t.id}`, t.text) })) } : {}),
  };
}

/** The question, every point of it given so many times. */
export function timesPoints(q: Question, times: number): Question {
  const more = <T extends { score?: number | undefined }>(part: T): T =>
    part.score === undefined ? part : { ...part, score: part.score * times };
  return {
    ...q,
    // What nobody says anything of is right or not, which is worth one.
    points: (q.points ?? 1) * times,
    choices: q.choices.map(more),
    answers: q.answers.map(more),
    ...(q.blanks
      ? { blanks: q.blanks.map((b) => ({ ...b, answers: b.answers.map(more), choices: b.choices.map(more) })) }
      : {}),
    ...(q.numbers ? { numbers: q.numbers.map(more) } : {}),
    ...(q.pairs ? { pairs: q.pairs.map(more) } : {}),
    ...(q.areas ? { areas: q.areas.map(more) } : {}),
  };
}
