import type { Answer, Choice, FeedbackKind, Question, QuestionType, RichText, Settings } from '../../model/index.ts';
import { child, descendants, elements, textOf, type XmlElement } from '../../markup/index.ts';

/**
 * Questions of QTI 1.2.1 (ASI), in the cartridge profile: IMS Common Cartridge, QTI profile, chapters 3 and 4.
 * `resolve` turns a reference in a text into a package path, or `null`.
 */
export function readQuestions(root: XmlElement, resolve: (reference: string) => string | null): Question[] {
  return [...descendants(root)].filter((e) => e.name === 'item').map((item) => readQuestion(item, resolve));
}

export function metadataOf(element: XmlElement | undefined): Record<string, string> {
  const fields: Record<string, string> = {};
  for (const field of elements(child(element, 'qtimetadata'), 'qtimetadatafield')) {
    fields[textOf(child(field, 'fieldlabel')).trim().toLowerCase()] = textOf(child(field, 'fieldentry')).trim();
  }
  return fields;
}

/** Settings of an assessment: its metadata and its rubric. Times are minutes. */
export function readQuizSettings(assessment: XmlElement | undefined): Settings {
  const meta = metadataOf(assessment);
  const settings: Settings = {};
  const attempts = meta['cc_maxattempts'];
  if (attempts !== undefined) settings.attempts = /^\d+$/.test(attempts) ? Number(attempts) : attempts;
  const limit = Number(meta['qmd_timelimit']);
  if (limit > 0) settings.timeLimit = limit;
  const instructions = materialOf(child(assessment, 'rubric'));
  if (instructions) settings.instructions = instructions.text;
  return settings;
}

const PROFILES: Record<string, QuestionType> = {
  'cc.multiple_choice': 'choice',
  'cc.multiple_response': 'multiple response',
  'cc.true_false': 'true/false',
  'cc.fib': 'short answer',
  'cc.pattern_match': 'pattern',
  'cc.essay': 'essay',
};

function readQuestion(item: XmlElement, resolve: (reference: string) => string | null): Question {
  const meta = metadataOf(child(item, 'itemmetadata'));
  const presentation = child(item, 'presentation');
  const inner = presentation ? [...descendants(presentation)] : [];
  const response = inner.find((e) => e.name.startsWith('response_') && e.name !== 'response_label');
  const conditions = elements(child(item, 'resprocessing'), 'respcondition').map(readCondition);
  const labels = inner.filter((e) => e.name === 'response_label');
  const type = typeOf(meta['cc_profile'], response, labels, conditions);
  const prompt = materialOf(presentation, 'response_lid', 'response_str') ?? { format: 'html', text: '' };
  const feedbacks = readFeedbacks(item);
  const keys = new Set(conditions.filter((c) => c.score > 0).flatMap((c) => c.equal.map((e) => e.text)));
  const perChoice = choiceFeedback(conditions, feedbacks);
  const choices = labels.map((label): Choice => {
    const id = label.attrs['ident'] ?? '';
    const feedback = perChoice.get(id);
    return {
      id,
      text: materialOf(label) ?? { format: 'plain', text: '' },
      correct: keys.has(id),
      ...(feedback ? { feedback } : {}),
    };
  });
  const texts = [prompt, ...choices.map((c) => c.text)].map((t) => t.text);
  const category = meta['cc_question_category'];
  const points = Number(meta['cc_weighting'] ?? Number.NaN);
  return {
    id: item.attrs['ident'] ?? '',
    title: item.attrs['title'] ?? '',
    type,
    prompt,
    points: Number.isFinite(points) ? points : null,
    choices,
    answers: labels.length > 0 ? [] : conditions.filter((c) => c.score > 0).flatMap((c) => c.equal),
    feedback: overallFeedback(conditions, feedbacks),
    ...(category === undefined ? {} : { category }),
    files: [...new Set(texts.flatMap(referencesIn).flatMap((r) => resolve(r) ?? []))],
  };
}

function typeOf(
  profile: string | undefined,
  response: XmlElement | undefined,
  labels: readonly XmlElement[],
  conditions: readonly Condition[],
): QuestionType {
  const named = profile === undefined ? undefined : PROFILES[profile.replace(/\.v\d+p\d+$/i, '').toLowerCase()];
  if (named) return named;
  if (response?.name === 'response_lid' && labels.length > 0) {
    return response.attrs['rcardinality']?.toLowerCase() === 'multiple' ? 'multiple response' : 'choice';
  }
  if (response?.name === 'response_str') {
    const answers = conditions.flatMap((c) => c.equal);
    if (answers.length === 0) return 'essay';
    return answers.some((a) => a.match === 'substring') ? 'pattern' : 'short answer';
  }
  return 'foreign';
}

