import {
  child,
  descendants,
  elements,
  fold,
  is,
  named,
  plainText,
  takenAs,
  textOf,
  vocabularyOf,
  type XmlElement,
} from '../../markup/index.ts';
import {
  QUESTION_TYPES,
  hasPartialCredit,
  limitsOf,
  partsOf,
  questionOf,
  type Given,
  type Question,
  type QuestionType,
  type Scoring,
  type RichText,
} from '../../model/index.ts';
import {
  choiceFeedback,
  mainVariable,
  overallFeedback,
  readCondition,
  readFeedbacks,
  type Condition,
} from './conditions.ts';
import { scorerOf, type Responses } from './interpret.ts';
import { RESPONSES, identOf, materialOf, referencesIn, metadataOf, type Resolve } from './material.ts';
import { type Source, NOTHING, labelsOf, sameLabels, READERS } from './parts.ts';

import { tried } from '../trial.ts';

/** One question of QTI 1.2.1 (ASI), whatever its type. */

const PROFILES: Record<string, QuestionType> = {
  'cc.multiple_choice': 'choice',
  'cc.multiple_response': 'multiple response',
  'cc.true_false': 'true/false',
  'cc.fib': 'short answer',
  'cc.pattern_match': 'pattern',
  'cc.essay': 'essay',
};

/** What of the judging of answers is looked at (ASI Information Model, 3.2.6 to 3.2.13). */
const PROCESSING = vocabularyOf(
  'resprocessing outcomes decvar respcondition conditionvar and or not other unanswered setvar displayfeedback ' +
    'varequal varsubstring varsubset varinside vargt vargte varlt varlte',
  'maxvalue varname vartype continue title respident case index areatype setmatch action feedbacktype linkrefid',
);

export function readQuestion(item: XmlElement, resolve: Resolve): Question {
  const meta = metadataOf(child(item, 'itemmetadata'));
  const presentation = child(item, 'presentation');
  const responses = presentation ? named(presentation, ...RESPONSES) : [];
  if (presentation) named(presentation, 'flow', 'flow_label', 'render_choice', 'render_fib', 'render_hotspot');
  const main = mainVariable(item);
  const blocks = elements(item, 'resprocessing');
  for (const block of blocks) takenAs(PROCESSING, block);
  const conditions = blocks.flatMap((block) => elements(block, 'respcondition')).map((c) => readCondition(c, main));
  const profile = PROFILES[(meta['cc_profile'] ?? '').replace(/\.v\d+p\d+$/i, '').toLowerCase()];
  const feedbacks = readFeedbacks(item);
  const [onlyResponse, ...others] = responses;
  const isSingle =
    others.length === 0 &&
    onlyResponse?.name === 'response_lid' &&
    onlyResponse.attrs['rcardinality']?.toLowerCase() !== 'multiple';
  const top = topScore(item, conditions, isSingle);
  const weight = Number(meta['cc_weighting'] ?? meta['qmd_weighting'] ?? Number.NaN);
  // In the cartridge profile scores are per cent; wider, the highest score is what the question is worth.
  const worth = profile === undefined && top.score > 0 && !top.percent ? top.score : null;
  const points = Number.isFinite(weight) ? weight : worth;
  const source: Source = {
    presentation,
    responses,
    conditions,
    top: top.score,
    points,
    perChoice: choiceFeedback(conditions, feedbacks),
    feedbacks,
    resolve,
  };
  const type =
    profile ?? QUESTION_TYPES.find((t) => t === meta['qmd_itemtype'] && t !== 'several parts') ?? typeOf(source);
  const prompt = promptOf(type, source);
  const parts = READERS[type](source);
  const category = meta['cc_question_category'] ?? meta['qmd_topic'];
  const texts = [
    prompt,
    ...(parts.choices ?? []).map((c) => c.text),
    ...(parts.targets ?? []).map((t) => t.text),
    ...(parts.blanks ?? []).flatMap((b) => b.choices.map((c) => c.text)),
  ];
  const common = {
    id: item.attrs['ident'] ?? '',
    title: item.attrs['title'] ?? '',
    prompt,
    points,
    feedback: overallFeedback(conditions, feedbacks),
    ...(category === undefined ? {} : { category }),
    files: [...new Set(texts.flatMap((t) => referencesIn(t.text)).flatMap((r) => resolve(r) ?? []))],
  };
  const question = questionOf(type, { ...common, ...(shuffles(responses) ? { shuffled: true } : {}) }, parts);
  const scoring = scoringOf(question, item, source);
  const scoreOf = scorerOf(item);
  return tried(
    scoring ? { ...question, scoring } : question,
    (given) => {
      const answers = answered(given, question, responses);
      return answers && scoreOf(answers);
    },
    wordsOf(item),
  );
}

/** All that an answer is compared with. */
function wordsOf(item: XmlElement): string[] {
  return elements(item, 'resprocessing').flatMap((block) =>
    named(block, 'varequal', 'varsubstring', 'varsubset').map(textOf),
  );
}

