import { elements, textOf, type XmlElement } from '../../markup/index.ts';
import { Unknown, matches, same, valueOf, type Scope, type Value } from './expressions.ts';
import { isInside } from '../../model/index.ts';
import { attributeOf, id, kid, kids, nameOf } from './names.ts';
import { numbersIn, shapeOf } from './places.ts';

/**
 * Judges an answer as an item of QTI 2.1, 2.2 or 3.0 says (Assessment, Section and Item Information Model, 5 to 7): response
 * processing in the order in which it stands, or the template that it names.
 */

/** What was answered, by the identifier of the response. */
export type Responses = ReadonlyMap<string, readonly string[]>;

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

class Interpreter implements Scope {
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
    if (/map_response_point/.test(template)) this.outcomes.set('SCORE', float(this.mappedPoints('RESPONSE')));
    else if (/map_response/.test(template)) this.outcomes.set('SCORE', float(this.mapped('RESPONSE')));
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
          this.outcomes.set(id(rule), valueOf(elements(rule)[0], this));
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
    return valueOf(test, this)?.list[0] === 'true';
  }

  private response(name: string): Value | null {
    const type = attributeOfOr(this.declarations.get(name), 'baseType', 'string');
    const list = (this.responses.get(name) ?? []).filter((v) => v !== '');
    return list.length === 0 ? null : { type, list };
  }

  correct(name: string): Value | null {
    const declaration = this.declarations.get(name);
    const list = kids(kid(declaration, 'correctResponse'), 'value').map((v) => textOf(v).trim());
    return list.length === 0 ? null : { type: attributeOfOr(declaration, 'baseType', 'string'), list };
  }

  /** `mapResponsePoint`: each place once, what is in none by the default, within the bounds. */
  mappedPoints(name: string): number {
    const mapping = kid(this.declarations.get(name), 'areaMapping');
    if (!mapping) return 0;
    const left = kids(mapping, 'areaMapEntry').map((entry) => ({
      shape: shapeOf(attributeOf(entry, 'shape')),
      coords: numbersIn(attributeOf(entry, 'coords') ?? ''),
      value: Number(attributeOf(entry, 'mappedValue') ?? 0),
    }));
    const scores = (this.response(name)?.list ?? []).map((point) => {
      const [x = Number.NaN, y = Number.NaN] = numbersIn(point);
      const at = left.findIndex((area) => isInside(area, x, y));
      return at < 0 ? numberOf(mapping, 'defaultValue', 0) : (left.splice(at, 1)[0]?.value ?? 0);
    });
    return withinBounds(mapping, scores);
  }

  /** `mapResponse`: each value once, what is not named by the default, within the bounds. */
  mapped(name: string): number {
    const declaration = this.declarations.get(name);
    const mapping = kid(declaration, 'mapping');
    if (!declaration || !mapping) return 0;
    const type = attributeOfOr(declaration, 'baseType', 'string');
    const entries = kids(mapping, 'mapEntry').map((e) => ({
      key: attributeOf(e, 'mapKey') ?? '',
      value: Number(attributeOf(e, 'mappedValue') ?? 0),
      isExact: attributeOf(e, 'caseSensitive') === 'true',
    }));
    const given = [...new Set(this.response(name)?.list ?? [])];
    const others = numberOf(mapping, 'defaultValue', 0);
    const single = attributeOfOr(declaration, 'cardinality', 'single') === 'single';
    const scoreOfOne = (value: string) =>
      entries.find(
        ({ key, isExact }) =>
          same(type, key, value) || (type === 'string' && !isExact && key.toLowerCase() === value.toLowerCase()),
      )?.value ?? others;
    return withinBounds(mapping, given.length === 0 && single ? [others] : given.map(scoreOfOne));
  }

  variable(name: string): Value | null {
    return this.declarations.has(name) ? this.response(name) : (this.outcomes.get(name) ?? null);
  }

  isOrdered(name: string): boolean {
    return attributeOfOr(this.declarations.get(name), 'cardinality', '') === 'ordered';
  }
}

function numberOf(mapping: XmlElement, attribute: string, otherwise: number): number {
  const value = Number(attributeOf(mapping, attribute)?.trim() || Number.NaN);
  return Number.isFinite(value) ? value : otherwise;
}

/** What scores come to, within the bounds of a mapping. */
function withinBounds(mapping: XmlElement, scores: readonly number[]): number {
  const sum = scores.reduce((all, one) => all + one, 0);
  const least = Math.max(numberOf(mapping, 'lowerBound', Number.NEGATIVE_INFINITY), sum);
  return Math.min(numberOf(mapping, 'upperBound', Number.POSITIVE_INFINITY), least);
}

function attributeOfOr(element: XmlElement | undefined, name: string, otherwise: string): string {
  return (element && attributeOf(element, name)) ?? otherwise;
}

function numberIn(value: Value | null): number | null {
  const number = Number(value?.list[0] ?? Number.NaN);
  return Number.isFinite(number) ? number : null;
}
