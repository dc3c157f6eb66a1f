import {
  PARTS_OF,
  partsOf,
  type Choice,
  type FeedbackKind,
  type NumberKey,
  type PartChanges,
  type Question,
  type QuestionParts,
  type RichText,
  type Scoring,
} from './question.ts';

/** Questions with something of them changed, and what their scoring comes to. */

/** The question with changes to those of its parts that it has. */
export function mapParts<Q extends Question>(question: Q, changes: PartChanges): Q {
  const parts = partsOf(question);
  const changed = <P extends keyof QuestionParts>(part: P) =>
    [part, (changes[part] ?? ((same) => same))(parts[part])] as const;
  // Each part is of the same shape after a change.
  return { ...question, ...Object.fromEntries(PARTS_OF[question.type].map(changed)) };
}

/** The question with a change to every part that may give points of its own. */
export function mapScored<Q extends Question>(
  q: Q,
  change: <T extends { score?: number | undefined }>(part: T) => T,
): Q {
  const all = <T extends { score?: number | undefined }>(list: readonly T[]) => list.map(change);
  return mapParts(q, {
    choices: all,
    answers: all,
    blanks: (blanks) => blanks.map((b) => ({ ...b, answers: all(b.answers), choices: all(b.choices) })),
    numbers: all,
    pairs: all,
    areas: all,
    subquestions: (list) => list.map((part) => mapScored(part, change)),
  });
}

/**
 * Puts each text of a question through `change`, under a name that tells where in it it stands: `prompt`, `choice a`,
 * `reply to a`, `reply to answer 1`, `match b`, the kind of feedback, or one of these after `part p:`.
 */
export function mapQuestionTexts<Q extends Question>(q: Q, change: (part: string, text: RichText) => RichText): Q {
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
    subquestions: (list) =>
      list.map((part) => mapQuestionTexts(part, (name, text) => change(`part ${part.id}: ${name}`, text))),
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
  const scored = mapScored(q, (part) => (part.score === undefined ? part : { ...part, score: part.score * times }));
  const more = mapParts(scored, {
    subquestions: (list) => list.map((p) => (p.points === null ? p : { ...p, points: p.points * times })),
  });
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
