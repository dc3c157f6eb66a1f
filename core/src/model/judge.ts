import { partsOf, type Answer, type Choice, type NumberKey, type Question } from './question.ts';

/** What an answer to a question earns, and answers that show what its key says. */

/**
 * An answer to a question that asks one thing: what was chosen, put in order, joined (`choice target`), hit, or written; of
 * a question with gaps by gap.
 */
export type Given = { values: readonly string[] } | { gaps: Readonly<Record<string, string>> };

const valuesIn = (given: Given) => ('values' in given ? given.values : []);

/** Points, `null` where a person has to judge. Questions that say nothing of points are worth one. */
export function judge(question: Question, given: Given): number | null {
  const points = question.points ?? 1;
  const whole = (isRight: boolean) => (isRight ? points : 0);
  switch (question.type) {
    case 'choice':
    case 'true/false': {
      const [chosen] = valuesIn(given);
      if (chosen === undefined) return 0;
      return bounded(question, chosenScores(question.choices, [chosen], question, points));
    }
    case 'multiple response': {
      const { choices } = question;
      const chosen = valuesIn(given);
      if (!isScored(choices)) return whole(sameSet(chosen, rightIn(choices)));
      return bounded(question, chosenScores(choices, chosen, question, points));
    }
    case 'hotspot': {
      const chosen = valuesIn(given);
      if (!isScored(question.areas)) return whole(sameSet(chosen, rightIn(question.areas)));
      return bounded(question, chosenScores(question.areas, chosen, question, points));
    }
    case 'short answer':
    case 'pattern':
      return wordScore(question.answers, valuesIn(given)[0] ?? '', points);
    case 'numeric':
      return numberScore(question.numbers, valuesIn(given)[0] ?? '', points);
    case 'ordering': {
      const chosen = valuesIn(given);
      return whole(question.order.length === chosen.length && question.order.every((id, i) => chosen[i] === id));
    }
    case 'matching':
    case 'associate':
    case 'gap match': {
      const { pairs } = question;
      const key = (choice: string, target: string) =>
        question.type === 'associate' ? [choice, target].sort().join(' ') : `${choice} ${target}`;
      const chosen = valuesIn(given).map((pair) => {
        const [choice = '', target = ''] = pair.split(' ');
        return key(choice, target);
      });
      if (!isScored(pairs)) {
        return whole(
          sameSet(
            chosen,
            pairs.map((p) => key(p.choice, p.target)),
          ),
        );
      }
      const others = question.scoring?.others ?? 0;
      const scores = [...new Set(chosen)].map((one) => {
        const pair = pairs.find((p) => key(p.choice, p.target) === one);
        return pair ? (pair.score ?? points) : others;
      });
      return bounded(question, scores);
    }
    case 'cloze': {
      const { blanks } = question;
      const written = 'gaps' in given ? given.gaps : {};
      const parts = blanks.flatMap((b) => [...b.answers, ...b.choices]);
      const scores = blanks.map((b) => {
        const value = written[b.id] ?? '';
        return b.choices.length > 0
          ? (chosenScores(b.choices, value === '' ? [] : [value], question, points)[0] ?? 0)
          : wordScore(b.answers, value, points);
      });
      if (isScored(parts)) return bounded(question, scores);
      return whole(scores.every((score) => score > 0));
    }
    case 'essay':
    case 'upload':
    case 'several parts':
    case 'foreign':
      return null;
  }
}

const isScored = (parts: readonly { score?: number | undefined }[]) => parts.some((part) => part.score !== undefined);

const rightIn = (parts: readonly { id: string; correct: boolean }[]) =>
  parts.filter((part) => part.correct).map((part) => part.id);

function sameSet(some: readonly string[], others: readonly string[]): boolean {
  const [a, b] = [new Set(some), new Set(others)];
  return a.size === b.size && [...a].every((one) => b.has(one));
}

/** What each that was chosen gives. */
function chosenScores(
  parts: readonly Pick<Choice, 'id' | 'correct' | 'score'>[],
  chosen: readonly string[],
  { scoring }: Pick<Question, 'scoring'>,
  points: number,
): number[] {
  return [...new Set(chosen)].map((id) => {
    const part = parts.find((p) => p.id === id);
    return part?.score ?? (part?.correct ? points : (scoring?.others ?? 0));
  });
}

function bounded({ scoring = {} }: Pick<Question, 'scoring'>, scores: readonly number[]): number {
  const sum = scores.reduce((all, one) => all + one, 0);
  const { least = Number.NEGATIVE_INFINITY, most = Number.POSITIVE_INFINITY } = scoring;
  return Math.min(most, Math.max(least, sum));
}

function wordScore(answers: readonly Answer[], written: string, points: number): number {
  const given = written.trim();
  if (given === '') return 0;
  const scores = answers.flatMap(({ text, caseSensitive, match, score }) => {
    const fold = (words: string) => (caseSensitive ? words : words.toLowerCase());
    const [key, own] = [fold(text.trim()), fold(given)];
    return (match === 'substring' ? own.includes(key) : own === key) ? [score ?? points] : [];
  });
  return scores.length === 0 ? 0 : Math.max(...scores);
}

