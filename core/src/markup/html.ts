import { Parser } from 'htmlparser2';

export type LinkUse = 'anchor' | 'image' | 'media' | 'style' | 'script' | 'frame';

/** A reference in a page, with where its value stands in the source text. */
export interface HtmlLink {
  use: LinkUse;
  /** As written, entities decoded. */
  value: string;
  /** Line of the tag, 1-based. */
  line: number;
}

/** Attributes that bear references. */
export const LINKING: Record<string, [attribute: string, use: LinkUse][]> = {
  a: [['href', 'anchor']],
  area: [['href', 'anchor']],
  img: [['src', 'image']],
  image: [
    ['href', 'image'],
    ['xlink:href', 'image'],
  ],
  use: [
    ['href', 'image'],
    ['xlink:href', 'image'],
  ],
  input: [['src', 'image']],
  frame: [['src', 'frame']],
  source: [['src', 'media']],
  video: [
    ['src', 'media'],
    ['poster', 'image'],
  ],
  audio: [['src', 'media']],
  track: [['src', 'media']],
  embed: [['src', 'media']],
  object: [['data', 'media']],
  link: [['href', 'style']],
  script: [['src', 'script']],
  iframe: [['src', 'frame']],
};

export const UNSEEN = new Set(['script', 'style', 'head', 'template', 'noscript']);
export const BREAKING =
  /^(address|article|aside|blockquote|br|dd|div|dl|dt|figcaption|figure|footer|h[1-6]|header|hr|li|main|nav|ol|p|pre|section|table|td|th|tr|ul)$/;

export interface HtmlReading {
  /** Text without mark-up, white space folded. */
  text: string;
  /** The title element's, for pages that stand under no other name. */
  title: string;
  links: HtmlLink[];
}

/** Reads a page in one pass, without building a tree. Never throws: HTML has no errors. */
export function readHtml(html: string): HtmlReading {
  const text: string[] = [];
  const title: string[] = [];
  const links: HtmlLink[] = [];
  const unseen: string[] = [];
  let inTitle = false;
  const lineAt = lineCounter(html);
  const parser = new Parser({
    onopentag(name, attrs) {
      for (const [attribute, use] of LINKING[name] ?? []) {
        const value = attrs[attribute];
        if (value !== undefined && value.trim() !== '') {
          links.push({ use, value: value.trim(), line: lineAt(parser.startIndex) });
        }
      }
      if (name === 'title') inTitle = true;
      if (UNSEEN.has(name)) unseen.push(name);
      else if (BREAKING.test(name)) text.push('\n');
    },
    ontext(data) {
      if (inTitle) title.push(data);
      else if (unseen.length === 0) text.push(data);
    },
    onclosetag(name) {
      if (name === 'title') inTitle = false;
      if (unseen.at(-1) === name) unseen.pop();
      else if (BREAKING.test(name)) text.push('\n');
    },
  });
  parser.end(html);
  return { text: fold(text.join('')), title: fold(title.join('')), links };
}

/** A text with its character references decoded (HTML Living Standard 13.2.5.72). */
export function decodeReferences(text: string): string {
  if (!text.includes('&')) return text;
  let decoded = '';
  new Parser({ ontext: (data) => void (decoded += data) }).end(text.replaceAll('<', '&lt;'));
  return decoded;
}

/** The value of an attribute decoded: there, what looks like the beginning of a parameter is no character reference. */
export function decodeAttribute(value: string): string {
  if (!value.includes('&')) return value;
  let decoded = '';
  new Parser({ onattribute: (_name, data) => void (decoded = data) }).end(`<a v="${value.replaceAll('"', '&quot;')}">`);
  return decoded;
}

/**
 * White space (ECMAScript 12.2 and 12.3) that is no single space. Those, of which texts are full, are left alone: they are
 * most of the work otherwise; and what `\s` means is written out, since that is found in two thirds of the time.
 */
const FOLDS = /[\t-\r\u00a0\u1680\u2000-\u200a\u2028\u2029\u202f\u205f\u3000\ufeff]\s*| \s+/g;

export function fold(text: string): string {
  return text.replace(FOLDS, ' ').trim();
}

/** The text of a fragment without its mark-up, white space folded. */
export function plainText(html: string): string {
  return readHtml(html).text;
}

/** Line of an ascending series of offsets. */
export function lineCounter(text: string): (offset: number) => number {
  let line = 1;
  // Kept, since a text of one line would else be gone through from end to end at every question.
  let next = text.indexOf('\n');
  return (offset) => {
    for (; next !== -1 && next < offset; next = text.indexOf('\n', next + 1)) line++;
    return line;
  };
}

/** A reference to another place than the package: has a scheme or a host. */
export function isExternal(reference: string): boolean {
  return /^[a-z][a-z0-9+.-]*:|^\/\//i.test(reference);
}

/** Elements that never hold anything (HTML Living Standard 13.1.2). */
export const VOID_ELEMENTS: ReadonlySet<string> = new Set(
  'area base br col embed hr img input link meta source track wbr'.split(' '),
);
