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

type Test = (responses: Responses) => boolean;

/** What one condition does where it holds. */
interface Rule {
  holds: Test;
  sets: readonly { name: string; change: (before: number) => number }[];
  /** Whether what follows it is looked at too. */
  goesOn: boolean;
}

interface Program {
  /** Values that variables begin with, in the order in which they are declared. */
  begin: ReadonlyMap<string, number>;
  blocks: readonly (readonly Rule[])[];
  main: string;
  limits: { least: number; most: number } | undefined;
}

/**
 * What the item gives for an answer, in its own scale; `null` where it says what is not interpreted. Its rules are read
 * once, for as many answers as are tried.
 */
export function scorerOf(item: XmlElement): (responses: Responses) => number | null {
  let program: Program | null = null;
  return (responses) => {
    try {
      program ??= programOf(item);
      return run(program, responses);
    } catch (error) {
      if (error instanceof Unknown) return null;
      throw error;
    }
  };
}

function programOf(item: XmlElement): Program {
  const begin = new Map<string, number>();
  const declared = new Map<string, { least: number; most: number }>();
  const blocks = elements(item, 'resprocessing').map((block) => {
    for (const decvar of elements(child(block, 'outcomes'), 'decvar')) {
      const name = decvar.attrs['varname'] ?? 'SCORE';
      // Of several blocks each goes on where the one before ended.
      if (!begin.has(name)) begin.set(name, Number(decvar.attrs['defaultval'] ?? 0) || 0);
      declared.set(name, {
        least: limit(decvar.attrs['minvalue'], Number.NEGATIVE_INFINITY),
        most: limit(decvar.attrs['maxvalue'], Number.POSITIVE_INFINITY),
      });
    }
    return elements(block, 'respcondition').flatMap((condition) => ruleOf(condition) ?? []);
  });
  const main = mainVariable(item);
  return { begin, blocks, main, limits: declared.get(main) };
}

function ruleOf(condition: XmlElement): Rule | null {
  const vars = child(condition, 'conditionvar');
  if (!vars) return null;
  const setvars = elements(condition, 'setvar').map((setvar) => ({
    name: setvar.attrs['varname'] ?? 'SCORE',
    action: (setvar.attrs['action'] ?? 'set').toLowerCase(),
    value: Number(textOf(setvar)),
  }));
  // Where nothing is said the first that holds is the last; but what adds points is meant to add to others.
  const adds = setvars.some(({ action }) => action === 'add' || action === 'subtract');
  return {
    holds: all(elements(vars)),
    sets: setvars.map(({ name, action, value }) => ({ name, change: changeOf(action, value) })),
    goesOn: (condition.attrs['continue'] ?? (adds ? 'yes' : 'no')).toLowerCase() === 'yes',
  };
}

function run({ begin, blocks, main, limits }: Program, responses: Responses): number {
  const variables = new Map(begin);
  for (const rules of blocks) {
    for (const { holds, sets, goesOn } of rules) {
      if (!holds(responses)) continue;
      for (const { name, change } of sets) variables.set(name, change(variables.get(name) ?? 0));
      if (!goesOn) break;
    }
  }
  const value = variables.get(main) ?? 0;
  return limits ? Math.min(limits.most, Math.max(limits.least, value)) : value;
}

function limit(text: string | undefined, otherwise: number): number {
  const value = Number(text?.trim() || Number.NaN);
  return Number.isFinite(value) ? value : otherwise;
}

function unknown(): never {
  throw new Unknown();
}

function changeOf(action: string, value: number): (before: number) => number {
  // What can't be done is told only once it would be.
  if (!Number.isFinite(value)) return unknown;
  switch (action) {
    case 'set':
      return () => value;
    case 'add':
      return (before) => before + value;
    case 'subtract':
      return (before) => before - value;
    case 'multiply':
      return (before) => before * value;
    case 'divide':
      return (before) => (value === 0 ? before : before / value);
    default:
      return unknown;
  }
}

function all(tests: readonly XmlElement[]): Test {
  const each = tests.map(testOf);
  return (responses) => each.every((holds) => holds(responses));
}

function testOf(test: XmlElement): Test {
  const inside = elements(test);
  switch (test.name) {
    case 'and':
      return all(inside);
    case 'or': {
      const each = inside.map(testOf);
      return (responses) => each.some((holds) => holds(responses));
    }
    case 'not': {
      const holds = all(inside);
      return (responses) => !holds(responses);
    }
    case 'other':
      return () => true;
  }
  const response = test.attrs['respident'] ?? '';
  const index = Number(test.attrs['index'] ?? Number.NaN);
  const isExact = test.attrs['case']?.toLowerCase() === 'yes';
  const fold = (text: string) => (isExact ? text.trim() : text.trim().toLowerCase());
  const given = (responses: Responses) => responses.get(response) ?? [];
  const values = (responses: Responses) =>
    Number.isFinite(index) ? given(responses).slice(index - 1, index) : given(responses);
  const key = textOf(test);
  const [own, number] = [fold(key), Number(key)];
  const compared = (by: (n: number) => boolean): Test => {
    return (responses) => values(responses).some((v) => by(v.trim() === '' ? Number.NaN : Number(v)));
  };
  switch (test.name) {
    case 'unanswered':
      return (responses) => given(responses).every((v) => v.trim() === '');
    case 'varequal': {
      const pair = key.includes(',') ? pairOf(key) : null;
      return (responses) => values(responses).some((v) => fold(v) === own || (pair !== null && pairOf(v) === pair));
    }
    case 'varsubstring':
      return (responses) => values(responses).some((v) => fold(v).includes(own));
    case 'varsubset': {
      const set = key.split(',').map(fold);
      const has = (value: string) => set.includes(fold(value));
      const isPartial = test.attrs['setmatch']?.toLowerCase() === 'partial';
      return (responses) => {
        const list = values(responses);
        return isPartial ? list.some(has) : list.length > 0 && list.every(has);
      };
    }
    case 'vargt':
      return compared((n) => n > number);
    case 'vargte':
      return compared((n) => n >= number);
    case 'varlt':
      return compared((n) => n < number);
    case 'varlte':
      return compared((n) => n <= number);
    default:
      return unknown;
  }
}

/** The two of a pair, whichever sign stands between them. */
const pairOf = (value: string) =>
  value
    .split(/[\s,]+/)
    .filter((part) => part !== '')
    .join(' ');
