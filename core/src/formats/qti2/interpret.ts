import { RE2JS } from 're2js';
import { elements, textOf, type XmlElement } from '../../markup/index.ts';
import { attributeOf, id, kid, kids, nameOf } from './names.ts';

/**
 * Judges an answer as an item of QTI 2.1, 2.2 or 3.0 says (Assessment, Section and Item Information Model, 5 to 7): response
 * processing in the order in which it stands, or the template that it names.
 */

/** What was answered, by the identifier of the response. */
export type Responses = ReadonlyMap<string, readonly string[]>;

/** A value of a single or a multiple cardinality; no value at all is `null`. */
interface Value {
  type: string;
  list: readonly string[];
}

/** Says that an item asks for something that is not interpreted. */
class Unknown extends Error {}
/** Ends response processing (`exitResponse`). */
class Exit extends Error {}

/** What the item gives; `null` where it says what is not interpreted, or judges nothing. */
export function scoreOf(item: XmlElement, responses: Responses): number | null {
  const processing = kid(item, 'responseProcessing');
  if (!processing) return null;
  const interpreter = new Interpreter(item, responses);
  try {
    interpreter.process(processing);
  } catch (error) {
    if (error instanceof Unknown) return null;
    if (!(error instanceof Exit)) throw error;
  }
  return interpreter.score();
}

class Interpreter {
  private readonly declarations: ReadonlyMap<string, XmlElement>;
  private readonly outcomes = new Map<string, Value | null>();
  private readonly responses: Responses;

  constructor(item: XmlElement, responses: Responses) {
    this.responses = responses;
    this.declarations = new Map(kids(item, 'responseDeclaration').map((d) => [id(d), d]));
    for (const outcome of kids(item, 'outcomeDeclaration')) {
      const list = kids(kid(outcome, 'defaultValue'), 'value').map((v) => textOf(v).trim());
      const type = attributeOf(outcome, 'baseType') ?? 'float';
      // Numbers begin at nothing.
      const initial = list.length === 0 && /^(float|integer)$/.test(type) ? ['0'] : list;
      this.outcomes.set(id(outcome), initial.length === 0 ? null : { type, list: initial });
    }
  }

  score(): number {
    return numberIn(this.outcomes.get('SCORE') ?? null) ?? 0;
  }

  process(processing: XmlElement): void {
    const template = attributeOf(processing, 'template') ?? '';
    const rules = elements(processing);
    if (rules.length > 0) return this.run(rules);
    const float = (score: number): Value => ({ type: 'float', list: [String(score)] });
    if (/map_response_point/.test(template)) throw new Unknown();
    if (/map_response/.test(template)) this.outcomes.set('SCORE', float(this.mapped('RESPONSE')));
    else if (/match_correct/.test(template)) {
      this.outcomes.set('SCORE', float(matches(this.response('RESPONSE'), this.correct('RESPONSE')) ? 1 : 0));
    } else if (template !== '') throw new Unknown();
  }

  private run(rules: readonly XmlElement[]): void {
    for (const rule of rules) {
      switch (nameOf(rule)) {
        case 'responseCondition':
          this.branch(rule);
          break;
        case 'setOutcomeValue':
          this.outcomes.set(id(rule), this.value(elements(rule)[0]));
          break;
        case 'responseProcessingFragment':
          this.run(elements(rule));
          break;
        case 'exitResponse':
          throw new Exit();
        default:
          throw new Unknown();
      }
    }
  }

  private branch(condition: XmlElement): void {
    for (const branch of elements(condition)) {
      const [test, ...rules] = elements(branch);
      if (nameOf(branch) === 'responseElse') return this.run(elements(branch));
      if (test && this.isTrue(test)) return this.run(rules);
    }
  }

  private isTrue(test: XmlElement): boolean {
    return this.value(test)?.list[0] === 'true';
  }

  private response(name: string): Value | null {
    const type = attributeOfOr(this.declarations.get(name), 'baseType', 'string');
    const list = (this.responses.get(name) ?? []).filter((v) => v !== '');
    return list.length === 0 ? null : { type, list };
  }

  private correct(name: string): Value | null {
    const declaration = this.declarations.get(name);
    const list = kids(kid(declaration, 'correctResponse'), 'value').map((v) => textOf(v).trim());
    return list.length === 0 ? null : { type: attributeOfOr(declaration, 'baseType', 'string'), list };
  }

