import { escapeXml, readHtml, xml } from '../markup/index.ts';
import {
  splitAtBlanks,
  withGaps,
  type Answer,
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

const html = (text: RichText) => (text.format === 'html' ? text.text : `<p>${escapeXml(text.text)}</p>`);
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
    foreign: {
      carry: 'never',
      reason: 'a question of a kind that is not read can only be carried inside its own file',
    },
  };
}

/** The question as one of another type: what of its key that type has no place for becomes its model answer. */
export function asType(question: Question, type: QuestionType): Question {
  if (question.type === type) return question;
  const bare: Question = {
    id: question.id,
    title: question.title,
    type,
    prompt: question.prompt,
    points: question.points,
    choices: [],
    answers: [],
    feedback: question.feedback,
    ...(question.category === undefined ? {} : { category: question.category }),
    files: question.files,
  };
  switch (type) {
    case 'short answer':
    case 'pattern':
      return { ...bare, prompt: gapped(question), answers: answersOf(question) };
    case 'matching':
      return asMatching(question, bare);
    case 'essay':
      return asEssay(question, bare);
    default:
      return { ...bare, choices: question.choices };
  }
}

function gapped({ prompt }: Question): RichText {
  return { ...prompt, text: withGaps(prompt.text) };
}

function answersOf(question: Question): Answer[] {
  const equal = (text: string): Answer => ({ text, caseSensitive: false, match: 'equal' });
  if (question.type === 'numeric') return (question.numbers ?? []).map((n) => equal(String(n.value)));
  const [blank] = question.blanks ?? [];
  if (blank) return [...blank.answers, ...blank.choices.filter((c) => c.correct).map((c) => equal(plain(c.text)))];
  return question.answers;
}

/** An ordering question is a matching of its choices with their places; gaps and pairs are matchings by nature. */
function asMatching(question: Question, bare: Question): Question {
  if (question.type === 'ordering') {
    const targets = (question.order ?? []).map((_id, i) => ({ id: `place-${i + 1}`, text: rich(String(i + 1)) }));
    return {
      ...bare,
      choices: question.choices,
      targets,
      pairs: (question.order ?? []).map((choice, i) => ({ choice, target: `place-${i + 1}` })),
    };
  }
  if (question.type === 'gap match') {
    return {
      ...bare,
      prompt: gapped(question),
      choices: question.choices,
      targets: (question.blanks ?? []).map((b, i) => ({ id: b.id, text: rich(`gap ${i + 1}`) })),
      pairs: question.pairs ?? [],
    };
  }
  return {
    ...bare,
    choices: question.choices,
    targets: question.choices.map((c) => ({ id: c.id, text: c.text })),
    pairs: question.pairs ?? [],
  };
}

/** Everything that was to be chosen from is listed in the prompt, and the key is the model answer. */
function asEssay(question: Question, bare: Question): Question {
  const list = (parts: readonly { text: RichText }[]) =>
    parts.length === 0 ? '' : xml('ul', {}, ...parts.map((p) => xml('li', {}, html(p.text))));
  const image = question.image
    ? `<p><img src="$IMS-CC-FILEBASE$/${escapeXml(encodePath(question.image.file))}" alt="${escapeXml(question.title)}"></p>`
    : '';
  const prompt = html(gapped(question)) + list(question.choices) + list(question.targets ?? []) + image;
  const key = keyInWords(question);
  const solution =
    key === ''
      ? question.feedback.solution
      : rich((question.feedback.solution ? html(question.feedback.solution) : '') + key);
  return { ...bare, prompt: rich(prompt), feedback: { ...bare.feedback, ...(solution ? { solution } : {}) } };
}

function keyInWords(question: Question): string {
  const named = (id: string) => {
    const found: Choice | { text: RichText } | undefined = [...question.choices, ...(question.targets ?? [])].find(
      (x) => x.id === id,
    );
    const gap = (question.blanks ?? []).findIndex((b) => b.id === id);
    return found ? plain(found.text) : gap >= 0 ? `gap ${gap + 1}` : id;
  };
  const lines = [
    ...(question.blanks ?? []).flatMap((b, i) => {
      const right = [...b.answers.map((a) => a.text), ...b.choices.filter((c) => c.correct).map((c) => plain(c.text))];
      return right.length === 0 ? [] : [`gap ${i + 1}: ${right.join(' / ')}`];
    }),
    ...(question.pairs ?? []).map((p) => `${named(p.choice)}: ${named(p.target)}`),
    ...(question.order ?? []).map((id, i) => `${i + 1}. ${named(id)}`),
    ...(question.numbers ?? []).map((n) => (n.low === n.high ? String(n.value) : `${n.value} (${n.low} to ${n.high})`)),
    ...(question.areas ?? []).filter((a) => a.correct).map((a) => `${a.shape} ${a.coords.join(',')}`),
  ];
  return lines.length === 0 ? '' : xml('ul', {}, ...lines.map((l) => xml('li', {}, escapeXml(l))));
}

/** The question as a format of this profile holds it, or null where it does not: what the profile names as a loss. */
export function asProfiled(question: Question, { questions, questionParts }: Profile): Question | null {
  const rule = questions[question.type];
  if (rule?.carry === 'never') return null;
  const lost = (part: QuestionPart) => questionParts[part] !== undefined;
  const whole = rule ? asType(question, rule.as) : question;
  const { category, ...rest } = lost('partial credit') ? withoutPartialCredit(whole) : whole;
  return {
    ...rest,
    ...(category === undefined || lost('category') ? {} : { category }),
    points: lost('points') ? null : rest.points,
    choices: lost('choice feedback') ? rest.choices.map(withoutFeedback) : rest.choices,
    feedback: Object.fromEntries(Object.entries(rest.feedback).filter(([kind]) => !lost(kind as FeedbackKind))),
  };
}

function withoutFeedback(choice: Choice): Choice {
  const bare = { ...choice };
  delete bare.feedback;
  return bare;
}

/** The question without points for parts: right as a whole, or not at all. */
export function withoutPartialCredit(question: Question): Question {
  const bare = <T extends { score?: number | undefined }>(list: readonly T[]): T[] =>
    list.map((part) => {
      const copy = { ...part };
      delete copy.score;
      return copy;
    });
  return {
    ...question,
    choices: bare(question.choices),
    answers: bare(question.answers),
    ...(question.blanks
      ? { blanks: question.blanks.map((b) => ({ ...b, answers: bare(b.answers), choices: bare(b.choices) })) }
      : {}),
    ...(question.numbers ? { numbers: bare(question.numbers) } : {}),
    ...(question.pairs ? { pairs: bare(question.pairs) } : {}),
    ...(question.areas ? { areas: bare(question.areas) } : {}),
  };
}

/** A prompt with something in place of each blank's mark. Text that is not HTML is escaped. */
export function fillBlanks(prompt: RichText, put: (blank: string) => string): string {
  return splitAtBlanks(prompt.text)
    .map((part) => ('blank' in part ? put(part.blank) : prompt.format === 'html' ? part.text : escapeXml(part.text)))
    .join('');
}
