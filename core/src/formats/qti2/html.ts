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
