import { DomUtils, parseDocument } from 'htmlparser2';
import { VOID_ELEMENTS } from './html.ts';

/** HTML as XML, for formats whose texts are XML. */

/** Most texts are a plain paragraph, or less: well-formed as they are. */
const WELL_FORMED = /^(?:[^<&>]*|<(p|div|span|strong|em)>[^<&>]*<\/\1>)$/;
const XML_NAME = /^[A-Za-z_][\w.-]*$/;

/** What stands in a page by its own rules, with its namespace (HTML Living Standard 13.2.6.5): its names keep their case. */
const FOREIGN: Readonly<Record<string, string>> = {
  svg: 'http://www.w3.org/2000/svg',
  math: 'http://www.w3.org/1998/Math/MathML',
};
const XHTML = 'http://www.w3.org/1999/xhtml';
const XLINK = 'http://www.w3.org/1999/xlink';

type Element = ReturnType<typeof DomUtils.findAll>[number];

/** A fragment as well-formed XHTML. Scripts stay out: no text may run. */
export function toXhtml(html: string): string {
  if (WELL_FORMED.test(html)) return html;
  const keepsCase = /<(?:svg|math)\b/i.test(html);
  const document = parseDocument(html, keepsCase ? { lowerCaseTags: false, lowerCaseAttributeNames: false } : {});
  for (const element of DomUtils.findAll(() => true, document.children)) {
    const root = keepsCase ? foreignRoot(element) : null;
    if (keepsCase && !root) inLowerCase(element);
    if (element.name === 'script' || element.name === 'style') DomUtils.removeElement(element);
    else if (!XML_NAME.test(element.name)) {
      // HTML takes any letters after a bracket for a tag; what XML can't name is looked through.
      for (const child of [...element.children]) DomUtils.prepend(element, child);
      DomUtils.removeElement(element);
    } else {
      for (const name of Object.keys(element.attribs)) {
        const isLink = root !== null && /^xlink:[a-z]+$/.test(name);
        if (isLink) root.attribs['xmlns:xlink'] = XLINK;
        else if (!XML_NAME.test(name) || /^on/i.test(name) || name === 'xmlns') delete element.attribs[name];
      }
      if (keepsCase && !root && isInForeign(element)) element.attribs = { xmlns: XHTML, ...element.attribs };
      if (root === element) element.attribs = { xmlns: FOREIGN[element.name] ?? '', ...element.attribs };
    }
  }
  return (
    DomUtils.getInnerHTML(document, { xmlMode: true })
      // In XML mode everything beyond ASCII comes out as numbers; letters are as good there as they were before.
      .replace(/&#x([0-9a-f]+);/gi, (whole, hex: string) =>
        parseInt(hex, 16) > 0x9f ? String.fromCodePoint(parseInt(hex, 16)) : whole,
      )
      // Elements that hold nothing close themselves there; to whoever reads it as HTML again they would stay open.
      .replace(/<([A-Za-z_][\w.-]*)([^<>]*)\/>/g, (whole, name: string, attributes: string) =>
        VOID_ELEMENTS.has(name) ? whole : `<${name}${attributes}></${name}>`,
      )
  );
}

/** The `svg` or `math` that an element is, or stands in; what HTML stands in one of them (`foreignObject`) is HTML's. */
function foreignRoot(element: Element): Element | null {
  let root: Element | null = null;
  for (let at: Element['parentNode'] | Element = element; at && 'name' in at; at = at.parentNode) {
    const isSelf = at === element;
    const name = at.name.toLowerCase();
    if (name === 'foreignobject' && !isSelf) return null;
    if (!Object.hasOwn(FOREIGN, name)) continue;
    at.name = name;
    root = at;
    if (isSelf || name === 'math') break;
  }
  return root;
}

/** HTML that stands in a drawing. */
function isInForeign({ parentNode }: Element): boolean {
  return parentNode !== null && 'name' in parentNode && parentNode.name.toLowerCase() === 'foreignobject';
}

function inLowerCase(element: Element): void {
  element.name = element.name.toLowerCase();
  const attributes = Object.entries(element.attribs);
  element.attribs = Object.fromEntries(attributes.map(([name, value]) => [name.toLowerCase(), value]));
}
