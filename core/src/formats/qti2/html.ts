import { Parser } from 'htmlparser2';
import { VOID_ELEMENTS, escapeXml, toXhtml, type XmlElement } from '../../markup/index.ts';
import type { RichText } from '../../model/index.ts';
import { nameOf } from './names.ts';

/** The inside of an element as HTML, with something else in place of the elements that `put` answers for. */
export function innerHtml(element: XmlElement, put: (element: XmlElement) => string | null = () => null): string {
  return element.children
    .map((node): string => {
      if (typeof node === 'string') return escapeXml(node).replaceAll('&#39;', "'").replaceAll('&quot;', '"');
      const instead = put(node);
      if (instead !== null) return instead;
      const name = nameOf(node);
      // What 3.0 puts around all that is shown is no mark-up of it.
      if (name === 'contentBody') return innerHtml(node, put);
      const attributes = Object.entries(node.attrs)
        .filter(([key]) => key !== 'xmlns')
        .map(([key, value]) => ` ${key}="${escapeXml(value)}"`)
        .join('');
      return VOID_ELEMENTS.has(name)
        ? `<${name}${attributes}>`
        : `<${name}${attributes}>${innerHtml(node, put)}</${name}>`;
    })
    .join('');
}

export function html(text: string): RichText {
  return { format: 'html', text: text.trim() };
}

/** Paragraphs that held nothing but the interaction. */
export function emptied(text: string): string {
  return text.replace(/<(p|div)(?: [^>]*)?>\s*<\/\1>/g, '').trim();
}

/** A text as XHTML, its references rewritten. */
export function xhtmlWith(rewrite: (html: string) => string): (text: RichText) => string {
  return (text) => (text.format === 'html' ? toXhtml(rewrite(text.text)) : escapeXml(text.text));
}

/** The class of what stands before an interaction in a question of several parts, and is asked by that part alone. */
export const ASKED = 'asked-of-part';

const BLOCK =
  /^(?:address|article|aside|blockquote|div|dl|figure|footer|h[1-6]|header|hr|main|nav|object|ol|p|pre|section|table|ul)$/;

/** What an XHTML text is made of: lines of words, blocks, or, at its top, both. */
export function madeOf(xhtml: string): 'words' | 'blocks' | 'both' {
  let depth = 0;
  let [hasBlock, hasWords] = [false, false];
  const parser = new Parser(
    {
      onopentag(name) {
        const isBlock = BLOCK.test(name);
        hasBlock ||= isBlock;
        if (depth++ === 0 && !isBlock) hasWords = true;
      },
      ontext(text) {
        if (depth === 0 && text.trim() !== '') hasWords = true;
      },
      onclosetag() {
        depth--;
      },
    },
    { xmlMode: true },
  );
  parser.end(xhtml);
  if (!hasBlock) return 'words';
  return hasWords ? 'both' : 'blocks';
}
