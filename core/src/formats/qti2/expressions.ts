import { RE2JS } from 're2js';
import { elements, textOf, type XmlElement } from '../../markup/index.ts';
import { attributeOf, id, nameOf } from './names.ts';

/** Expressions of QTI 2.1, 2.2 and 3.0 (Assessment, Section and Item Information Model, 7). */

/** A value of a single or a multiple cardinality; no value at all is `null`. */
export interface Value {
  type: string;
  list: readonly string[];
}

/** Says that an item asks for something that is not interpreted. */
export class Unknown extends Error {}

/** What expressions are about. */
export interface Scope {
  variable(name: string): Value | null;
  correct(name: string): Value | null;
  /** What the mapping of a response gives to what was answered. */
  mapped(name: string): number;
  /** As `mapped`, of points on a picture. */
  mappedPoints(name: string): number;
  /** Whether a response is declared to be in order. */
  isOrdered(name: string): boolean;
  /** From 0 to below 1; absent where nothing is left to chance. */
  random?(): number;
}

/** @throws Unknown where an expression is not interpreted */
export function valueOf(expression: XmlElement | undefined, scope: Scope): Value | null {
  return new Expressions(scope).value(expression);
}

class Expressions {
  private readonly scope: Scope;

  constructor(scope: Scope) {
    this.scope = scope;
  }

  private isTrue(test: XmlElement): boolean {
    return this.value(test)?.list[0] === 'true';
  }

  private numbers(list: readonly XmlElement[]): number[] | null {
    const values = list.flatMap((e) => this.value(e)?.list.map(Number) ?? [Number.NaN]);
    return values.every((n) => Number.isFinite(n)) ? values : null;
  }

  value(expression: XmlElement | undefined): Value | null {
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
        return this.scope.variable(id(expression));
      }
      case 'correct':
        return this.scope.correct(id(expression));
      case 'null':
        return null;
      case 'mapResponse':
        return float(this.scope.mapped(id(expression)));
      case 'mapResponsePoint':
        return float(this.scope.mappedPoints(id(expression)));
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
        return a && b
          ? truth(
              matches(
                a,
                b,
                [first, second].some((e) => this.isOrdered(e)),
              ),
            )
          : null;
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
      case 'randomInteger': {
        const [min, max, step] = this.bounds(expression, ['min', 'max', 'step'], [0, 0, 1]);
        const steps = Math.floor((max - min) / Math.max(1, step));
        return { type: 'integer', list: [String(min + Math.max(1, step) * Math.floor(this.random() * (steps + 1)))] };
      }
      case 'randomFloat': {
        const [min, max] = this.bounds(expression, ['min', 'max'], [0, 0]);
        return float(min + (max - min) * this.random());
      }
      case 'random': {
        const of = this.value(first);
        const one = of?.list[Math.floor(this.random() * of.list.length)];
        return of && one !== undefined ? { type: of.type, list: [one] } : null;
      }
      default:
        throw new Unknown();
    }
  }

  private random(): number {
    if (!this.scope.random) throw new Unknown();
    return this.scope.random();
  }

  /** Numbers that an expression is given as attributes, some of them as the name of a variable (Item Information Model, 7). */
  private bounds(
    expression: XmlElement,
    names: readonly string[],
    otherwise: readonly number[],
  ): [number, number, number] {
    const [a = 0, b = 0, c = 1] = names.map((name, i) => {
      const text = attributeOf(expression, name)?.trim();
      if (text === undefined || text === '') return otherwise[i];
      const number = Number(/^\{.*\}$/.test(text) ? this.scope.variable(text.slice(1, -1))?.list[0] : text);
      if (!Number.isFinite(number)) throw new Unknown();
      return number;
    });
    return [a, b, c];
  }

  /** Whether the order of values counts: of a response that is declared so, or a value that is made so. */
  private isOrdered(e: XmlElement | undefined): boolean {
    return e !== undefined && (nameOf(e) === 'ordered' || this.scope.isOrdered(id(e)));
  }
}

/** Whether two values of a base type are the same; of a pair the order is nobody's. */
export function same(type: string, one: string, other: string): boolean {
  if (one === other) return true;
  if (type === 'float' || type === 'integer') return one.trim() !== '' && Number(one) === Number(other);
  const parts = (value: string) => value.trim().split(/\s+/);
  if (type === 'directedPair') return parts(one).join(' ') === parts(other).join(' ');
  return type === 'pair' && parts(one).sort().join(' ') === parts(other).sort().join(' ');
}

export function matches(one: Value | null, other: Value | null, isOrdered = false): boolean {
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