  /** `mapResponse`: each value once, what is not named by the default, within the bounds. */
  private mapped(name: string): number {
    const declaration = this.declarations.get(name);
    const mapping = kid(declaration, 'mapping');
    if (!declaration || !mapping) return 0;
    const type = attributeOfOr(declaration, 'baseType', 'string');
    const number = (attribute: string, otherwise: number) => {
      const value = Number(attributeOf(mapping, attribute)?.trim() || Number.NaN);
      return Number.isFinite(value) ? value : otherwise;
    };
    const entries = kids(mapping, 'mapEntry').map((e) => ({
      key: attributeOf(e, 'mapKey') ?? '',
      value: Number(attributeOf(e, 'mappedValue') ?? 0),
      isExact: attributeOf(e, 'caseSensitive') === 'true',
    }));
    const given = [...new Set(this.response(name)?.list ?? [])];
    const others = number('defaultValue', 0);
    const single = attributeOfOr(declaration, 'cardinality', 'single') === 'single';
    const scoreOfOne = (value: string) =>
      entries.find(
        ({ key, isExact }) =>
          same(type, key, value) || (type === 'string' && !isExact && key.toLowerCase() === value.toLowerCase()),
      )?.value ?? others;
    const sum = given.length === 0 && single ? others : given.reduce((all, value) => all + scoreOfOne(value), 0);
    return Math.min(
      number('upperBound', Number.POSITIVE_INFINITY),
      Math.max(number('lowerBound', Number.NEGATIVE_INFINITY), sum),
    );
  }

  private numbers(list: readonly XmlElement[]): number[] | null {
    const values = list.flatMap((e) => this.value(e)?.list.map(Number) ?? [Number.NaN]);
    return values.every((n) => Number.isFinite(n)) ? values : null;
  }

  private value(expression: XmlElement | undefined): Value | null {
    if (!expression) return null;
    const inner = elements(expression);
    const [first, second] = inner;
    const name = nameOf(expression);
    const truth = (is: boolean): Value => ({ type: 'boolean', list: [String(is)] });
    const float = (n: number | undefined): Value | null =>
      n === undefined || !Number.isFinite(n) ? null : { type: 'float', list: [String(n)] };
    const two = () => [this.value(first), this.value(second)] as const;
    const compared = (by: (a: number, b: number) => boolean): Value | null => {
      const numbers = this.numbers(inner);
      const [a = 0, b = 0] = numbers ?? [];
      return numbers ? truth(by(a, b)) : null;
    };
    const folded = (by: (numbers: number[]) => number | undefined): Value | null => {
      const numbers = this.numbers(inner);
      return numbers ? float(by(numbers)) : null;
    };
    switch (name) {
      case 'baseValue':
        return { type: attributeOf(expression, 'baseType') ?? 'string', list: [textOf(expression).trim()] };
      case 'variable': {
        const of = id(expression);
        return this.declarations.has(of) ? this.response(of) : (this.outcomes.get(of) ?? null);
      }
      case 'correct':
        return this.correct(id(expression));
      case 'null':
        return null;
      case 'mapResponse':
        return float(this.mapped(id(expression)));
      case 'multiple':
      case 'ordered': {
        const values = inner.flatMap((e) => this.value(e) ?? []);
        return values.length === 0
          ? null
          : { type: values[0]?.type ?? 'string', list: values.flatMap((v) => [...v.list]) };
      }
      case 'containerSize':
        return { type: 'integer', list: [String(this.value(first)?.list.length ?? 0)] };
      case 'isNull':
        return truth(this.value(first) === null);
      case 'index': {
        const at = Number(attributeOf(expression, 'n'));
        const of = this.value(first);
        const one = of?.list[at - 1];
        return of && one !== undefined ? { type: of.type, list: [one] } : null;
      }
      case 'not':
        return truth(!(first && this.isTrue(first)));
      case 'and':
        return truth(inner.every((e) => this.isTrue(e)));
      case 'or':
        return truth(inner.some((e) => this.isTrue(e)));
      case 'anyN': {
        const many = inner.filter((e) => this.isTrue(e)).length;
        return truth(many >= Number(attributeOf(expression, 'min')) && many <= Number(attributeOf(expression, 'max')));
      }
      case 'match': {
        const [a, b] = two();
        return a && b ? truth(matches(a, b, this.isOrdered(first, second))) : null;
      }
      case 'member': {
        const [a, b] = two();
        return a && b ? truth(b.list.some((one) => same(b.type, one, a.list[0] ?? ''))) : null;
      }
      case 'contains': {
        const [a, b] = two();
        return a && b ? truth(b.list.every((one) => a.list.some((x) => same(a.type, x, one)))) : null;
      }
      case 'delete': {
        const [a, b] = two();
        const list = b?.list.filter((one) => !same(b.type, one, a?.list[0] ?? '')) ?? [];
        return b && list.length > 0 ? { type: b.type, list } : null;
      }
      case 'stringMatch':
      case 'substring': {
        const [a, b] = two();
        if (!a || !b) return null;
        const isExact = attributeOf(expression, 'caseSensitive') !== 'false';
        const fold = (v: Value) => (isExact ? (v.list[0] ?? '') : (v.list[0] ?? '').toLowerCase());
        if (name === 'substring') return truth(fold(b).includes(fold(a)));
        return truth(attributeOf(expression, 'substring') === 'true' ? fold(a).includes(fold(b)) : fold(a) === fold(b));
      }
      case 'patternMatch': {
        const [text] = this.value(first)?.list ?? [];
        return text === undefined ? null : truth(fits(attributeOf(expression, 'pattern') ?? '', text));
      }
      case 'equal':
        return compared((a, b) => isEqual(expression, a, b));
      case 'equalRounded': {
        const figures = Number(attributeOf(expression, 'figures'));
        if (!Number.isFinite(figures)) throw new Unknown();
        const isDecimal = attributeOf(expression, 'roundingMode') === 'decimalPlaces';
        const rounded = (n: number) => (isDecimal ? n.toFixed(figures) : n.toPrecision(figures));
        return compared((a, b) => rounded(a) === rounded(b));
      }
      case 'lt':
        return compared((a, b) => a < b);
      case 'gt':
        return compared((a, b) => a > b);
      case 'lte':
        return compared((a, b) => a <= b);
      case 'gte':
        return compared((a, b) => a >= b);
      case 'sum':
        return folded((numbers) => numbers.reduce((a, b) => a + b, 0));
      case 'product':
        return folded((numbers) => numbers.reduce((a, b) => a * b, 1));
      case 'min':
        return folded((numbers) => Math.min(...numbers));
      case 'max':
        return folded((numbers) => Math.max(...numbers));
      case 'subtract':
        return folded(([a = 0, b = 0]) => a - b);
      case 'divide':
        return folded(([a = 0, b = 0]) => (b === 0 ? undefined : a / b));
      case 'power':
        return folded(([a = 0, b = 0]) => a ** b);
      case 'round':
        return folded(([a = 0]) => Math.floor(a + 0.5));
      case 'truncate':
        return folded(([a = 0]) => Math.trunc(a));
      case 'integerDivide':
        return folded(([a = 0, b = 0]) => (b === 0 ? undefined : Math.floor(a / b)));
      case 'integerModulus':
        return folded(([a = 0, b = 0]) => (b === 0 ? undefined : a - b * Math.floor(a / b)));
      case 'integerToFloat':
        return this.value(first);
      default:
        throw new Unknown();
    }
  }

