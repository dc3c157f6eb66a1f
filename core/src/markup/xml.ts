import { SaxesParser, type SaxesTagNS } from 'saxes';
import { DEFAULT_LIMITS } from '../container/limits.ts';
import { Refusal, problem } from '../model/index.ts';

/** An element with its place in the source text, so that a text can be changed by splicing and is otherwise kept. */
export interface XmlElement {
  /** Local name. */
  name: string;
  ns: string;
  /** By local name; of attributes that share one, the others by their whole names. */
  attrs: Readonly<Record<string, string>>;
  children: readonly (XmlElement | string)[];
  line: number;
  /** Offsets into the text: of `<`, after the open tag, before the close tag, after the close tag. */
  start: number;
  openEnd: number;
  closeStart: number;
  end: number;
}

const NO_ATTRIBUTES: Readonly<Record<string, string>> = {};
const NO_CHILDREN: (XmlElement | string)[] = [];

/** Attributes that say how a file is to be checked, and nothing of what is in it (XML Schema 1.0, 2.6). */
const SCHEMA_INSTANCE = 'http://www.w3.org/2001/XMLSchema-instance';

/** Bits of what a reader took of an element. */
const [TAKEN, TEXT] = [1, 2];

/**
 * An element that counts what is taken of it, so that nothing of a file can be passed over in silence: it is taken when
 * it is asked for by its name, or one of its attributes, its text or its children are; an attribute when its value is.
 * Half of all have no attribute or no child, and half of the rest one.
 */
class CountedElement implements XmlElement {
  name: string;
  ns: string;
  line: number;
  start: number;
  openEnd: number;
  closeStart: number;
  end: number;
  /** What it holds, without that being counted. */
  inner: (XmlElement | string)[] = NO_CHILDREN;
  /** The element whose counts these are: itself, or the one that this was made of. */
  private counted: CountedElement = this;
  taken = 0;
  /** Which attributes were taken, by their place; of more than thirty the last share one. */
  takenAttrs = 0;
  readonly given: Readonly<Record<string, string>>;

  constructor(name: string, ns: string, given: Readonly<Record<string, string>>, line: number, at: [number, number]) {
    this.name = name;
    this.ns = ns;
    this.given = given;
    this.line = line;
    [this.start, this.openEnd] = at;
    this.closeStart = this.openEnd;
    this.end = this.openEnd;
  }

  get attrs(): Readonly<Record<string, string>> {
    this.take(TAKEN);
    return this.given === NO_ATTRIBUTES ? NO_ATTRIBUTES : (new Proxy(this, COUNTED) as unknown as typeof NO_ATTRIBUTES);
  }

  get children(): readonly (XmlElement | string)[] {
    this.take(TAKEN | TEXT);
    return this.inner;
  }

  take(bits: number): void {
    this.counted.taken |= bits;
  }

  takeAttr(name: string): void {
    this.counted.takenAttrs |= bitOf(Object.keys(this.given).indexOf(name));
  }

  /** The same element with other children; what is taken of it is counted here. */
  with(children: readonly (XmlElement | string)[]): XmlElement {
    const other = new CountedElement(this.name, this.ns, this.given, this.line, [this.start, this.openEnd]);
    [other.closeStart, other.end, other.inner, other.counted] = [
      this.closeStart,
      this.end,
      [...children],
      this.counted,
    ];
    return other;
  }

  /** An array begun with its first member takes a tenth of the room of one that is pushed to. */
  add(node: XmlElement | string): void {
    if (this.inner === NO_CHILDREN) this.inner = [node];
    else this.inner.push(node);
  }
}

const bitOf = (at: number) => 1 << Math.min(at, 30);

/** The attributes of an element, seen through which it counts those that are asked for. */
const COUNTED: ProxyHandler<CountedElement> = {
  get(element, name) {
    if (typeof name !== 'string' || !Object.hasOwn(element.given, name)) return undefined;
    element.takeAttr(name);
    return element.given[name];
  },
  has: (element, name) => Object.hasOwn(element.given, name),
  ownKeys: (element) => Object.keys(element.given),
  getOwnPropertyDescriptor: (element, name) => {
    if (typeof name !== 'string' || !Object.hasOwn(element.given, name)) return undefined;
    element.takeAttr(name);
    return { value: element.given[name], enumerable: true, configurable: true };
  },
};

/** What an element holds, without that being counted as read. */
function innerOf(element: XmlElement): readonly (XmlElement | string)[] {
  return element instanceof CountedElement ? element.inner : element.children;
}

/** Marks an element that was asked for by its name, or is read as a whole. */
function take<E extends XmlElement | undefined>(element: E, bits = TAKEN): E {
  if (element instanceof CountedElement) element.take(bits);
  return element;
}

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

