import { child, elements, is, textOf, type XmlElement } from '../../markup/index.ts';
import type { FeedbackKind, Question, RichText } from '../../model/index.ts';
import { materialOf } from './material.ts';

/* How QTI 1.2 judges answers, and what it says of them. */

export interface Test {
  op: string;
  respident: string;
  text: string;
  caseSensitive: boolean;
  index: number | null;
  area: string | null;
}

export interface Condition {
  /** Positive tests, wherever they stand below `and` and `or`; what is negated only makes a set exact. */
  tests: Test[];
  /** All of them have to hold. */
  all: boolean;
  /** Only `<other/>`: holds for every response. */
  always: boolean;
  score: number;
  /** The score is added to what other conditions gave. */
  adds: boolean;
  shows: string[];
}

const TESTS = /^var(equal|substring|subset|inside|gte?|lte?)$/;

/** `main` is the variable that the points of the question are kept in. */
export function readCondition(condition: XmlElement, main: string): Condition {
  const tests: Test[] = [];
  const collect = (element: XmlElement) => {
    for (const test of elements(element)) {
      if (is(test, 'not')) {
        continue;
      }
      is(test, 'and', 'or', 'other');
      if (TESTS.test(test.name)) {
        const index = Number(test.attrs['index'] ?? Number.NaN);
        tests.push({
          op: test.name,
          respident: test.attrs['respident'] ?? '',
          text: textOf(test),
          caseSensitive: test.attrs['case']?.toLowerCase() === 'yes',
          index: Number.isFinite(index) ? index : null,
          area: test.attrs['areatype']?.toLowerCase() ?? null,
        });
      } else collect(test);
    }
  };
  const vars = child(condition, 'conditionvar');
  if (vars) collect(vars);
  const setvar = elements(condition, 'setvar').find((v) => (v.attrs['varname'] ?? 'SCORE') === main);
  const action = setvar?.attrs['action']?.toLowerCase();
  const score = Number(textOf(setvar)) * (action === 'subtract' ? -1 : 1);
  return {
    tests,
    all: child(vars, 'or') === undefined,
    always: child(vars, 'other') !== undefined,
    score: setvar && Number.isFinite(score) ? score : 0,
    adds: action === 'add' || action === 'subtract',
    shows: elements(condition, 'displayfeedback').map((d) => d.attrs['linkrefid'] ?? ''),
  };
}

/** The variable that the points are kept in: the one that goes by the usual name, or the first. */
export function mainVariable(item: XmlElement): string {
  const names = elements(item, 'resprocessing').flatMap((block) => [
    ...elements(child(block, 'outcomes'), 'decvar').map((d) => d.attrs['varname'] ?? 'SCORE'),
    ...elements(block, 'respcondition').flatMap((c) => elements(c, 'setvar').map((v) => v.attrs['varname'] ?? 'SCORE')),
  ]);
  return names.find((name) => name.toUpperCase() === 'SCORE') ?? names[0] ?? 'SCORE';
}

export interface Feedback {
  kind: 'plain' | 'hint' | 'solution';
  text: RichText;
}

export function readFeedbacks(item: XmlElement): Map<string, Feedback> {
  const found = new Map<string, Feedback>();
  for (const feedback of elements(item, 'itemfeedback')) {
    const kind = child(feedback, 'hint') ? 'hint' : child(feedback, 'solution') ? 'solution' : 'plain';
    const text = materialOf(feedback);
    if (text) found.set(feedback.attrs['ident'] ?? '', { kind, text });
  }
  return found;
}

export function choiceFeedback(
  conditions: readonly Condition[],
  feedbacks: ReadonlyMap<string, Feedback>,
): Map<string, RichText> {
  const found = new Map<string, RichText>();
  for (const condition of conditions) {
    const [only] = condition.tests;
    const shown = feedbacks.get(condition.shows[0] ?? '');
    if (condition.score === 0 && condition.tests.length === 1 && only && shown) found.set(only.text, shown.text);
  }
  return found;
}

/** What is said to an answer that passes exactly these tests, and gives nothing by that. */
export function replyTo(
  tests: readonly Test[],
  conditions: readonly Condition[],
  feedbacks: ReadonlyMap<string, Feedback>,
): { feedback?: RichText } {
  const same = (condition: Condition) =>
    condition.score === 0 && !condition.always && sameTests(condition.tests, tests) && condition.shows.length > 0;
  const shown = feedbacks.get(conditions.find(same)?.shows[0] ?? '');
  return shown ? { feedback: shown.text } : {};
}

function sameTests(some: readonly Test[], others: readonly Test[]): boolean {
  const key = (test: Test) => JSON.stringify([test.op, test.respident, test.text, test.caseSensitive]);
  return some.length === others.length && some.every((test, i) => others[i] && key(test) === key(others[i]));
}

/** General feedback is shown before the key is judged, feedback for wrong answers after it. */
export function overallFeedback(
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
