import { descendants, elements, takenAs, textOf, type XmlElement } from '../../markup/index.ts';
import { openEnds, type FeedbackKind, type NumberKey } from '../../model/index.ts';
import { attributeOf, id, isNamed, nameOf, qtiVocabulary } from './names.ts';

export interface StringTest {
  variable: string;
  text: string;
  caseSensitive: boolean;
  match: 'equal' | 'substring';
  score: number | undefined;
}

export interface NumberTest extends Pick<NumberKey, 'open' | 'tolerance'> {
  variable: string;
  value: number | null;
  low(value: number): number;
  high(value: number): number;
  score: number | undefined;
}

/** Points for one choice by itself. */
export interface ChoiceTest {
  variable: string;
  choice: string;
  score: number | undefined;
}

/** What response processing says, as far as it is one of the standard templates or an ordinary rule. */
export interface Processing {
  /** Responses whose scores come from their mappings. */
  mapped: Set<string>;
  /** Points for a response that is as its key says, by the response. */
  keyed: Map<string, number | undefined>;
  /** Points that are given for several responses together. */
  whole: number | null;
  /** They hang on more than one response. */
  together: boolean;
  choices: ChoiceTest[];
  strings: StringTest[];
  numbers: NumberTest[];
  /** Feedback identifiers by when they are shown. */
  feedback: [FeedbackKind, string][];
  /** By the response and the choice, with a space between. */
  choiceFeedback: Map<string, string>;
  /** Feedback identifiers of single answers, by the only test that they hang on. */
  replies: { strings: StringTest[]; numbers: NumberTest[]; ident: string }[];
}

/** What of response processing is looked at (Assessment, Section and Item Information Model, 6 and 7). */
const RULES = qtiVocabulary(
  'responseProcessing responseCondition responseIf responseElseIf responseElse setOutcomeValue baseValue variable correct ' +
    'match member stringMatch substring equal gt gte lt lte and or not sum mapResponse mapResponsePoint isNull',
  'template identifier baseType caseSensitive substring tolerance toleranceMode includeLowerBound includeUpperBound',
);

/** `responses` are the names of all that the item declares. */
export function readProcessing(element: XmlElement | undefined, responses: readonly string[]): Processing {
  const found: Processing = {
    mapped: new Set(),
    keyed: new Map(),
    whole: null,
    together: false,
    choices: [],
    strings: [],
    numbers: [],
    feedback: [],
    choiceFeedback: new Map(),
    replies: [],
  };
  if (!element) return found;
  takenAs(RULES, element);
  const template = attributeOf(element, 'template') ?? '';
  // The templates are of items with one response, which goes by this name; items in use are not all so strict.
  const meant = responses.includes('RESPONSE') ? ['RESPONSE'] : responses;
  if (/map_response/.test(template)) for (const name of meant) found.mapped.add(name);
  if (/match_correct/.test(template)) {
    if (meant.length > 1) found.whole = 1;
    else for (const name of meant) found.keyed.set(name, 1);
  }
  for (const rule of elements(element)) {
    if (isNamed(rule, 'setOutcomeValue'))
      takeOutcome(rule, { kind: 'general', condition: undefined, scores: false }, found);
    if (isNamed(rule, 'responseCondition')) takeCondition(rule, found);
  }
  return found;
}

function takeCondition(rule: XmlElement, found: Processing): void {
  for (const branch of elements(rule)) {
    const name = nameOf(branch);
    const [condition] = name === 'responseElse' ? [undefined] : elements(branch);
    const kind: FeedbackKind = name === 'responseElse' ? 'incorrect' : 'correct';
    const scores = elements(branch).some((inner) => isNamed(inner, 'setOutcomeValue') && id(inner) === 'SCORE');
    for (const inner of elements(branch)) {
      if (isNamed(inner, 'setOutcomeValue')) takeOutcome(inner, { kind, condition, scores }, found);
      if (isNamed(inner, 'responseCondition')) takeCondition(inner, found);
    }
  }
}

function takeOutcome(
  rule: XmlElement,
  { kind, condition, scores }: { kind: FeedbackKind; condition: XmlElement | undefined; scores: boolean },
  found: Processing,
): void {
  const target = id(rule);
  const [value] = elements(rule);
  const inner = value ? [value, ...descendants(value)] : [];
  if (target === 'SCORE') {
    for (const e of inner) if (/^mapResponse(Point)?$/.test(nameOf(e))) found.mapped.add(id(e));
    const given = value && isNamed(value, 'baseValue') ? Number(textOf(value)) : undefined;
    // A sum adds to what was given before.
    const added = inner.filter((e) => isNamed(e, 'baseValue')).map((e) => Number(textOf(e)))[0];
    if (!condition || kind !== 'correct') return;
    const score = given ?? added;
    const alone = keyOf(condition);
    if (asksFor(condition).size > 1) found.together = true;
    if (alone === null) takeTests(condition, score, found);
    else if (!found.keyed.has(alone)) found.keyed.set(alone, score);
    return;
  }
  if (!/FEEDBACK/i.test(target)) return;
  const ident = inner.filter((e) => isNamed(e, 'baseValue')).map((e) => textOf(e).trim())[0];
  if (ident === undefined) return;
  const chosen = condition && chosenIn(condition);
  const only = condition && kind === 'correct' && !scores ? onlyTestIn(condition) : null;
  if (condition && chosen !== undefined && kind === 'correct')
    found.choiceFeedback.set(`${variableIn(condition)} ${chosen}`, ident);
  else if (only) found.replies.push({ ...only, ident });
  else found.feedback.push([kind, ident]);
}