  /** Whether the order of values counts: of a response that is declared so, or a value that is made so. */
  private isOrdered(...list: readonly (XmlElement | undefined)[]): boolean {
    return list.some((e) => {
      if (!e) return false;
      if (nameOf(e) === 'ordered') return true;
      return attributeOfOr(this.declarations.get(id(e)), 'cardinality', '') === 'ordered';
    });
  }
}

function attributeOfOr(element: XmlElement | undefined, name: string, otherwise: string): string {
  return (element && attributeOf(element, name)) ?? otherwise;
}

function numberIn(value: Value | null): number | null {
  const number = Number(value?.list[0] ?? Number.NaN);
  return Number.isFinite(number) ? number : null;
}

/** Whether two values of a base type are the same; of a pair the order is nobody's. */
function same(type: string, one: string, other: string): boolean {
  if (one === other) return true;
  if (type === 'float' || type === 'integer') return one.trim() !== '' && Number(one) === Number(other);
  const parts = (value: string) => value.trim().split(/\s+/);
  if (type === 'directedPair') return parts(one).join(' ') === parts(other).join(' ');
  return type === 'pair' && parts(one).sort().join(' ') === parts(other).sort().join(' ');
}

function matches(one: Value | null, other: Value | null, isOrdered = false): boolean {
  if (!one || !other || one.list.length !== other.list.length) return false;
  if (isOrdered) return one.list.every((value, i) => same(one.type, value, other.list[i] ?? ''));
  const left = [...other.list];
  return one.list.every((value) => {
    const at = left.findIndex((candidate) => same(one.type, candidate, value));
    if (at >= 0) left.splice(at, 1);
    return at >= 0;
  });
}

function isEqual(test: XmlElement, a: number, b: number): boolean {
  const mode = attributeOf(test, 'toleranceMode') ?? 'exact';
  if (mode === 'exact') return a === b;
  const [low = 0, high = low] = (attributeOf(test, 'tolerance') ?? '0').trim().split(/\s+/).map(Number);
  if (!Number.isFinite(low) || !Number.isFinite(high)) throw new Unknown();
  const width = (by: number) => (mode === 'absolute' ? by : (Math.abs(a) * by) / 100);
  // The first is the value around which the second may lie.
  const isClosed = (name: string) => attributeOf(test, name) !== 'false';
  const [least, most] = [a - width(low), a + width(high)];
  const isAbove = isClosed('includeLowerBound') ? b >= least - 1e-12 : b > least + 1e-12;
  return isAbove && (isClosed('includeUpperBound') ? b <= most + 1e-12 : b < most - 1e-12);
}

/** A pattern of XML Schema fits a whole text; it is tried by an engine of linear time. */
function fits(pattern: string, text: string): boolean {
  try {
    return RE2JS.compile(pattern).matches(text);
  } catch {
    throw new Unknown();
  }
}
