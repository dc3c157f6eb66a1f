import {
  givenWords,
  judge,
  sampleAnswers,
  type Answer,
  type Choice,
  type Given,
  type Question,
  type QuestionOf,
} from '../model/index.ts';

/** What the source gives for an answer, in its own scale; `null` where it can't be told. */
export type Score = (given: Given) => number | null;

/**
 * A question whose key was read, tried against the rules that it was read from: sample answers go through both. Where they
 * differ, a key is made of what the rules give; where that does not say all of it either, the answer that shows it is kept
 * with the question.
 * @param words all that the rules compare an answer with
 */
export function tried(question: Question, score: Score, words: readonly string[] = []): Question {
  const unlike = difference(question, score, words);
  if (!unlike) return question;
  const better = candidates(question, score, words).find((one) => !difference(one, score, words));
  return better ?? { ...question, scoredOtherwise: unlike };
}

type Difference = NonNullable<Question['scoredOtherwise']>;

function difference(question: Question, score: Score, words: readonly string[]): Difference | null {
  const rows = [...sampleAnswers(question), ...ofWords(question, words)].flatMap((given) => {
    const [source, read] = [score(given), judge(question, given)];
    return source === null || read === null ? [] : [{ given, source, read }];
  });
  // One scale may be another's hundredth: what the best of these answers gives is the same.
  const best = (list: readonly number[]) => Math.max(0, ...list);
  const [ofSource, ofRead] = [best(rows.map((r) => r.source)), best(rows.map((r) => r.read))];
  if (ofSource === 0 && ofRead === 0) return null;
  const scale = ofSource === 0 ? 1 : (ofRead || (question.points ?? 1)) / ofSource;
  const unlike = rows.find((row) => Math.abs(row.source * scale - row.read) > 1e-6 * Math.max(1, ofRead));
  if (!unlike) return null;
  const { given, source, read } = unlike;
  return { answer: givenWords(question, given), source: rounded(source * scale), read: rounded(read) };
}

/** What rules compare a written answer with is an answer worth trying, whether the key has it or not. */
function ofWords({ type }: Question, words: readonly string[]): Given[] {
  if (type !== 'short answer' && type !== 'pattern') return [];
  return eachWord(words).map((word) => ({ values: [word] }));
}

/** Words, and the members of lists of them. */
const eachWord = (words: readonly string[]) =>
  [...new Set(words.flatMap((word) => [word, ...word.split(',')]).map((word) => word.trim()))].filter((w) => w !== '');

const rounded = (points: number) => Math.round(points * 1e4) / 1e4;

/** Keys that the rules may mean, made of what they give for single answers. */
function candidates(question: Question, score: Score, words: readonly string[]): Question[] {
  switch (question.type) {
    case 'choice':
    case 'true/false':
      return [singleChoice(question, score)];
    case 'multiple response':
      return severalChoices(question, score);
    case 'short answer':
    case 'pattern':
      return answersThatGive(question, score, words);
    default:
      return [];
  }
}

type Choosing = QuestionOf<'choice' | 'true/false' | 'multiple response'>;

/** Without what its parts came to; the choices with these keys and points. */
function rekeyed<Q extends Choosing>(
  question: Q,
  keyOf: (choice: Choice, at: number) => { correct: boolean; score?: number },
): Q {
  const bare = { ...question };
  delete bare.scoring;
  return {
    ...bare,
    choices: question.choices.map((choice, at): Choice => {
      const unscored = { ...choice };
      delete unscored.score;
      return { ...unscored, ...keyOf(choice, at) };
    }),
  };
}

function singleChoice<Q extends Choosing>(question: Q, score: Score): Q {
  const each = question.choices.map((c) => score({ values: [c.id] }) ?? 0);
  const most = Math.max(0, ...each);
  const points = question.points ?? 1;
  return rekeyed(question, (_choice, at) => {
    const own = each[at] ?? 0;
    const value = most === 0 ? own : rounded((own * points) / most);
    return { correct: own > 0 && own === most, ...(value === 0 || value === points ? {} : { score: value }) };
  });
}

/** Right as a whole; by the points of each; and those with nothing as the least. */
function severalChoices(question: QuestionOf<'multiple response'>, score: Score): Question[] {
  const of = (values: readonly string[]) => score({ values }) ?? 0;
  const sets = setsOf(question.choices.map((c) => c.id));
  const scores = sets.map(of);
  const right = sets[scores.indexOf(Math.max(...scores))] ?? [];
  const whole = rekeyed(question, ({ id }) => ({ correct: right.includes(id) }));
  const nothing = of([]);
  const each = question.choices.map((c) => of([c.id]) - nothing);
  const total = each.reduce((sum, value) => sum + Math.max(0, value), 0);
  const scale = total === 0 ? 1 : (question.points ?? 1) / total;
  const byParts = rekeyed(question, (_choice, at) => {
    const value = rounded((each[at] ?? 0) * scale);
    return { correct: value > 0, ...(value === 0 ? {} : { score: value }) };
  });
  return [whole, byParts, { ...byParts, scoring: { least: 0 } }];
}

function answersThatGive(
  question: QuestionOf<'short answer' | 'pattern'>,
  score: Score,
  words: readonly string[],
): Question[] {
  const known = eachWord([...words, ...question.answers.map((a) => a.text)]);
  const of = (text: string) => score({ values: [text] }) ?? 0;
  const most = Math.max(0, ...known.map(of));
  const replies = new Map(question.answers.map((a) => [a.text, a.feedback]));
  const answers = known.flatMap((text): Answer[] => {
    const value = of(text);
    if (value <= 0) return [];
    const other = text === text.toUpperCase() ? text.toLowerCase() : text.toUpperCase();
    const feedback = replies.get(text);
    return [
      {
        text,
        caseSensitive: other !== text && of(other) !== value,
        match: of(`${BESIDE} ${text}`) === value ? 'substring' : 'equal',
        ...(value === most ? {} : { score: rounded((value * (question.points ?? 1)) / most) }),
        ...(feedback ? { feedback } : {}),
      },
    ];
  });
  return answers.length === 0 ? [] : [{ ...question, answers }];
}

/** Words that are in nobody's key. */
const BESIDE = 'zzqx';

/** All sets of a few, of many the pairs and what leaves one out. */
function setsOf(ids: readonly string[]): string[][] {
  if (ids.length <= 8) {
    return Array.from({ length: 1 << ids.length }, (_, bits) => ids.filter((_id, i) => bits & (1 << i)));
  }
  return [
    ids.slice(),
    ...ids.map((id) => ids.filter((other) => other !== id)),
    ...ids.flatMap((a, i) => ids.slice(i).map((b) => [a, b])),
  ];
}
