/** XML as text: written, and changed by splicing. */

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

/** The text is written as UTF-8 whatever it was, so its declaration must say so. */
export function declaredUtf8(text: string): string {
  return text.replace(/^\ufeff?(<\?xml[^>]*encoding=)(["'])[^"']*\2/, '$1$2UTF-8$2');
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
