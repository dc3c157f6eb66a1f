import { randomLcg } from 'd3-random';
import {
  descendants,
  elements,
  insideOf,
  peekAt,
  remade,
  takenAs,
  textOf,
  type XmlElement,
} from '../../markup/index.ts';
import { Unknown, valueOf, type Scope, type Value } from './expressions.ts';
import { attributeOf, id, kid, kids, nameOf, qtiVocabulary } from './names.ts';

/**
 * Items that are made anew for each try (Assessment, Section and Item Information Model, 5.4 and 6.3): their template is run
 * once, by a seed that is the item's own, and the item is as it would stand with the values that came of it.
 */

const RULES = qtiVocabulary(
  'templateDeclaration defaultValue value templateProcessing setTemplateValue setCorrectResponse templateCondition templateIf ' +
    'templateElseIf templateElse templateConstraint exitTemplate baseValue variable correct multiple ordered random ' +
    'randomInteger randomFloat sum subtract product divide power round truncate integerDivide integerModulus integerToFloat ' +
    'min max match equal equalRounded gt gte lt lte and or not isNull member contains index containerSize delete null ' +
    'printedVariable templateInline templateBlock',
  'identifier cardinality baseType mathVariable paramVariable min max step n toleranceMode tolerance figures roundingMode ' +
    'templateIdentifier showHide format',
);

/** How often values are made until they fit what a template asks of them (`templateConstraint`). */
const TRIES = 100;

class Exit extends Error {}
class Again extends Error {}

/** The item with values in the place of its template, itself where it has none; `null` where its template says what is not interpreted. */
export function instanceOf(item: XmlElement): XmlElement | null {
  const declarations = kids(item, 'templateDeclaration');
  if (declarations.length === 0) return item;
  const template = new Template(
    declarations,
    kid(item, 'responseProcessing'),
    seedOf(peekAt(item, 'identifier') ?? ''),
  );
  try {
    template.run(kid(item, 'templateProcessing'));
    const made = template.put(item);
    for (const e of [...declarations, ...kids(item, 'templateProcessing')]) takenAs(RULES, e);
    for (const e of descendants(item))
      if (/^(printedVariable|template(Inline|Block))$/.test(nameOf(e))) takenAs(RULES, bare(e));
    return made;
  } catch (error) {
    if (error instanceof Unknown) return null;
    throw error;
  }
}

/** The element itself, without what it holds. */
const bare = (element: XmlElement) => remade(element, []);

/** A number between 0 and 1 from a name: the same name makes the same values. */
function seedOf(name: string): number {
  let hash = 2166136261;
  for (const letter of name) hash = Math.imul(hash ^ (letter.codePointAt(0) ?? 0), 16777619);
  return (hash >>> 0) / 2 ** 32;
}

class Template implements Scope {
  readonly random: () => number;
  private readonly declarations: ReadonlyMap<string, XmlElement>;
  private values = new Map<string, Value | null>();
  private readonly keys = new Map<string, Value | null>();
  /** The rules of judging: values stand in them in the place of their names. */
  private readonly processing: XmlElement | undefined;

  constructor(declarations: readonly XmlElement[], processing: XmlElement | undefined, seed: number) {
    this.declarations = new Map(declarations.map((d) => [id(d), d]));
    this.processing = processing;
    this.random = randomLcg(seed);
  }

  run(processing: XmlElement | undefined): void {
    for (let tries = 1; ; tries++) {
      this.begin();
      try {
        this.rules(elements(processing));
        return;
      } catch (error) {
        if (error instanceof Exit) return;
        // What never fits stays as it is declared (6.3, `templateConstraint`).
        if (!(error instanceof Again)) throw error;
        if (tries === TRIES) return this.begin();
      }
    }
  }

  variable(name: string): Value | null {
    if (!this.values.has(name)) throw new Unknown();
    return this.values.get(name) ?? null;
  }

  correct(name: string): Value | null {
    const key = this.keys.get(name);
    if (key === undefined) throw new Unknown();
    return key;
  }

  mapped(): number {
    throw new Unknown();
  }

  mappedPoints(): number {
    throw new Unknown();
  }

  isOrdered(name: string): boolean {
    const declaration = this.declarations.get(name);
    return declaration !== undefined && attributeOf(declaration, 'cardinality') === 'ordered';
  }

  /** The item as it stands with these values. */
  put(item: XmlElement): XmlElement {
    const [whole] = this.putIn(item, false);
    if (whole === undefined || typeof whole === 'string') throw new Unknown();
    return whole;
  }

  private begin(): void {
    this.keys.clear();
    this.values = new Map(
      [...this.declarations].map(([name, declaration]) => {
        const list = kids(kid(declaration, 'defaultValue'), 'value').map((v) => textOf(v).trim());
        const type = attributeOf(declaration, 'baseType') ?? 'string';
        return [name, list.length === 0 ? null : { type, list }];
      }),
    );
  }

  private rules(rules: readonly XmlElement[]): void {
    for (const rule of rules) {
      const [first] = elements(rule);
      switch (nameOf(rule)) {
        case 'setTemplateValue':
          this.values.set(id(rule), this.typed(id(rule), valueOf(first, this)));
          break;
        case 'setCorrectResponse':
          this.keys.set(id(rule), valueOf(first, this));
          break;
        case 'templateCondition':
          this.branch(rule);
          break;
        case 'templateConstraint':
          if (valueOf(first, this)?.list[0] !== 'true') throw new Again();
          break;
        case 'exitTemplate':
          throw new Exit();
        default:
          throw new Unknown();
      }
    }
  }

