const UTF8 = new TextDecoder('utf-8', { fatal: true });
const LATIN1 = new TextDecoder('latin1');

/**
 * Text from bytes: byte-order mark first, then the encoding that the text itself declares, then UTF-8, and Windows-1252
 * for what is not UTF-8 (as WHATWG Encoding does for pages).
 */
export function decodeText(bytes: Uint8Array): string {
  const label = encodingOf(bytes);
  if (label !== null) return new TextDecoder(label).decode(bytes);
  try {
    return UTF8.decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}

function encodingOf(bytes: Uint8Array): string | null {
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be';
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le';
  if (bytes[0] === 0x00 && bytes[1] === 0x3c) return 'utf-16be';
  if (bytes[0] === 0x3c && bytes[1] === 0x00) return 'utf-16le';
  const head = LATIN1.decode(bytes.subarray(0, 1024));
  const declared = /^(?:\u00ef\u00bb\u00bf)?<\?xml[^>]*encoding=["']([\w.-]+)["']/i.exec(head)?.[1];
  if (declared === undefined || /^utf-?8$/i.test(declared)) return null;
  try {
    return new TextDecoder(declared).encoding;
  } catch {
    return null;
  }
}