/** An answer as the responses of the item; `null` for one that can't be given there. */
function answered(given: Given, { type }: Question, responses: readonly XmlElement[]): Responses | null {
  if ('gaps' in given) return new Map(Object.entries(given.gaps).map(([gap, value]) => [gap, [value]]));
  const [first] = responses;
  const isOne = first?.attrs['rcardinality']?.toLowerCase() === 'single';
  if (isOne && given.values.length > 1 && type !== 'matching') return null;
  if (type !== 'matching' || first?.name === 'response_grp') {
    return new Map([
      [identOf(first), given.values.map((value) => (type === 'matching' ? value.replace(' ', ',') : value))],
    ]);
  }
  const chosen = new Map<string, string[]>();
  for (const pair of given.values) {
    const [choice = '', target = ''] = pair.split(' ');
    chosen.set(choice, [...(chosen.get(choice) ?? []), target]);
  }
  const single = responses.filter((r) => r.attrs['rcardinality']?.toLowerCase() === 'single').map(identOf);
  return single.some((response) => (chosen.get(response)?.length ?? 0) > 1) ? null : chosen;
}

function shuffles(responses: readonly XmlElement[]): boolean {
  const says = responses.flatMap((r) => named(r, 'render_choice')).map((e) => e.attrs['shuffle']?.toLowerCase());
  return says.includes('yes');
}

/** What the points of parts come to: the outcome's own limits (QTI 1.2.1, `decvar`), as far as an answer reaches them. */
function scoringOf(question: Question, item: XmlElement, { conditions, points, top }: Source): Scoring | undefined {
  if (!hasPartialCredit(question)) return undefined;
  const [declared] = elements(child(item, 'resprocessing', 'outcomes'), 'decvar');
  const limit = (name: string) => {
    const value = declared?.attrs[name];
    if (value === undefined || value.trim() === '' || !Number.isFinite(Number(value))) return undefined;
    // In points, as the parts are.
    return points === null || top === 0 ? Number(value) : (Number(value) * points) / top;
  };
  const { choices, pairs, areas, blanks } = partsOf(question);
  const scores = [...choices, ...pairs, ...areas, ...blanks.flatMap((b) => [...b.answers, ...b.choices])];
  const single = !conditions.some((c) => c.adds);
  return limitsOf(
    scores.flatMap((part) => part.score ?? []),
    single,
    { least: limit('minvalue'), most: limit('maxvalue') },
  );
}

/** The highest score, and whether it is a hundred that nothing declares: then it is per cent. */
function topScore(
  item: XmlElement,
  conditions: readonly Condition[],
  isSingle: boolean,
): { score: number; percent: boolean } {
  const declared = elements(child(item, 'resprocessing', 'outcomes'), 'decvar').map((d) => Number(d.attrs['maxvalue']));
  const [most] = declared.filter((n) => Number.isFinite(n) && n > 0);
  if (most !== undefined) return { score: most, percent: false };
  const sets = conditions.filter((c) => !c.adds).map((c) => c.score);
  const added = conditions.filter((c) => c.adds && c.score > 0).map((c) => c.score);
  // Where one thing can be chosen, one of them is given.
  const adds = isSingle ? Math.max(0, ...added) : added.reduce((sum, score) => sum + score, 0);
  const score = Math.max(0, adds, ...sets);
  return { score, percent: score === 100 };
}

/** Where nothing says what the question is, its responses and its key do. */
function typeOf({ responses, conditions, presentation }: Source): QuestionType {
  const [response] = responses;
  if (!response) return 'foreign';
  const inside = descendants(response);
  if (response.name === 'response_xy' || inside.some((e) => is(e, 'render_hotspot'))) return 'hotspot';
  if (response.name === 'response_grp') return 'matching';
  if (responses.length > 1)
    return responses.every((r) => r.name === 'response_lid') && sameLabels(responses) ? 'matching' : 'cloze';
  if (response.name === 'response_lid') {
    const labels = labelsOf(response);
    if (labels.length === 0) return 'foreign';
    const cardinality = response.attrs['rcardinality']?.toLowerCase();
    if (cardinality === 'ordered' || inside.some((e) => is(e, 'ims_render_object'))) return 'ordering';
    if (cardinality === 'multiple') return 'multiple response';
    if (presentation && holdsText(presentation, response)) return 'cloze';
    return labels.length === 2 && saysTrueAndFalse(labels) ? 'true/false' : 'choice';
  }
  const fib = inside.find((e) => is(e, 'render_fib'));
  if (response.name === 'response_num' || /^(decimal|integer)$/i.test(fib?.attrs['fibtype'] ?? '')) return 'numeric';
  const tests = conditions.flatMap((c) => c.tests);
  if (tests.some((t) => t.op.startsWith('vargt') || t.op.startsWith('varlt'))) return 'numeric';
  if (tests.length === 0) return 'essay';
  return tests.some((t) => t.op === 'varsubstring') ? 'pattern' : 'short answer';
}

function saysTrueAndFalse(labels: readonly XmlElement[]): boolean {
  const words = labels.map((l) => plainText(materialOf(l)?.text ?? '').toLowerCase()).sort();
  return words.join() === 'false,true';
}

/** A choice in the midst of a sentence: text follows it. */
function holdsText(presentation: XmlElement, response: XmlElement): boolean {
  const all = descendants(presentation);
  // By their order, not their offsets: what is shown may be written elsewhere.
  const after = all.slice(all.indexOf(response) + descendants(response).length + 1);
  return after.some((e) => is(e, 'mattext') && fold(textOf(e)) !== '');
}

function promptOf(type: QuestionType, { presentation }: Source): RichText {
  if (type === 'cloze') return materialOf(presentation, { marks: true }) ?? NOTHING;
  return materialOf(presentation, { stopAt: type === 'hotspot' ? [...RESPONSES, 'matimage'] : RESPONSES }) ?? NOTHING;
}