  private branch(condition: XmlElement): void {
    for (const branch of elements(condition)) {
      const [test, ...rules] = elements(branch);
      if (nameOf(branch) === 'templateElse') return this.rules(elements(branch));
      if (test && valueOf(test, this)?.list[0] === 'true') return this.rules(rules);
    }
  }

  /** A value in the type that it is declared to be of. */
  private typed(name: string, value: Value | null): Value | null {
    const declaration = this.declarations.get(name);
    const type = declaration && attributeOf(declaration, 'baseType');
    return value && type !== undefined ? { type, list: value.list } : value;
  }

  private putIn(node: XmlElement | string, inRules: boolean): (XmlElement | string)[] {
    if (typeof node === 'string') return [node];
    const name = nameOf(node);
    if (name === 'templateDeclaration' || name === 'templateProcessing') return [];
    if (name === 'printedVariable') return [this.printed(node)];
    const isShown = this.isShown(node);
    if (!isShown) return [];
    const inside = () => insideOf(node).flatMap((child) => this.putIn(child, inRules || node === this.processing));
    if (name === 'templateInline' || name === 'templateBlock') return inside();
    if (name === 'mi' || name === 'ci') return [this.inMath(node)];
    if (name === 'responseDeclaration' && this.keys.has(id(node))) return [this.keyed(node)];
    if (inRules && name === 'variable' && this.values.has(id(node))) return [this.asValue(node, id(node))];
    return [this.withAttributes(remade(node, inside()), inRules)];
  }

  /** Whether something that hangs on a template value is there. */
  private isShown(element: XmlElement): boolean {
    const hangs = peekAt(element, 'templateIdentifier') ?? peekAt(element, 'template-identifier');
    if (hangs === undefined) return true;
    const isThere = this.values.get(hangs)?.list.includes(id(element)) === true;
    return (attributeOf(element, 'showHide') ?? 'show') === 'show' ? isThere : !isThere;
  }

  private printed(element: XmlElement): string {
    const value = this.values.get(id(element));
    if (value === undefined) throw new Unknown();
    const format = attributeOf(element, 'format');
    return (value?.list ?? []).map((one) => formatted(one, value?.type ?? '', format)).join('; ');
  }

  /** Names in mathematics that stand for values (5.4, `mathVariable`). */
  private inMath(element: XmlElement): XmlElement {
    const name = textOf(element).trim();
    const declaration = this.declarations.get(name);
    const value = this.values.get(name);
    if (!declaration || !value || attributeOf(declaration, 'mathVariable') !== 'true') return element;
    return { ...plain(element), name: element.name === 'mi' ? 'mn' : 'cn', children: [value.list.join('; ')] };
  }

  private keyed(declaration: XmlElement): XmlElement {
    const value = this.keys.get(id(declaration));
    const others = insideOf(declaration).filter((c) => typeof c === 'string' || nameOf(c) !== 'correctResponse');
    const values = (value?.list ?? []).map((one) => made(declaration, 'value', {}, [one]));
    return remade(declaration, [made(declaration, 'correctResponse', {}, values), ...others]);
  }

  private asValue(at: XmlElement, name: string): XmlElement {
    const value = this.values.get(name);
    const list = (value?.list ?? []).map((one) => made(at, 'baseValue', { baseType: value?.type ?? 'string' }, [one]));
    const [only] = list;
    if (!only) return made(at, 'null', {}, []);
    return list.length === 1 ? only : made(at, this.isOrdered(name) ? 'ordered' : 'multiple', {}, list);
  }

  /** Attributes of rules may be the name of a value (7, `floatOrVariableRef`). */
  private withAttributes(element: XmlElement, inRules: boolean): XmlElement {
    if (!inRules) return element;
    const tolerance = peekAt(element, 'tolerance');
    if (tolerance === undefined) return element;
    const words = tolerance
      .trim()
      .split(/\s+/)
      .map((word) => {
        const value = this.values.get(word.replace(/^\{(.*)\}$/, '$1'));
        return value?.list[0] ?? word;
      });
    return { ...plain(element), attrs: { ...element.attrs, tolerance: words.join(' ') } };
  }
}

/** An element of its own, at the place of another. */
function made(
  at: XmlElement,
  name: string,
  attrs: Record<string, string>,
  children: (XmlElement | string)[],
): XmlElement {
  return { ...plain(at), name, attrs, children };
}

function plain({ name, ns, attrs, children, line, start, openEnd, closeStart, end }: XmlElement): XmlElement {
  return { name, ns, attrs, children, line, start, openEnd, closeStart, end };
}

/** A value as `printedVariable` shows it: of C's formats those for numbers are known, and by themselves numbers are short. */
function formatted(value: string, type: string, format: string | undefined): string {
  const number = Number(value);
  if (type !== 'float' && type !== 'integer') return value;
  const [, precision, letter] = /^%[-+ 0#]*\d*(?:\.(\d+))?([difeEgG])$/.exec(format?.trim() ?? '') ?? [];
  if (letter === 'd' || letter === 'i') return String(Math.round(number));
  if (letter === 'f') return number.toFixed(Number(precision ?? 6));
  if (letter === 'e' || letter === 'E') return number.toExponential(Number(precision ?? 6));
  return String(Number(number.toPrecision(Number(precision ?? 10) || 1)));
}
