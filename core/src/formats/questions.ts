import { asHtml, escapeXml, readHtml, xml } from '../markup/index.ts';
import {
  mapParts,
  mapScored,
  partsOf,
  questionOf,
  splitAtBlanks,
  withGaps,
  partOfManner,
  type Answer,
  type Asked,
  type Manner,
  type Choice,
  type FeedbackKind,
  type Profile,
  type QuestionPart,
  type QuestionRule,
  type Question,
  type QuestionType,
  type RichText,
} from '../model/index.ts';

import { encodePath } from './references.ts';

/** What a format can't say is turned into the nearest that it can; what the profile names as a loss is done here. */

const rich = (text: string): RichText => ({ format: 'html', text });
const plain = (text: RichText) => (text.format === 'html' ? readHtml(text.text).text : text.text);

/** Types that are choosing, words, numbers and prose. */
type Plainly = 'choice' | 'multiple response' | 'true/false' | 'short answer' | 'pattern' | 'numeric' | 'essay';

/** Rules of what can't say the types beyond choosing, words and prose: they become prose, their key listed with them. */
export function proseRules(name: (what: string) => string): Record<Exclude<QuestionType, Plainly>, QuestionRule> {
  const prose = (what: string): QuestionRule => ({ carry: 'as', as: 'essay', reason: name(what) });
  return {
    cloze: prose('text with several gaps'),
    matching: prose('matching'),
    associate: prose('pairs'),
    'gap match': prose('gaps to drop words into'),
    ordering: prose('ordering'),
    hotspot: prose('hotspot'),
    upload: prose('upload question'),
    'several parts': prose('question of several parts'),
    foreign: {
      carry: 'never',
      reason: 'a question of a kind that is not read can only be carried inside its own file',
    },
  };
}

/** The question as one of another type: what of its key that type has no place for becomes its model answer. */
export function asType(question: Question, type: QuestionType): Question {
  if (question.type === type) return question;
  switch (type) {
    case 'short answer':
    case 'pattern':
      return questionOf(type, { ...question, prompt: gapped(question) }, { answers: answersOf(question) });
    case 'matching':
      return asMatching(question);
    case 'essay':
      return asEssay(question);
    default:
      return questionOf(type, question, { choices: partsOf(question).choices });
  }
}

function gapped({ prompt }: Question): RichText {
  return { ...prompt, text: withGaps(prompt.text) };
}

function answersOf(question: Question): Answer[] {
  const equal = (text: string): Answer => ({ text, caseSensitive: false, match: 'equal' });
  if (question.type === 'numeric')
    return question.numbers.map((n) => ({
      ...equal(String(n.value)),
      ...(n.feedback ? { feedback: n.feedback } : {}),
    }));
  const { blanks, answers } = partsOf(question);
  const [blank] = blanks;
  if (blank) return [...blank.answers, ...blank.choices.filter((c) => c.correct).map((c) => equal(plain(c.text)))];
  return answers;
}

/** An ordering question is a matching of its choices with their places; gaps and pairs are matchings by nature. */
function asMatching(question: Question): Question {
  const { choices, blanks, pairs, order } = partsOf(question);
  if (question.type === 'ordering') {
    return questionOf('matching', question, {
      choices,
      targets: order.map((_id, i) => ({ id: `place-${i + 1}`, text: rich(String(i + 1)) })),
      pairs: order.map((choice, i) => ({ choice, target: `place-${i + 1}` })),
    });
  }
  if (question.type === 'gap match') {
    const targets = blanks.map((b, i) => ({ id: b.id, text: rich(`gap ${i + 1}`) }));
    return questionOf('matching', { ...question, prompt: gapped(question) }, { choices, targets, pairs });
  }
  const targets = choices.map((c) => ({ id: c.id, text: c.text }));
  return questionOf('matching', question, { choices, targets, pairs });
}

