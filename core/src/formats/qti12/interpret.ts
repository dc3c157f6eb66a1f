import { child, elements, textOf, type XmlElement } from '../../markup/index.ts';
import { mainVariable } from './conditions.ts';

/**
 * Judges an answer as an item of QTI 1.2.1 says (ASI Information Model, 3.2.6 to 3.2.13): every block of response processing,
 * every variable, in the order in which they stand.
 */

/** What was answered, by the identifier of the response. */
export type Responses = ReadonlyMap<string, readonly string[]>;

/** Says that an item asks for something that is not interpreted. */
class Unknown extends Error {}

/** What the item gives, in its own scale; `null` where it says what is not interpreted. */
export function scoreOf(item: XmlElement, responses: Responses): number | null {
  try {
    return interpret(item, responses);
  } catch (error) {
    if (error instanceof Unknown) return null;
    throw error;
  }
}

function interpret(item: XmlElement, responses: Responses): number {
  const variables = new Map<string, number>();
  const declared = new Map<string, { least: number; most: number }>();
  for (const block of elements(item, 'resprocessing')) {
    for (const decvar of elements(child(block, 'outcomes'), 'decvar')) {
      const name = decvar.attrs['varname'] ?? 'SCORE';
      // Of several blocks each goes on where the one before ended.
      if (!variables.has(name)) variables.set(name, Number(decvar.attrs['defaultval'] ?? 0) || 0);
      declared.set(name, {
        least: limit(decvar.attrs['minvalue'], Number.NEGATIVE_INFINITY),
        most: limit(decvar.attrs['maxvalue'], Number.POSITIVE_INFINITY),
      });
    }
    for (const condition of elements(block, 'respcondition')) {
      const vars = child(condition, 'conditionvar');
      if (!vars || !all(elements(vars), responses)) continue;
      for (const setvar of elements(condition, 'setvar')) {
        const name = setvar.attrs['varname'] ?? 'SCORE';
        const value = Number(textOf(setvar));
        if (!Number.isFinite(value)) throw new Unknown();
        variables.set(name, changed(variables.get(name) ?? 0, setvar.attrs['action'], value));
      }
      // Where nothing is said the first that holds is the last; but what adds points is meant to add to others.
      const adds = elements(condition, 'setvar').some((v) => /^(add|subtract)$/i.test(v.attrs['action'] ?? ''));
      if ((condition.attrs['continue'] ?? (adds ? 'yes' : 'no')).toLowerCase() !== 'yes') break;
    }
  }
  const main = mainVariable(item);
  const limits = declared.get(main);
  const value = variables.get(main) ?? 0;
  return limits ? Math.min(limits.most, Math.max(limits.least, value)) : value;
}

function limit(text: string | undefined, otherwise: number): number {
  const value = Number(text?.trim() || Number.NaN);
  return Number.isFinite(value) ? value : otherwise;
}

function changed(before: number, action: string | undefined, value: number): number {
  switch ((action ?? 'set').toLowerCase()) {
    case 'set':
      return value;
    case 'add':
      return before + value;
    case 'subtract':
      return before - value;
    case 'multiply':
      return before * value;
    case 'divide':
      return value === 0 ? before : before / value;
    default:
      throw new Unknown();
  }
}

const all = (tests: readonly XmlElement[], responses: Responses) => tests.every((test) => holds(test, responses));

function holds(test: XmlElement, responses: Responses): boolean {
  const inside = elements(test);
  switch (test.name) {
    case 'and':
      return all(inside, responses);
    case 'or':
      return inside.some((one) => holds(one, responses));
    case 'not':
      return !all(inside, responses);
    case 'other':
      return true;
  }
  const given = responses.get(test.attrs['respident'] ?? '') ?? [];
  const index = Number(test.attrs['index'] ?? Number.NaN);
  const values = Number.isFinite(index) ? given.slice(index - 1, index) : given;
  const isExact = test.attrs['case']?.toLowerCase() === 'yes';
  const fold = (text: string) => (isExact ? text.trim() : text.trim().toLowerCase());
  const key = textOf(test);
  const numbers = values.map((v) => (v.trim() === '' ? Number.NaN : Number(v)));
  switch (test.name) {
    case 'unanswered':
      return given.every((v) => v.trim() === '');
    case 'varequal':
      return values.some((v) => fold(v) === fold(key) || (key.includes(',') && pairOf(v) === pairOf(key)));
    case 'varsubstring':
      return values.some((v) => fold(v).includes(fold(key)));
    case 'varsubset': {
      const set = key.split(',').map(fold);
      const has = (value: string) => set.includes(fold(value));
      return test.attrs['setmatch']?.toLowerCase() === 'partial'
        ? values.some(has)
        : values.length > 0 && values.every(has);
    }
    case 'vargt':
      return numbers.some((n) => n > Number(key));
    case 'vargte':
      return numbers.some((n) => n >= Number(key));
    case 'varlt':
      return numbers.some((n) => n < Number(key));
    case 'varlte':
      return numbers.some((n) => n <= Number(key));
    default:
      throw new Unknown();
  }
}

/** The two of a pair, whichever sign stands between them. */
const pairOf = (value: string) =>
  value
    .split(/[\s,]+/)
    .filter((part) => part !== '')
    .join(' ');
