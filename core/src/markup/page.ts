import { Parser, Tokenizer } from 'htmlparser2';
import {
  isExternal,
  BREAKING,
  LINKING,
  UNSEEN,
  VOID_ELEMENTS,
  decodeAttribute,
  decodeReferences,
  fold,
  lineCounter,
  type LinkUse,
} from './html.ts';
import { escapeXml, splice, type Splice } from './xml-text.ts';

/** A stretch of the source text: `start` included, `end` not. */
export interface Span {
  start: number;
  end: number;
}

/** An element as it stands in the source, with what a person may want changed about it. */
export interface PageElement {
  name: string;
  attrs: Readonly<Record<string, string>>;
  /** Line of the tag, 1-based. */
  line: number;
  /** The opening tag. */
  open: Span;
  /** The closing tag; `null` for elements that have none. */
  close: Span | null;
  /** Where its attributes stand, name and value. */
  at: Readonly<Record<string, Span>>;
  /** Its text, white space folded. */
  text: string;
}

/** A reference, and where in the source its value stands. */
export interface PageReference {
  use: LinkUse;
  /** As written, entities decoded. */
  value: string;
  line: number;
  element: PageElement | null;
  /** The address itself, as it stands in the source. */
  at: Span;
  /** In a style sheet characters are not written as entities. */
  inStyle: boolean;
}

/** What one pass over a page finds: everything that findings and mends speak of. */
export interface PageReading {
  text: string;
  title: string;
  lang: string;
  /** The address against which the page says its references are to be read, if it says so. */
  base: string | null;
  /** Where that stands in the text. */
  baseAt: Span | null;
  references: PageReference[];
  /** Names that fragments can lead to. */
  anchors: Set<string>;
  headings: PageElement[];
  tables: (PageElement & { rows: number; headers: number })[];
  images: PageElement[];
  /** Script elements, and elements with event handlers. */
  scripts: PageElement[];
  /** Elements that bear a class, by class. */
  classes: Map<string, PageElement[]>;
  /** Where reading ended before the text did, since elements nest deeper than any browser shows; `null` elsewhere. */
  cut: number | null;
}

/** How deep elements may nest: browsers themselves go no deeper than half of it. */
const DEEPEST = 1000;

/** Letters of an element's text that are kept: enough to know it by. */
const TEXT_KEPT = 2000;

const WATCHED =
  /^(?:a|area|img|image|use|input|iframe|frame|embed|object|video|audio|source|track|script|link|base|table|h[1-6]|i|span)$/;
const HEADING = /^h[1-6]$/;

