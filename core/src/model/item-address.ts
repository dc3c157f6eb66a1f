/**
 * How a text names an item of its course that has no page or file of its own: an address of the model. Formats that have
 * an address for such an item write theirs in its place (`formats/leads.ts`).
 */
const SCHEME = 'treenail:item/';

/** Nothing in it has to be escaped in HTML, XML or JSON. */
export function itemAddress(id: string): string {
  const safe = encodeURIComponent(id).replace(/[!'()*]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`);
  return SCHEME + safe;
}

/** The identifier that an address of the model names; `null` of any other address. */
export function itemOfAddress(address: string): string | null {
  if (!address.startsWith(SCHEME)) return null;
  try {
    return decodeURIComponent(address.slice(SCHEME.length).replace(/[?#].*$/, ''));
  } catch {
    return null;
  }
}

/** Every address of the model in a text, in whatever it is written. */
export function replaceItemAddresses(text: string, put: (id: string) => string): string {
  if (!text.includes(SCHEME)) return text;
  return text.replace(/treenail:item\/[\w.~%-]+/g, (address) => {
    const id = itemOfAddress(address);
    return id === null ? address : put(id);
  });
}