interface Condition {
  equal: Answer[];
  /** Only `<other/>`: holds for every response. */
  always: boolean;
  score: number;
  shows: string[];
}

function readCondition(condition: XmlElement): Condition {
  const equal: Answer[] = [];
  const collect = (element: XmlElement) => {
    for (const test of elements(element)) {
      if (test.name === 'not') continue;
      if (test.name === 'varequal' || test.name === 'varsubstring') {
        equal.push({
          text: textOf(test),
          caseSensitive: test.attrs['case']?.toLowerCase() === 'yes',
          match: test.name === 'varequal' ? 'equal' : 'substring',
        });
      } else collect(test);
    }
  };
  const vars = child(condition, 'conditionvar');
  if (vars) collect(vars);
  const score = Number(textOf(elements(condition, 'setvar').find((v) => (v.attrs['varname'] ?? 'SCORE') === 'SCORE')));
  return {
    equal,
    always: child(vars, 'other') !== undefined,
    score: Number.isFinite(score) ? score : 0,
    shows: elements(condition, 'displayfeedback').map((d) => d.attrs['linkrefid'] ?? ''),
  };
}

interface Feedback {
  kind: 'plain' | 'hint' | 'solution';
  text: RichText;
}

function readFeedbacks(item: XmlElement): Map<string, Feedback> {
  const found = new Map<string, Feedback>();
  for (const feedback of elements(item, 'itemfeedback')) {
    const kind = child(feedback, 'hint') ? 'hint' : child(feedback, 'solution') ? 'solution' : 'plain';
    const text = materialOf(feedback);
    if (text) found.set(feedback.attrs['ident'] ?? '', { kind, text });
  }
  return found;
}

function choiceFeedback(
  conditions: readonly Condition[],
  feedbacks: ReadonlyMap<string, Feedback>,
): Map<string, RichText> {
  const found = new Map<string, RichText>();
  for (const condition of conditions) {
    const [only] = condition.equal;
    const shown = feedbacks.get(condition.shows[0] ?? '');
    if (condition.score === 0 && condition.equal.length === 1 && only && shown) found.set(only.text, shown.text);
  }
  return found;
}

/** General feedback is shown before the key is judged, feedback for wrong answers after it. */
function overallFeedback(
  conditions: readonly Condition[],
  feedbacks: ReadonlyMap<string, Feedback>,
): Question['feedback'] {
  const found: Partial<Record<FeedbackKind, RichText>> = {};
  const scoring = conditions.findIndex((c) => c.score > 0);
  conditions.forEach((condition, index) => {
    for (const ident of condition.shows) {
      const feedback = feedbacks.get(ident);
      if (feedback?.kind !== 'plain') continue;
      if (condition.score > 0) found.correct ??= feedback.text;
      else if (condition.always && (ident === 'general_incorrect_fb' || (scoring >= 0 && index > scoring))) {
        found.incorrect ??= feedback.text;
      } else if (condition.always) found.general ??= feedback.text;
    }
  });
  for (const feedback of feedbacks.values()) {
    if (feedback.kind !== 'plain') found[feedback.kind] ??= feedback.text;
  }
  return found;
}

/** The text of all material below an element, stopping at the elements named. */
function materialOf(element: XmlElement | undefined, ...stopAt: string[]): RichText | undefined {
  if (!element) return undefined;
  const found: XmlElement[] = [];
  const look = (at: XmlElement) => {
    for (const inner of elements(at)) {
      if (inner.name === 'mattext') found.push(inner);
      else if (!stopAt.includes(inner.name)) look(inner);
    }
  };
  look(element);
  if (found.length === 0) return undefined;
  const html = found.some((m) => m.attrs['texttype']?.toLowerCase() === 'text/html');
  return { format: html ? 'html' : 'plain', text: found.map(textOf).join('') };
}

/** What a text refers to by the cartridge's base token. */
function referencesIn(text: string): string[] {
  return [...text.matchAll(/(?:src|href)\s*=\s*["']([^"']+)["']/gi)].map((m) => m[1] ?? '');
}