/** The one string or number that a condition asks for, if it asks for nothing else. */
function onlyTestIn(condition: XmlElement): Pick<Processing, 'strings' | 'numbers'> | null {
  if (asksFor(condition).size > 1) return null;
  const tests = readProcessing(undefined, []);
  takeTests(condition, undefined, tests);
  const { strings, numbers, choices } = tests;
  return strings.length + numbers.length === 1 && choices.length === 0 ? { strings, numbers } : null;
}

/** The responses that a condition looks at. */
function asksFor(condition: XmlElement): Set<string> {
  return new Set(descendants(condition).flatMap((e) => (isNamed(e, 'variable') ? [id(e)] : [])));
}

/** The response that a condition compares with its key, where it does nothing else. */
function keyOf(condition: XmlElement): string | null {
  const inner = elements(condition);
  return isNamed(condition, 'match') && inner.some((e) => isNamed(e, 'correct')) ? variableIn(condition) : null;
}

/** The choice that a condition asks for, if it asks for one: `match` or `member` against a value, not against the key. */
function chosenIn(condition: XmlElement): string | undefined {
  const name = nameOf(condition);
  if (name !== 'match' && name !== 'member') return undefined;
  const value = elements(condition).find((e) => isNamed(e, 'baseValue'));
  return value && textOf(value).trim();
}

/** Collects what a condition accepts. `or` and `and` are looked through; what is negated is not accepted. */
function takeTests(test: XmlElement, score: number | undefined, found: Processing): void {
  const name = nameOf(test);
  const inner = elements(test);
  const base = inner.filter((e) => isNamed(e, 'baseValue'));
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
      found.numbers.push({ variable, ...tolerance(test, base), score });
      return;
    case 'match':
    case 'member':
      if (inner.some((e) => isNamed(e, 'correct'))) found.whole ??= score ?? null;
      for (const b of base) {
        const text = textOf(b);
        const type = attributeOf(b, 'baseType');
        if (type === 'string') found.strings.push({ variable, text, caseSensitive: true, match: 'equal', score });
        if (type === 'identifier') found.choices.push({ variable, choice: text.trim(), score });
      }
      return;
    case 'and': {
      const range = rangeOf(test);
      if (range) {
        found.numbers.push({ variable: variableBelow(test), value: null, ...range, score });
        return;
      }
      break;
    }
    case 'or': {
      // A number and the range around it are one key.
      const [exact, around] = inner;
      const range = around && rangeOf(around);
      if (inner.length === 2 && exact && isNamed(exact, 'equal') && range) {
        const { value } = tolerance(
          exact,
          elements(exact).filter((e) => isNamed(e, 'baseValue')),
        );
        found.numbers.push({ variable: variableIn(exact), value, ...range, score });
        return;
      }
      break;
    }
  }
  for (const e of inner) takeTests(e, score, found);
}

function tolerance(test: XmlElement, base: readonly XmlElement[]): Omit<NumberTest, 'score' | 'variable'> {
  const mode = attributeOf(test, 'toleranceMode') ?? 'exact';
  const [first = 0, second = first] = (attributeOf(test, 'tolerance') ?? '0').trim().split(/\s+/).map(Number);
  const isClosed = (name: string) => attributeOf(test, name) !== 'false';
  const value = base[0] === undefined ? null : Number(textOf(base[0]));
  if (mode !== 'absolute' && mode !== 'relative') return { value, low: (of) => of, high: (of) => of };
  // The bounds lie around the first of the two: where that is the answer, they are seen from the other side.
  const [leading] = elements(test);
  const isTurned = leading !== undefined && nameOf(leading) === 'variable';
  const [below, above] = isTurned ? [second, first] : [first, second];
  const [isLow, isHigh] = isTurned
    ? [isClosed('includeUpperBound'), isClosed('includeLowerBound')]
    : [isClosed('includeLowerBound'), isClosed('includeUpperBound')];
  const at = (of: number, by: number, sign: 1 | -1) => {
    if (mode === 'absolute') return of + sign * by;
    // Of the answer so many per cent, of the key as many of what is left.
    return isTurned ? of / (1 - (sign * Math.sign(of) * by) / 100) : of + (sign * Math.abs(of) * by) / 100;
  };
  return {
    value,
    low: (of) => at(of, below, -1),
    high: (of) => at(of, above, 1),
    tolerance: mode,
    ...openEnds({ low: !isLow, high: !isHigh }),
  };
}

/** Between two numbers. */
function rangeOf(test: XmlElement): Pick<NumberTest, 'low' | 'high' | 'open'> | null {
  const bounds = elements(test);
  if (!isNamed(test, 'and') || bounds.length !== 2 || !bounds.every((e) => /^(gte?|lte?)$/.test(nameOf(e))))
    return null;
  const boundOf = (letter: string) => bounds.find((e) => nameOf(e).startsWith(letter));
  const numberIn = (letter: string) => {
    const bound = boundOf(letter);
    return Number(textOf(elements(bound).find((e) => isNamed(e, 'baseValue'))) || Number.NaN);
  };
  const [low, high] = [numberIn('g'), numberIn('l')];
  const isOpen = (letter: string) => !/e$/.test(nameOf(boundOf(letter) ?? test));
  return Number.isFinite(low) && Number.isFinite(high)
    ? { low: () => low, high: () => high, ...openEnds({ low: isOpen('g'), high: isOpen('l') }) }
    : null;
}

function variableBelow(test: XmlElement): string {
  return elements(test).map(variableIn)[0] ?? '';
}

function variableIn(test: XmlElement): string {
  const variable = elements(test).find((e) => isNamed(e, 'variable'));
  return variable ? id(variable) : '';
}
