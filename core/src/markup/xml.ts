import { SaxesParser, type SaxesTagNS } from 'saxes';
import { DEFAULT_LIMITS } from '../container/limits.ts';
import { Refusal, problem } from '../model/index.ts';

/** An element with its place in the source text, so that a text can be changed by splicing and is otherwise kept. */
export interface XmlElement {
  /** Local name. */
  name: string;
  ns: string;
  /** By local name; of attributes that share one, the first. */
  attrs: Readonly<Record<string, string>>;
  children: readonly (XmlElement | string)[];
  line: number;
  /** Offsets into the text: of `<`, after the open tag, before the close tag, after the close tag. */
  start: number;
  openEnd: number;
  closeStart: number;
  end: number;
}

/** An element while it is read. Half of all have no attribute or no child, and half of the rest one. */
interface Open extends XmlElement {
  children: (XmlElement | string)[];
}
const NO_ATTRIBUTES: Readonly<Record<string, string>> = {};
const NO_CHILDREN: (XmlElement | string)[] = [];

/** An array begun with its first member takes a tenth of the room of one that is pushed to. */
function addChild(parent: Open, node: XmlElement | string): void {
  if (parent.children === NO_CHILDREN) parent.children = [node];
  else parent.children.push(node);
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
  const stack: Open[] = [];
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
      if (attribute && attribute.prefix !== 'xmlns') (attrs ??= {})[attribute.local] ??= attribute.value;
    }
    const openEnd = parser.position;
    const element: Open = {
      name: tag.local,
      ns: tag.uri,
      attrs: attrs ?? NO_ATTRIBUTES,
      children: NO_CHILDREN,
      line: parser.line,
      // A raw `<` can't stand inside a tag, so the nearest one before its end opens it.
      start: text.lastIndexOf('<', openEnd - 1),
      openEnd,
      closeStart: openEnd,
      end: openEnd,
    };
    const parent = stack.at(-1);
    if (parent) addChild(parent, element);
    else root = element;
    stack.push(element);
  });
  const addText = (part: string) => {
    const parent = stack.at(-1);
    if (!parent) return;
    const last = parent.children.length - 1;
    const before = parent.children[last];
    if (typeof before === 'string') parent.children[last] = before + part;
    else addChild(parent, part);
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
  for (const node of parent.children) {
    if (typeof node !== 'string' && (name === undefined || node.name === name)) found.push(node);
  }
  return found;
}

/** The first child element of that name, or at the end of a path of names. */
export function child(parent: XmlElement | undefined, ...path: string[]): XmlElement | undefined {
  let at = parent;
  for (const name of path) at = at && firstNamed(at, name);
  return at;
}

function firstNamed({ children }: XmlElement, name: string): XmlElement | undefined {
  for (const node of children) if (typeof node !== 'string' && node.name === name) return node;
  return undefined;
}

/** All text below an element. */
export function textOf(element: XmlElement | undefined): string {
  if (!element) return '';
  return element.children.map((node) => (typeof node === 'string' ? node : textOf(node))).join('');
}

/** Every element below, in document order. Without recursion: a hostile file may nest deep. */
export function descendants(element: XmlElement): XmlElement[] {
  const found: XmlElement[] = [];
  const stack: XmlElement[] = [];
  const push = ({ children }: XmlElement) => {
    for (let i = children.length - 1; i >= 0; i--) {
      const node = children[i];
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