/** The same element with other children; what is taken of it is counted with the first. */
export function withChildren(element: XmlElement, children: readonly (XmlElement | string)[]): XmlElement {
  take(element);
  return element instanceof CountedElement ? element.with(children) : { ...element, children };
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
    const { name, line, given, taken, takenAttrs, inner } = element;
    if (taken === 0) {
      yield { name, value: '', line };
      continue;
    }
    if (given !== NO_ATTRIBUTES) {
      for (const [i, [attribute, value]] of Object.entries(given).entries()) {
        if ((takenAttrs & bitOf(i)) === 0) yield { name: `${name}@${attribute}`, value, line };
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

/** A long text given at once has the parser's loop compiled before its end was seen, and then anew for every text. */
const PIECE = 4096;

/**
 * Parses XML into a small tree. No DTD is obeyed and no entity but the five of XML itself is known.
 * @throws Refusal `xml-entities` where entities are declared, `xml-depth`, `xml-malformed` with the line
 */
export function parseXml(text: string, file: string, depthLimit = DEFAULT_LIMITS.xmlDepth): XmlElement {
  const parser = new SaxesParser({ xmlns: true, position: true, fileName: file });
  let root: XmlElement | null = null;
  const stack: CountedElement[] = [];
  parser.on('doctype', (doctype) => {
    if (/<!ENTITY/i.test(doctype)) {
      throw new Refusal(
        problem('xml-entities', `${file} declares entities of its own, which can make a small file grow without end.`, {
          file,
          line: parser.line,
        }),
      );
    }
  });
  parser.on('error', (error) => {
    throw new Refusal(
      problem(
        'xml-malformed',
        `${file} is not well-formed XML at line ${parser.line}: ${error.message.replace(/^[^ ]*:\d+:\d+: /, '')}`,
        { file, line: parser.line },
      ),
      { cause: error },
    );
  });
  parser.on('opentag', (tag: SaxesTagNS) => {
    if (stack.length >= depthLimit) {
      throw new Refusal(
        problem('xml-depth', `${file} nests deeper than ${depthLimit} elements.`, {
          file,
          line: parser.line,
        }),
      );
    }
    let attrs: Record<string, string> | null = null;
    for (const name in tag.attributes) {
      const attribute = tag.attributes[name];
      // A declared prefix is no attribute, and must not stand in for one of its name.
      if (!attribute || attribute.prefix === 'xmlns' || attribute.name === 'xmlns') continue;
      if (attribute.uri === SCHEMA_INSTANCE) continue;
      attrs ??= {};
      attrs[Object.hasOwn(attrs, attribute.local) ? name : attribute.local] = attribute.value;
    }
    const openEnd = parser.position;
    // A raw `<` can't stand inside a tag, so the nearest one before its end opens it.
    const start = text.lastIndexOf('<', openEnd - 1);
    const element = new CountedElement(tag.local, tag.uri, attrs ?? NO_ATTRIBUTES, parser.line, [start, openEnd]);
    const parent = stack.at(-1);
    if (parent) parent.add(element);
    else root = element;
    stack.push(element);
  });
  const addText = (part: string) => {
    const parent = stack.at(-1);
    if (!parent) return;
    const last = parent.inner.length - 1;
    const before = parent.inner[last];
    if (typeof before === 'string') parent.inner[last] = before + part;
    else parent.add(part);
  };
  parser.on('text', addText);
  parser.on('cdata', addText);
  parser.on('closetag', (tag) => {
    const element = stack.pop();
    if (!element) return;
    element.end = parser.position;
    element.closeStart = tag.isSelfClosing ? element.openEnd : text.lastIndexOf('<', element.end - 1);
  });
  for (let at = 0; at < text.length; at += PIECE) parser.write(text.slice(at, at + PIECE));
  parser.close();
  if (!root) {
    throw new Refusal(problem('xml-malformed', `${file} is empty.`, { file, line: 1 }, 'Export the course again.'));
  }
  return root;
}

export function elements(parent: XmlElement | undefined, name?: string): XmlElement[] {
  if (!parent) return [];
  const found: XmlElement[] = [];
  for (const node of innerOf(parent)) {
    if (typeof node === 'string') continue;
    if (name === undefined) found.push(node);
    else if (node.name === name) found.push(take(node));
  }
  return found;
}

/** The first child element of that name, or at the end of a path of names. */
export function child(parent: XmlElement | undefined, ...path: string[]): XmlElement | undefined {
  let at = parent;
  for (const name of path) at = at && firstNamed(at, name);
  return at;
}

function firstNamed(parent: XmlElement, name: string): XmlElement | undefined {
  for (const node of innerOf(parent)) if (typeof node !== 'string' && node.name === name) return take(node);
  return undefined;
}

/** All text below an element. Elements that stand in it are words too, but are not taken by that. */
export function textOf(element: XmlElement | undefined): string {
  return element ? wordsIn(take(element, TAKEN | TEXT)) : '';
}

function wordsIn(element: XmlElement): string {
  return innerOf(element)
    .map((node) => (typeof node === 'string' ? node : wordsIn(node)))
    .join('');
}

/** Every element below, in document order; to look at one is not to take it. Without recursion: a hostile file may nest deep. */
export function descendants(element: XmlElement): XmlElement[] {
  const found: XmlElement[] = [];
  const stack: XmlElement[] = [];
  const push = (parent: XmlElement) => {
    const inner = innerOf(parent);
    for (let i = inner.length - 1; i >= 0; i--) {
      const node = inner[i];
      if (node !== undefined && typeof node !== 'string') stack.push(node);
    }
  };
  push(element);
  for (let next = stack.pop(); next; next = stack.pop()) {
    found.push(next);
    push(next);
  }
  return found;
}

const ESCAPES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

// Characters that XML 1.0 can't hold at all (2.2 Char) are dropped; tab, newline and return stay.
// eslint-disable-next-line no-control-regex
const IMPOSSIBLE = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g;

/** Plain letters, of which names, numbers and most texts are made. */
const PLAIN = /^[\x20!#$%(-;=?-~]*$/;

export function escapeXml(text: string): string {
  if (PLAIN.test(text)) return text;
  return text
    .toWellFormed()
    .replace(IMPOSSIBLE, '')
    .replace(/[&<>"']/g, (c) => ESCAPES[c] ?? c)
    .replace(/\r/g, '&#13;');
}

/** What would be folded into a space in a value is written by its number (XML 1.0, 3.3.3). */
function escapeValue(value: string): string {
  if (PLAIN.test(value)) return value;
  return escapeXml(value).replace(/\n/g, '&#10;').replace(/\t/g, '&#9;');
}

/** One element as text: attributes without a value are left out, children are already text. */
export function xml(name: string, attrs: Record<string, string | number | undefined>, ...children: string[]): string {
  let open = '';
  for (const key in attrs) {
    const value = attrs[key];
    if (value === undefined) continue;
    open += ` ${key}="${typeof value === 'number' ? value : escapeValue(value)}"`;
  }
  return children.length === 0 ? `<${name}${open}/>` : `<${name}${open}>${children.join('')}</${name}>`;
}

/** Comments, marked sections and instructions, in which nothing is a tag (XML 1.0, 2.5 to 2.7). */
const SILENT = /<!--[^]*?-->|<!\[CDATA\[[^]*?\]\]>|<\?[^]*?\?>/g;
/** An open tag, which may hold a `>` in a value. */
const OPEN_TAG = /<[^!?/\s](?:[^"'>]|"[^"]*"|'[^']*')*>/y;

/**
 * The open tags that hold what is looked for (a global expression), in order, of a text that is known to be well-formed:
 * a small part of the work of parsing it.
 */
export function* openTagsWith(text: string, wanted: RegExp): Generator<{ start: number; tag: string }> {
  const silent = text.matchAll(SILENT);
  let quiet = silent.next().value;
  let start = -1;
  let end = 0;
  for (const { index } of text.matchAll(wanted)) {
    if (index < end) continue;
    for (; quiet && quiet.index + quiet[0].length <= index; quiet = silent.next().value) {
      end = Math.max(end, quiet.index + quiet[0].length);
    }
    if (quiet && quiet.index <= index) continue;
    for (let next = text.indexOf('<', start + 1); next >= 0 && next <= index; next = text.indexOf('<', next + 1)) {
      start = next;
    }
    if (start < end) continue;
    OPEN_TAG.lastIndex = start;
    const tag = OPEN_TAG.exec(text)?.[0];
    if (tag === undefined || start + tag.length <= index) continue;
    end = start + tag.length;
    yield { start, tag };
  }
}

export interface Splice {
  start: number;
  end: number;
  text: string;
}

/** Replaces ranges of a text, which must not overlap; everything else stays as it was. */
export function splice(text: string, splices: readonly Splice[]): string {
  const parts: string[] = [];
  let at = 0;
  for (const { start, end, text: put } of [...splices].sort((a, b) => a.start - b.start)) {
    if (start < at) throw new RangeError('splices overlap');
    parts.push(text.slice(at, start), put);
    at = end;
  }
  parts.push(text.slice(at));
  return parts.join('');
}
