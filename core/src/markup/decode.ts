const UTF8 = new TextDecoder('utf-8', { fatal: true });
const LATIN1 = new TextDecoder('latin1');

/**
 * Text from bytes: byte-order mark first, then what XML declares, then UTF-8 where it is that, then what a page declares
 * (`meta`), and Windows-1252 for what is left (WHATWG Encoding, and HTML 13.2.3.2 with UTF-8 before the declaration: what is
 * UTF-8 is nothing else by chance, and servers overrule what old pages say of themselves).
 */
export function decodeText(bytes: Uint8Array): string {
  const label = encodingOf(bytes);
  if (label !== null) return decodedAs(label, bytes);
  const declared = declaredByPage(bytes);
  // It writes all letters with those of ASCII, so it would be taken for UTF-8.
  if (declared === 'iso-2022-jp') return decodedAs(declared, bytes);
  try {
    return UTF8.decode(bytes);
  } catch {
    return decodedAs(declared ?? 'windows-1252', bytes);
  }
}

/** What Windows-1252 has at 0x80 to 0x9f (WHATWG Encoding, index windows-1252). */
const WINDOWS_1252 =
  '\u20ac\u0081\u201a\u0192\u201e\u2026\u2020\u2021\u02c6\u2030\u0160\u2039\u0152\u008d\u017d\u008f\u0090\u2018\u2019\u201c\u201d\u2022\u2013\u2014\u02dc\u2122\u0161\u203a\u0153\u009d\u017e\u0178';

function decodedAs(label: string, bytes: Uint8Array): string {
  const text = new TextDecoder(label).decode(bytes);
  if (label !== 'windows-1252') return text;
  // The decoder of Node takes these for the controls of Latin-1; that of a browser has none left here.
  return text.replace(/[\u0080-\u009f]/g, (c) => WINDOWS_1252.charAt(c.charCodeAt(0) - 0x80));
}

/** The encoding that a page says it has, by its name in WHATWG Encoding. */
function declaredByPage(bytes: Uint8Array): string | null {
  const head = LATIN1.decode(bytes.subarray(0, 1024));
  return nameOf(/<meta[^>]*?charset\s*=\s*["']?\s*([\w.:-]+)/i.exec(head)?.[1]);
}

function nameOf(label: string | undefined): string | null {
  if (label === undefined) return null;
  try {
    const { encoding } = new TextDecoder(label);
    // In a page that could be read so far it can't be (HTML 13.2.3.2).
    return encoding.startsWith('utf-16') ? null : encoding;
  } catch {
    return null;
  }
}

function encodingOf(bytes: Uint8Array): string | null {
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be';
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le';
  if (bytes[0] === 0x00 && bytes[1] === 0x3c) return 'utf-16be';
  if (bytes[0] === 0x3c && bytes[1] === 0x00) return 'utf-16le';
  const head = LATIN1.decode(bytes.subarray(0, 1024));
  const declared = /^(?:\u00ef\u00bb\u00bf)?<\?xml[^>]*encoding=["']([\w.-]+)["']/i.exec(head)?.[1];
  return declared === undefined || /^utf-?8$/i.test(declared) ? null : nameOf(declared);
}
