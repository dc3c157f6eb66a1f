import {
  CountedElement,
  NO_ATTRIBUTES,
  TAKEN,
  TEXT,
  descendants,
  innerOf,
  take,
  wordsIn,
  type XmlElement,
} from './xml-tree.ts';

/** What a reader takes of a tree beside what it asks for by name, and what was taken of nothing. */

/** Whether an element is one of those: it is then taken, as one that was asked for by its name. */
export function is(element: XmlElement, ...names: string[]): boolean {
  if (!names.includes(element.name)) return false;
  take(element);
  return true;
}

/** Every element below that bears one of the names. */
export function named(element: XmlElement, ...names: string[]): XmlElement[] {
  return descendants(element).filter((e) => is(e, ...names));
}

/**
 * Marks what is in an element that is read as a whole, and not name by name: as far as it is of a vocabulary, in which
 * attributes begin with `@`. What is not in it is told as everywhere.
 */
export function takenAs(vocabulary: ReadonlySet<string>, element: XmlElement | undefined): void {
  for (const one of element ? [element, ...descendants(element)] : []) {
    if (!(one instanceof CountedElement) || !vocabulary.has(one.name)) continue;
    one.take(TAKEN | TEXT);
    for (const name of Object.keys(one.given)) if (vocabulary.has(`@${name}`)) one.takeAttr(name);
  }
}

/** A vocabulary of elements and attributes. */
export function vocabularyOf(elements: string, attributes = ''): ReadonlySet<string> {
  const words = (list: string) => list.split(' ').filter((word) => word !== '');
  return new Set([...words(elements), ...words(attributes).map((name) => `@${name}`)]);
}

const folded = (text: string) => text.replace(/\s+/g, ' ').trim();

/** The text of an element, which counts as read only where it is the one that is known already. */
export function saysAgain(element: XmlElement | undefined, ...known: string[]): boolean {
  if (!element) return false;
  const isSame = known.map(folded).includes(folded(wordsIn(element)));
  if (isSame) for (const one of [element, ...descendants(element)]) take(one, TAKEN | TEXT);
  return isSame;
}

/** As `saysAgain`, of an attribute. */
export function saysAgainIn(element: XmlElement, attribute: string, known: string): boolean {
  if (!(element instanceof CountedElement) || folded(element.given[attribute] ?? '') !== folded(known)) return false;
  element.takeAttr(attribute);
  return true;
}

/** An attribute that is looked at to see whether the element is wanted at all; it is not taken by that. */
export function peekAt(element: XmlElement, attribute: string): string | undefined {
  return element instanceof CountedElement ? element.given[attribute] : element.attrs[attribute];
}

/** Every element of a tree, in no order that counts, with the names of its attributes; nothing is taken by it. */
export function* lookThrough(root: XmlElement): Generator<{ element: XmlElement; attributes: readonly string[] }> {
  for (const element of [root, ...descendants(root)]) {
    yield { element, attributes: Object.keys(element instanceof CountedElement ? element.given : element.attrs) };
  }
}

/** Marks an element that was asked for by another spelling of its name. */
export function taken(element: XmlElement): XmlElement {
  return take(element);
}

/** What an element holds as it stands there, of which nothing counts as read by that. */
export function insideOf(element: XmlElement): readonly (XmlElement | string)[] {
  return innerOf(element);
}

/** The same element with other children, not read by that; what is taken of it later is counted with the first. */
export function remade(element: XmlElement, children: readonly (XmlElement | string)[]): XmlElement {
  return element instanceof CountedElement ? element.with(children) : { ...element, children };
}

/** The same element with other children; what is taken of it is counted with the first. */
export function withChildren(element: XmlElement, children: readonly (XmlElement | string)[]): XmlElement {
  return remade(take(element), children);
}

/** Something of a file that no reader took. `name` is `element`, `element@attribute` or `element/text`. */
export interface Untaken {
  name: string;
  /** Of an attribute or a text. */
  value: string;
  line: number;
}

/**
 * What was taken of nothing below an element, itself included, in the order of the file. An element that was not taken is
 * told once, for all that is in it.
 */
export function* untakenIn(root: XmlElement): Generator<Untaken> {
  const stack = [root];
  for (let element = stack.pop(); element; element = stack.pop()) {
    if (!(element instanceof CountedElement)) continue;
    const { name, line, given, taken, inner } = element;
    if (taken === 0) {
      yield { name, value: '', line };
      continue;
    }
    if (given !== NO_ATTRIBUTES) {
      for (const [i, [attribute, value]] of Object.entries(given).entries()) {
        if (!element.hasTaken(i)) yield { name: `${name}@${attribute}`, value, line };
      }
    }
    if ((taken & TEXT) === 0) {
      const text = inner
        .filter((node) => typeof node === 'string')
        .join(' ')
        .trim();
      if (text !== '') yield { name: `${name}/text`, value: text, line };
    }
    for (let i = inner.length - 1; i >= 0; i--) {
      const node = inner[i];
      if (node !== undefined && typeof node !== 'string') stack.push(node);
    }
  }
}
