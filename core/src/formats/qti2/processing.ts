import { descendants, elements, textOf, type XmlElement } from '../../markup/index.ts';
import type { FeedbackKind } from '../../model/index.ts';
import { attributeOf, id, nameOf } from './names.ts';

export interface StringTest {
  variable: string;
  text: string;
  caseSensitive: boolean;
  match: 'equal' | 'substring';
  score: number | undefined;
}

export interface NumberTest {
  value: number | null;
  low(value: number): number;
  high(value: number): number;
  score: number | undefined;
}

/** What response processing says, as far as it is one of the standard templates or an ordinary rule. */
export interface Processing {
  /** Scores come from mappings. */
  mapped: boolean;
  /** Points that are given for the whole of the key. */
  whole: number | null;
  strings: StringTest[];
  numbers: NumberTest[];
  /** Feedback identifiers by when they are shown. */
  feedback: [FeedbackKind, string][];
  choiceFeedback: Map<string, string>;
}

export function readProcessing(element: XmlElement | undefined): Processing {
  const found: Processing = {
    mapped: false,
    whole: null,
    strings: [],
    numbers: [],
    feedback: [],
    choiceFeedback: new Map(),
  };
  if (!element) return found;
  const template = attributeOf(element, 'template') ?? '';
  if (/map_response/.test(template)) found.mapped = true;
  if (/match_correct/.test(template)) found.whole = null;
  for (const rule of elements(element)) {
    if (nameOf(rule) === 'setOutcomeValue') takeOutcome(rule, { kind: 'general', condition: undefined }, found);
    if (nameOf(rule) === 'responseCondition') takeCondition(rule, found);
  }
  return found;
}

function takeCondition(rule: XmlElement, found: Processing): void {
  for (const branch of elements(rule)) {
    const name = nameOf(branch);
    const [condition] = name === 'responseElse' ? [undefined] : elements(branch);
    const kind: FeedbackKind = name === 'responseElse' ? 'incorrect' : 'correct';
    for (const inner of elements(branch)) {
      if (nameOf(inner) === 'setOutcomeValue') takeOutcome(inner, { kind, condition }, found);
      if (nameOf(inner) === 'responseCondition') takeCondition(inner, found);
    }
  }
}

function takeOutcome(
  rule: XmlElement,
  { kind, condition }: { kind: FeedbackKind; condition: XmlElement | undefined },
  found: Processing,
): void {
  const target = id(rule);
  const [value] = elements(rule);
  const inner = value ? [value, ...descendants(value)] : [];
  if (target === 'SCORE') {
    if (inner.some((e) => /^mapResponse(Point)?$/.test(nameOf(e)))) found.mapped = true;
    const given = value && nameOf(value) === 'baseValue' ? Number(textOf(value)) : undefined;
    // A sum adds to what was given before.
    const added = inner.filter((e) => nameOf(e) === 'baseValue').map((e) => Number(textOf(e)))[0];
    if (condition && kind === 'correct') takeTests(condition, given ?? added, found);
    return;
  }
  if (!/FEEDBACK/i.test(target)) return;
  const ident = inner.filter((e) => nameOf(e) === 'baseValue').map((e) => textOf(e).trim())[0];
  if (ident === undefined) return;
  const chosen = condition && chosenIn(condition);
  if (chosen !== undefined && kind === 'correct') found.choiceFeedback.set(chosen, ident);
  else found.feedback.push([kind, ident]);
}

/** The choice that a condition asks for, if it asks for one: `match` or `member` against a value, not against the key. */
function chosenIn(condition: XmlElement): string | undefined {
  const name = nameOf(condition);
  if (name !== 'match' && name !== 'member') return undefined;
  const value = elements(condition).find((e) => nameOf(e) === 'baseValue');
  return value && textOf(value).trim();
}

/** Collects what a condition accepts. `or` and `and` are looked through; what is negated is not accepted. */
function takeTests(test: XmlElement, score: number | undefined, found: Processing): void {
  const name = nameOf(test);
  const inner = elements(test);
  const base = inner.filter((e) => nameOf(e) === 'baseValue');
  const variable = variableIn(test);
  switch (name) {
    case 'not':
      return;
    case 'stringMatch':
    case 'substring': {
      const caseSensitive = attributeOf(test, 'caseSensitive') === 'true';
      const match = name === 'substring' || attributeOf(test, 'substring') === 'true' ? 'substring' : 'equal';
      for (const b of base) found.strings.push({ variable, text: textOf(b), caseSensitive, match, score });
      return;
    }
    case 'equal':
      found.numbers.push({ ...tolerance(test, base), score });
      return;
    case 'match':
      if (inner.some((e) => nameOf(e) === 'correct')) found.whole ??= score ?? null;
      for (const b of base.filter((e) => attributeOf(e, 'baseType') === 'string')) {
        found.strings.push({ variable, text: textOf(b), caseSensitive: true, match: 'equal', score });
      }
      return;
    case 'and': {
      const range = rangeOf(test);
      if (range) {
        found.numbers.push({ value: null, ...range, score });
        return;
      }
      break;
    }
    case 'or': {
      // A number and the range around it are one key.
      const [exact, around] = inner;
      const range = around && rangeOf(around);
      if (inner.length === 2 && exact && nameOf(exact) === 'equal' && range) {
        const { value } = tolerance(
          exact,
          elements(exact).filter((e) => nameOf(e) === 'baseValue'),
        );
        found.numbers.push({ value, ...range, score });
        return;
      }
      break;
    }
  }
  for (const e of inner) takeTests(e, score, found);
}

function tolerance(test: XmlElement, base: readonly XmlElement[]): Omit<NumberTest, 'score'> {
  const mode = attributeOf(test, 'toleranceMode') ?? 'exact';
  const [low = 0, high = low] = (attributeOf(test, 'tolerance') ?? '0').trim().split(/\s+/).map(Number);
  const width = (value: number, by: number) =>
    mode === 'absolute' ? by : mode === 'relative' ? (Math.abs(value) * by) / 100 : 0;
  return {
    value: base[0] === undefined ? null : Number(textOf(base[0])),
    low: (value) => value - width(value, low),
    high: (value) => value + width(value, high),
  };
}

/** Between two numbers, both included. */
function rangeOf(test: XmlElement): Pick<NumberTest, 'low' | 'high'> | null {
  const bounds = elements(test);
  if (nameOf(test) !== 'and' || bounds.length !== 2 || !bounds.every((e) => /^(gte?|lte?)$/.test(nameOf(e))))
    return null;
  const numberIn = (letter: string) => {
    const bound = bounds.find((e) => nameOf(e).startsWith(letter));
    return Number(textOf(elements(bound).find((e) => nameOf(e) === 'baseValue')) || Number.NaN);
  };
  const [low, high] = [numberIn('g'), numberIn('l')];
  return Number.isFinite(low) && Number.isFinite(high) ? { low: () => low, high: () => high } : null;
}

function variableIn(test: XmlElement): string {
  const variable = elements(test).find((e) => nameOf(e) === 'variable');
  return variable ? id(variable) : '';
}