/** Whether a number lies in the range of a key. */
export function isWithin(number: number, { low, high, open }: Pick<NumberKey, 'low' | 'high' | 'open'>): boolean {
  const isAbove = open === 'low' || open === 'both' ? number > low : number >= low;
  return isAbove && (open === 'high' || open === 'both' ? number < high : number <= high);
}

function numberScore(keys: readonly NumberKey[], written: string, points: number): number {
  const number = Number(written.trim());
  if (written.trim() === '' || !Number.isFinite(number)) return 0;
  const scores = keys.flatMap((key) => (isWithin(number, key) ? [key.score ?? points] : []));
  return scores.length === 0 ? 0 : Math.max(...scores);
}

/** Words that are nobody's answer. */
const NONSENSE = 'zzqx';

/**
 * Answers that show what a key says: each that is right, each that is not, none, all, the borders of ranges and what lies
 * beyond them, words in another case and with more around them, another order.
 */
export function sampleAnswers(question: Question): Given[] {
  const { choices, answers, numbers, order, areas, pairs, blanks, targets } = partsOf(question);
  const values = (...list: readonly string[]): Given => ({ values: list });
  switch (question.type) {
    case 'choice':
    case 'true/false':
      return [values(), ...choices.map((c) => values(c.id))];
    case 'multiple response':
      return choosing(choices);
    case 'hotspot':
      return choosing(areas);
    case 'short answer':
    case 'pattern':
      return [values(), ...written(answers).map((text) => values(text))];
    case 'numeric':
      return [values(), ...numbersAround(numbers).map((text) => values(text))];
    case 'ordering': {
      const [first = '', second = '', ...rest] = order;
      return [values(), values(...order), values(...[...order].reverse()), values(second, first, ...rest)];
    }
    case 'matching':
    case 'associate':
    case 'gap match': {
      const right = pairs.map((p) => `${p.choice} ${p.target}`);
      const others = question.type === 'associate' ? choices : question.type === 'matching' ? targets : blanks;
      const wrong = choices
        .flatMap((c) => others.slice(0, 4).map((t) => `${c.id} ${t.id}`))
        .filter((pair) => !right.includes(pair) && !right.includes(pair.split(' ').reverse().join(' ')))
        .slice(0, 8);
      const [first, ...more] = right;
      return [
        values(),
        values(...right),
        ...right.slice(0, 8).map((pair) => values(pair)),
        ...(first !== undefined && more.length > 0 ? [values(...more)] : []),
        ...wrong.map((pair) => values(pair)),
        ...(wrong[0] === undefined ? [] : [values(...right, wrong[0])]),
      ];
    }
    case 'cloze': {
      const best = Object.fromEntries(
        blanks.map((b) => [b.id, b.choices.find((c) => c.correct)?.id ?? b.answers[0]?.text ?? '']),
      );
      const each = blanks.flatMap((b) => [
        ...[...written(b.answers), ...b.choices.map((c) => c.id)].map((value) => ({ ...best, [b.id]: value })),
        { [b.id]: best[b.id] ?? '' },
      ]);
      return [{ gaps: {} }, { gaps: best }, ...each.map((gaps) => ({ gaps }))];
    }
    default:
      return [];
  }
}

/** Several may be chosen: none, all, what is right, with one more and one less, and each by itself. */
function choosing(list: readonly { id: string; correct: boolean }[]): Given[] {
  const ids = list.map((one) => one.id);
  const right = rightIn(list);
  const wrong = ids.filter((id) => !right.includes(id));
  const sets = [[], ids, right, right.slice(1), wrong, ...wrong.map((id) => [...right, id]), ...ids.map((id) => [id])];
  return [...new Map(sets.map((set) => [set.join(' '), { values: set }])).values()];
}

function written(answers: readonly Answer[]): string[] {
  const each = answers.flatMap(({ text }) => [text, text.toUpperCase(), text.toLowerCase(), `${NONSENSE} ${text}`]);
  return [...new Set([...each, NONSENSE])].filter((text) => text !== '');
}

function numbersAround(keys: readonly NumberKey[]): string[] {
  const each = keys.flatMap(({ value, low, high }) => {
    const step = Math.max(1e-6, (high - low) / 1000);
    return [value, low, high, low - step, high + step, (low + high) / 2];
  });
  // As a person would write them: what is lost in the last binary digits is nobody's answer.
  return [...new Set([...each.map((n) => String(Number(n.toPrecision(12)))), '987654321', NONSENSE])];
}

/** An answer as it is told to a person. */
export function givenWords(question: Question, given: Given): string {
  const { choices, areas, targets } = partsOf(question);
  const names = new Map([...choices, ...targets].map((one) => [one.id, plain(one.text.text)]));
  areas.forEach((area, i) => names.set(area.id, `place ${i + 1}`));
  const named = (value: string) =>
    names.get(value) ??
    value
      .split(' ')
      .map((word) => names.get(word) ?? word)
      .join(' – ');
  if ('gaps' in given) {
    const gaps = Object.values(given.gaps).map((value) => (value === '' ? '(nothing)' : named(value)));
    return gaps.length === 0 ? 'no answer' : gaps.join(' | ');
  }
  return given.values.length === 0 ? 'no answer' : given.values.map(named).join(', ');
}

const plain = (text: string) =>
  text
    .replace(/<[^>]+>/g, ' ')
    .replace(/\s+/g, ' ')
    .trim();