/** Everything that was to be chosen from is listed in the prompt, and the key is the model answer. */
function asEssay(question: Question): Question {
  const { choices, targets, image: shown } = partsOf(question);
  const list = (parts: readonly { text: RichText }[]) =>
    parts.length === 0 ? '' : xml('ul', {}, ...parts.map((p) => xml('li', {}, asHtml(p.text))));
  const image = shown
    ? `<p><img src="$IMS-CC-FILEBASE$/${escapeXml(encodePath(shown.file))}" alt="${escapeXml(question.title)}"></p>`
    : '';
  const inside = partsOf(question).subquestions.map(asEssay);
  const prompt =
    asHtml(gapped(question)) +
    list(choices) +
    list(targets) +
    image +
    inside.map((part) => asHtml(part.prompt)).join('');
  const key =
    keyInWords(question) +
    inside.map((part) => (part.feedback.solution ? asHtml(part.feedback.solution) : '')).join('');
  const solution =
    key === ''
      ? question.feedback.solution
      : rich((question.feedback.solution ? asHtml(question.feedback.solution) : '') + key);
  const feedback = { ...question.feedback, ...(solution ? { solution } : {}) };
  return questionOf('essay', { ...question, prompt: rich(prompt), feedback });
}

function keyInWords(question: Question): string {
  const { choices, answers, blanks, numbers, targets, pairs, order, areas } = partsOf(question);
  const named = (id: string) => {
    const found: Choice | { text: RichText } | undefined = [...choices, ...targets].find((x) => x.id === id);
    const gap = blanks.findIndex((b) => b.id === id);
    return found ? plain(found.text) : gap >= 0 ? `gap ${gap + 1}` : id;
  };
  const lines = [
    ...blanks.flatMap((b, i) => {
      const right = [...b.answers.map((a) => a.text), ...b.choices.filter((c) => c.correct).map((c) => plain(c.text))];
      return right.length === 0 ? [] : [`gap ${i + 1}: ${right.join(' / ')}`];
    }),
    ...pairs.map((p) => `${named(p.choice)}: ${named(p.target)}`),
    ...order.map((id, i) => `${i + 1}. ${named(id)}`),
    ...numbers.map((n) => (n.low === n.high ? String(n.value) : `${n.value} (${n.low} to ${n.high})`)),
    ...areas.filter((a) => a.correct).map((a) => `${a.shape} ${a.coords.join(',')}`),
    ...choices.filter((c) => c.correct).map((c) => plain(c.text)),
    ...answers.map((a) => a.text),
  ];
  return lines.length === 0 ? '' : xml('ul', {}, ...lines.map((l) => xml('li', {}, escapeXml(l))));
}

/** The question as a format of this profile holds it, or null where it does not: what the profile names as a loss. */
export function asProfiled(question: Question, { questions, questionParts }: Profile): Question | null {
  const rule = questions[question.type];
  if (rule?.carry === 'never') return null;
  const lost = (part: QuestionPart) => questionParts[part] !== undefined;
  const whole = rule ? asType(question, rule.as) : question;
  const parts = mapParts(whole, {
    ...(lost('choice feedback') ? { choices: (list) => list.map(withoutFeedback) } : {}),
    ...(lost('answer feedback')
      ? { answers: (list) => list.map(withoutFeedback), numbers: (list) => list.map(withoutFeedback) }
      : {}),
  });
  const { category, shuffled, asked, ...rest } = lost('partial credit') ? withoutPartialCredit(parts) : parts;
  return {
    ...rest,
    ...(category === undefined || lost('category') ? {} : { category }),
    ...(shuffled && !lost('shuffling') ? { shuffled } : {}),
    ...askedWithout(asked, (manner) => lost(partOfManner(manner))),
    points: lost('points') ? null : rest.points,
    feedback: Object.fromEntries(Object.entries(rest.feedback).filter(([kind]) => !lost(kind as FeedbackKind))),
  };
}

function askedWithout(asked: Asked | undefined, isLost: (manner: Manner) => boolean): Pick<Question, 'asked'> {
  const by = asked?.by.filter((manner) => !isLost(manner)) ?? [];
  return asked && by.length > 0 ? { asked: { ...asked, by } } : {};
}

function withoutFeedback<T extends { feedback?: RichText | undefined }>(part: T): T {
  const bare = { ...part };
  delete bare.feedback;
  return bare;
}

/** The question without points for parts: right as a whole, or not at all. */
export function withoutPartialCredit<Q extends Question>(question: Q): Q {
  const bare = mapScored(question, (part) => {
    const copy = { ...part };
    delete copy.score;
    return copy;
  });
  delete bare.scoring;
  return bare;
}

/** A prompt with something in place of each blank's mark. Text that is not HTML is escaped. */
export function fillBlanks(prompt: RichText, put: (blank: string) => string): string {
  return splitAtBlanks(prompt.text)
    .map((part) => ('blank' in part ? put(part.blank) : prompt.format === 'html' ? part.text : escapeXml(part.text)))
    .join('');
}