/** Addresses in a style sheet or a style attribute (CSS Values 4, 4.5; CSS Cascade 4, 2). */
export function addressesInCss(css: string): (Span & { value: string })[] {
  if (!css.includes('url(') && !css.includes('@import')) return [];
  const found: (Span & { value: string })[] = [];
  const pattern = /url\(\s*(?:"([^"]*)"|'([^']*)'|([^"')\s]+))\s*\)|@import\s+(?:"([^"]*)"|'([^']*)')/gi;
  for (const match of css.matchAll(pattern)) {
    const value = match.slice(1).find((part) => part !== undefined) ?? '';
    if (value === '') continue;
    const start = match.index + match[0].lastIndexOf(value);
    found.push({ value, start, end: start + value.length });
  }
  return found;
}

/** What is found in a text without mark-up: nothing yet. */
export function emptyReading(): PageReading {
  return {
    text: '',
    title: '',
    lang: '',
    base: null,
    baseAt: null,
    references: [],
    anchors: new Set(),
    headings: [],
    tables: [],
    images: [],
    scripts: [],
    classes: new Map(),
    cut: null,
  };
}

/** Reads a page in one pass, without building a tree of it. Never throws: HTML has no errors. */
export function readPage(html: string): PageReading {
  return new PageReader(html).read();
}

/**
 * The tokenizer steps over text letter by letter; the platform finds the next tag many times sooner. Nothing else of it is
 * changed, and were its step called otherwise one day, it would be as slow as it was.
 */
class LeapingTokenizer extends Tokenizer {}
interface Reading {
  readonly buffer: string;
  readonly offset: number;
  index: number;
}
Object.defineProperty(LeapingTokenizer.prototype, 'fastForwardTo', {
  value(this: Reading, code: number): boolean {
    const found = this.buffer.indexOf(String.fromCharCode(code), this.index - this.offset + 1);
    this.index = this.offset + (found === -1 ? this.buffer.length - 1 : found);
    return found !== -1;
  },
});

/** Elements in which text is not taken as it is elsewhere: there it depends on what stands around it. */
const OTHER_TEXT = /<(?:svg|math|textarea|xmp|iframe|noembed|noframes|plaintext)/i;

class PageReader {
  private readonly html: string;
  /**
   * Whether character references are decoded here. The parser looks for them at every letter, which is most of its work,
   * and most texts have few.
   */
  private readonly lean: boolean;
  private readonly lineAt: (offset: number) => number;
  private readonly text: string[] = [];
  private readonly titleText: string[] = [];
  private readonly unseen: string[] = [];
  private depth = 0;
  private inTitle = false;
  private inStyle = false;
  /** Attributes of the tag that is being read. */
  private spans: [name: string, start: number, end: number][] = [];
  private readonly open: { element: Draft; from: number }[] = [];
  private readonly openTables: (Draft & { rows: number; headers: number })[] = [];
  private readonly found = emptyReading();

  constructor(html: string) {
    this.html = html;
    this.lean = !OTHER_TEXT.test(html);
    this.lineAt = lineCounter(html);
  }

  read(): PageReading {
    const parser: Parser = new Parser(
      {
        onattribute: (name) => void this.spans.push([name, parser.startIndex, parser.endIndex]),
        onopentag: (name, attrs) => {
          if (!VOID_ELEMENTS.has(name) && ++this.depth > DEEPEST) {
            // What the parser has open costs it more with every element; nothing below is of use to anybody.
            this.found.cut ??= parser.startIndex;
            parser.pause();
          } else this.opened(name, attrs, parser.startIndex, parser.endIndex + 1);
        },
        ontext: (data) => this.words(data, parser.startIndex),
        onclosetag: (name, implied) => {
          if (!VOID_ELEMENTS.has(name)) this.depth--;
          this.closed(name, implied, parser.startIndex, parser.endIndex + 1);
        },
      },
      { decodeEntities: !this.lean, Tokenizer: LeapingTokenizer },
    );
    parser.end(this.html);
    const { found } = this;
    found.text = fold(this.text.join(''));
    found.title = fold(this.titleText.join(''));
    return found;
  }

  private opened(name: string, attrs: Record<string, string>, start: number, end: number): void {
    const { found } = this;
    const spans = this.spans;
    if (spans.length > 0) this.spans = [];
    if (this.lean) for (const attribute in attrs) attrs[attribute] = decodeAttribute(attrs[attribute] ?? '');
    if (name === 'html' && attrs['lang'] !== undefined) found.lang = attrs['lang'];
    if (name === 'title') this.inTitle = true;
    if (name === 'style') this.inStyle = true;
    if (UNSEEN.has(name)) this.unseen.push(name);
    else if (BREAKING.test(name)) this.text.push('\n');
    if (name === 'tr' || name === 'th') {
      const table = this.openTables.at(-1);
      if (table) table[name === 'tr' ? 'rows' : 'headers']++;
    }
    const watched = WATCHED.test(name) || attrs['background'] !== undefined;
    if (!watched && spans.length === 0) return;
    const handles = spans.some(([n]) => n.startsWith('on'));
    const styled = attrs['style'] !== undefined && attrs['style'].includes('url(');
    const classes = attrs['class'];
    if (attrs['id'] !== undefined) found.anchors.add(attrs['id']);
    if (name === 'a' && attrs['name'] !== undefined) found.anchors.add(attrs['name']);
    if (!watched && !handles && !styled && classes === undefined) return;
    const at: Record<string, Span> = {};
    for (const [attribute, from, to] of spans) at[attribute] ??= { start: from, end: to };
    const element: Draft = { name, attrs, line: this.lineAt(start), open: { start, end }, close: null, at, text: '' };
    if (!VOID_ELEMENTS.has(name)) this.open.push({ element, from: this.text.length });
    if (handles || name === 'script') found.scripts.push(element);
    if (classes !== undefined) {
      for (const one of classes.split(/\s+/)) {
        if (one === '') continue;
        const list = found.classes.get(one);
        if (list) list.push(element);
        else found.classes.set(one, [element]);
      }
    }
    if (name === 'base' && attrs['href'] !== undefined && found.base === null) {
      found.base = attrs['href'];
      found.baseAt = at['href'] ? this.valueSpan(at['href']) : null;
    }
    if (name === 'img') found.images.push(element);
    if (HEADING.test(name)) found.headings.push(element);
    if (name === 'table') {
      const table = Object.assign(element, { rows: 0, headers: 0 });
      this.openTables.push(table);
      found.tables.push(table);
    }
    for (const [attribute, use] of LINKING[name] ?? []) {
      const value = attrs[attribute]?.trim();
      const span = at[attribute];
      if (value && span) this.refer(use, value, element, this.valueSpan(span), false);
    }
    // Of old, any part of a page might lie on a picture.
    const background = attrs['background']?.trim();
    if (background && at['background'])
      this.refer('image', background, element, this.valueSpan(at['background']), false);
    if (attrs['srcset'] !== undefined && at['srcset']) this.candidates(element, this.valueSpan(at['srcset']));
    if (styled && at['style']) {
      const { start: from, end: to } = this.valueSpan(at['style']);
      for (const one of addressesInCss(this.html.slice(from, to))) {
        this.refer('style', one.value, element, { start: from + one.start, end: from + one.end }, false);
      }
    }
  }

  private words(data: string, start: number): void {
    if (this.inTitle) this.titleText.push(this.decoded(data));
    else if (this.inStyle) {
      for (const one of addressesInCss(data)) {
        this.refer('style', one.value, null, { start: start + one.start, end: start + one.end }, true);
      }
    } else if (this.unseen.length === 0) this.text.push(this.decoded(data));
  }

  private decoded(data: string): string {
    return this.lean ? decodeReferences(data) : data;
  }

  private closed(name: string, implied: boolean, start: number, end: number): void {
    if (name === 'title') this.inTitle = false;
    if (name === 'style') this.inStyle = false;
    if (this.unseen.at(-1) === name) this.unseen.pop();
    else if (BREAKING.test(name)) this.text.push('\n');
    if (name === 'table') this.openTables.pop();
    const last = this.open.at(-1);
    if (last?.element.name !== name) return;
    this.open.pop();
    if (!implied) last.element.close = { start, end };
    last.element.text = fold(this.beginning(last.from));
  }

  /** The text from there on, as much of it as is kept: elements may nest, and each has all that is in it. */
  private beginning(from: number): string {
    let text = '';
    for (let i = from; i < this.text.length && text.length < TEXT_KEPT; i++) text += this.text[i] ?? '';
    return text.slice(0, TEXT_KEPT);
  }

  /** The value of an attribute, without its name and quotes. */
  private valueSpan({ start, end }: Span): Span {
    const equals = this.html.indexOf('=', start);
    if (equals === -1 || equals >= end) return { start: end, end };
    let from = equals + 1;
    while (from < end && /\s/.test(this.html.charAt(from))) from++;
    const quote = this.html.charAt(from);
    if (quote !== '"' && quote !== "'") return { start: from, end };
    const close = this.html.indexOf(quote, from + 1);
    return { start: from + 1, end: close === -1 ? end : close };
  }

  /** HTML Living Standard 4.8.4.2: addresses, each with an optional descriptor, between commas. */
  private candidates(element: PageElement, { start, end }: Span): void {
    const value = this.html.slice(start, end);
    // An address goes on to the next white space; a comma at its end, or after its descriptor, ends the candidate.
    const candidate = /[\s,]*(\S+)/y;
    for (let match = candidate.exec(value); match; match = candidate.exec(value)) {
      const [whole, written = ''] = match;
      const address = written.replace(/,+$/, '');
      const from = start + match.index + whole.length - written.length;
      this.refer('image', address, element, { start: from, end: from + address.length }, false);
      if (address !== written) continue;
      const comma = value.indexOf(',', candidate.lastIndex);
      if (comma === -1) break;
      candidate.lastIndex = comma;
    }
  }

  private refer(use: LinkUse, value: string, element: PageElement | null, at: Span, inStyle: boolean): void {
    this.found.references.push({ use, value, line: element?.line ?? this.lineAt(at.start), element, at, inStyle });
  }
}

/** An element that is not closed yet. */
type Draft = { -readonly [K in keyof PageElement]: PageElement[K] };

/** The whole of an element, from its opening tag to its closing one. */
export function wholeOf(element: PageElement): Span {
  return { start: element.open.start, end: (element.close ?? element.open).end };
}

/**
 * Replaces what a text refers to, wherever it does: in attributes, quoted or not, in sets of pictures, and in styles; `put`
 * gives `null` to leave one as it is.
 */
export function rewriteReferences(html: string, moved: (reference: string) => string | null): string {
  if (!html.includes('=') && !html.includes('url(') && !html.includes('@import')) return html;
  const { references, base, baseAt } = readPage(html);
  const isBased = base !== null && baseAt !== null && isRelative(base);
  const splices: Splice[] = [];
  let isMoved = false;
  for (const { value, at, inStyle } of references) {
    const own = isBased && isRelative(value) ? base.slice(0, base.lastIndexOf('/') + 1) + value : value;
    const put = moved(own);
    isMoved ||= put !== null;
    const instead = put ?? (own === value ? null : own);
    if (instead === null) continue;
    splices.push({ ...at, text: inStyle ? instead : escapeXml(instead).replaceAll('&#39;', "'") });
  }
  if (!isMoved) return html;
  // Everything is named from the page itself now.
  if (isBased) splices.push({ ...baseAt, text: '' });
  return splice(html, splices);
}

/** A page that names everything from its own place, though it may have said that it does so from another. */
export function unbased(html: string): string {
  return /<base\b/i.test(html) ? rewriteReferences(html, (reference) => reference) : html;
}

/** Whether an address is one from the place of its page: no other site's, none from a root, none in the same page. */
export function isRelative(address: string): boolean {
  return !isExternal(address) && !/^[/#?]/.test(address) && address !== '';
}
