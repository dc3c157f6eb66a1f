import type { Tags } from 'exifreader';
import { ZipWriter, bytesSource, joinBytes, openPackage, type Engine } from '../container/index.ts';
import { decodeText, descendants, parseXml, textOf } from '../markup/index.ts';
import { Refusal, count, extensionOf } from '../model/index.ts';
import type { FindingSettings } from './findings/contract.ts';
import { matchesOf } from './patterns.ts';

/** What files tell of people besides what they are for: authors in documents, places in pictures, lists in tables. */

const OFFICE = new Set(['docx', 'xlsx', 'pptx']);
const PICTURES = new Set(['jpg', 'jpeg', 'png', 'webp', 'tif', 'tiff']);
const TEXTS = new Set(['csv', 'tsv', 'txt']);
/** What pictures tell stands at their beginning. */
const PICTURE_HEAD = 256 * 1024;
const DOCUMENT = 8 * 2 ** 20;

/** How many bytes of a file must be seen to tell what it tells; 0 where it tells nothing. */
export function bytesForMarks(path: string, size: number): number {
  const extension = extensionOf(path);
  if (PICTURES.has(extension)) return Math.min(size, PICTURE_HEAD);
  const known = OFFICE.has(extension) || TEXTS.has(extension) || extension === 'pdf';
  return known && size <= DOCUMENT ? size : 0;
}

/** What a file tells: `author: M. Harbour`, `place: 50.1, -5.2`, `people: 24 mail addresses`. */
export async function marksOf(
  path: string,
  bytes: Uint8Array,
  settings: FindingSettings,
  engine: Engine,
): Promise<string[]> {
  const nobody = new Set(settings.noPersons.map((n) => n.toLowerCase()));
  const told = await allMarks(path, bytes, settings, engine);
  return told.filter((mark) => !nobody.has(mark.slice(mark.indexOf(': ') + 2).toLowerCase()));
}

async function allMarks(path: string, bytes: Uint8Array, settings: FindingSettings, engine: Engine): Promise<string[]> {
  const extension = extensionOf(path);
  if (OFFICE.has(extension)) return officeMarks(bytes, engine);
  if (PICTURES.has(extension)) return pictureMarks(bytes);
  if (extension === 'pdf') return pdfMarks(bytes);
  return TEXTS.has(extension) ? peopleIn(decodeText(bytes), settings) : [];
}

const CORE = 'docProps/core.xml';
const AUTHORS: Record<string, string> = { creator: 'author', lastModifiedBy: 'changed by' };

/** Core properties (ECMA-376 part 2, 8). */
async function officeMarks(bytes: Uint8Array, engine: Engine): Promise<string[]> {
  try {
    const inner = await openPackage(bytesSource(bytes), { engine });
    if (!inner.entries.has(CORE)) return [];
    const root = parseXml(decodeText(await inner.bytes(CORE)), CORE);
    return descendants(root).flatMap((element) => {
      const word = AUTHORS[element.name];
      const said = textOf(element).trim();
      return word === undefined || said === '' ? [] : [`${word}: ${said}`];
    });
  } catch (error) {
    // What can't be opened tells nothing that could be taken out of it.
    if (error instanceof Refusal) return [];
    throw error;
  }
}

async function pictureMarks(bytes: Uint8Array): Promise<string[]> {
  // Only where there are pictures to look at: it is the longest thing that looking into a course would bring along.
  const { default: reader } = await import('exifreader');
  let tags: Tags;
  try {
    const whole = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
    tags = reader.load(whole);
  } catch {
    // The reader throws on everything that is no picture it knows: then there is nothing told.
    return [];
  }
  const said = (name: string) => {
    const value: unknown = (tags as Record<string, { description?: unknown } | undefined>)[name]?.description;
    return typeof value === 'string' || typeof value === 'number' ? String(value).trim() : '';
  };
  const author = said('Artist') || said('Author') || said('XPAuthor');
  const [north, east] = [said('GPSLatitude'), said('GPSLongitude')];
  return [
    ...(author === '' ? [] : [`author: ${author}`]),
    ...(north === '' ? [] : [`place: ${north.slice(0, 9)}, ${east.slice(0, 9)}`]),
  ];
}

/** A document has one author for each time it was saved over; what has more of them is out to take our time. */
const REFERENCES = 16;

/**
 * Where the author stands in the document information dictionary (ISO 32000-1, 14.3.3): in the dictionary itself, or in an
 * object that it refers to. What is packed away is not seen.
 */
function pdfAuthors(text: string): { start: number; end: number; said: string }[] {
  const found: { start: number; end: number; said: string }[] = [];
  const take = (match: RegExpMatchArray) => {
    const [, before = '', said = ''] = match;
    const start = (match.index ?? 0) + before.length;
    if (said.trim() !== '') found.push({ start, end: start + said.length, said: said.trim() });
  };
  for (const match of text.matchAll(/(\/Author\s*\()((?:[^()\\]|\\.)+)\)/g)) take(match);
  const references = [...text.matchAll(/\/Author\s+(\d{1,9})\s+(\d{1,5})\s+R/g)].slice(0, REFERENCES);
  for (const [, number = '', generation = ''] of references) {
    const object = new RegExp(`(\\b${number}\\s+${generation}\\s+obj\\s*\\()((?:[^()\\\\]|\\\\.)+)\\)`, 'g');
    for (const match of text.matchAll(object)) take(match);
  }
  return found;
}

/** Whether the letters of a word stand in bytes, each as one of them. */
function holdsWord(bytes: Uint8Array, word: string): boolean {
  const first = word.charCodeAt(0);
  for (let at = bytes.indexOf(first); at >= 0; at = bytes.indexOf(first, at + 1)) {
    let i = 1;
    while (i < word.length && bytes[at + i] === word.charCodeAt(i)) i++;
    if (i === word.length) return true;
  }
  return false;
}

function pdfMarks(bytes: Uint8Array): string[] {
  // Most name nobody, and to make a text of one takes longer than to look through it.
  if (!holdsWord(bytes, '/Author')) return [];
  return pdfAuthors(new TextDecoder('latin1').decode(bytes)).map(({ said }) => `author: ${said}`);
}

/** A table names people where patterns of people stand in more than one of its lines. */
function peopleIn(text: string, settings: FindingSettings): string[] {
  return settings.personal.flatMap(({ name, pattern }) => {
    const found = new Set([...matchesOf(pattern, text)].map((match) => match.text.toLowerCase()));
    return found.size > 1 ? [`people: ${count(found.size, name, name.endsWith('s') ? `${name}es` : `${name}s`)}`] : [];
  });
}

type Strip = (bytes: Uint8Array, engine: Engine) => Uint8Array | Promise<Uint8Array>;

function stripOf(path: string): Strip | null {
  const extension = extensionOf(path);
  if (OFFICE.has(extension)) return officeWithout;
  if (extension === 'jpg' || extension === 'jpeg') return jpegWithout;
  if (extension === 'png') return pngWithout;
  return extension === 'pdf' ? pdfWithout : null;
}

/** Whether what a file of this name tells of people can be taken out of it. */
export function canStrip(path: string): boolean {
  return stripOf(path) !== null;
}

/** The file without what it tells of people. Its content stays as it is. @throws Refusal where it can't be opened */
export async function withoutMarks(path: string, bytes: Uint8Array, engine: Engine): Promise<Uint8Array> {
  return (await stripOf(path)?.(bytes, engine)) ?? bytes;
}

async function officeWithout(bytes: Uint8Array, engine: Engine): Promise<Uint8Array> {
  const inner = await openPackage(bytesSource(bytes), { engine });
  const parts: Uint8Array[] = [];
  const writer = new ZipWriter({ write: async (part) => void parts.push(part.slice()) }, engine);
  for (const entry of inner.entries.values()) {
    if (entry.path !== CORE) {
      await writer.copy(entry.path, inner, entry);
      continue;
    }
    const text = decodeText(await inner.bytes(CORE)).replace(
      /(<(?:\w+:)?(?:creator|lastModifiedBy)\b[^>]*>)[^<]*(<\/)/g,
      '$1$2',
    );
    await writer.add(CORE, new TextEncoder().encode(text));
  }
  await writer.finish();
  return joinBytes(parts);
}

/** Without the segments APP1 (Exif, XMP) and APP13 (ISO 10918-1, B.2.4.6). */
function jpegWithout(bytes: Uint8Array): Uint8Array {
  const parts = [bytes.subarray(0, 2)];
  let at = 2;
  while (at + 4 <= bytes.length && bytes[at] === 0xff) {
    const marker = bytes[at + 1] ?? 0;
    // From the start of the scan on there are no more segments to look at.
    if (marker === 0xda) break;
    const end = at + 2 + (((bytes[at + 2] ?? 0) << 8) | (bytes[at + 3] ?? 0));
    if (marker !== 0xe1 && marker !== 0xed) parts.push(bytes.subarray(at, end));
    at = end;
  }
  parts.push(bytes.subarray(at));
  return joinBytes(parts);
}

/** Without the chunks of text and Exif (PNG third edition, 11.3). */
function pngWithout(bytes: Uint8Array): Uint8Array {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const parts = [bytes.subarray(0, 8)];
  let at = 8;
  while (at + 12 <= bytes.length) {
    const end = at + 12 + view.getUint32(at);
    const type = new TextDecoder('latin1').decode(bytes.subarray(at + 4, at + 8));
    if (!['tEXt', 'zTXt', 'iTXt', 'eXIf'].includes(type)) parts.push(bytes.subarray(at, end));
    at = end;
  }
  parts.push(bytes.subarray(at));
  return joinBytes(parts);
}

/** Blanks of the same length, so that every offset in the file still holds. */
function pdfWithout(bytes: Uint8Array): Uint8Array {
  const after = bytes.slice();
  for (const { start, end } of pdfAuthors(new TextDecoder('latin1').decode(bytes))) after.fill(0x20, start, end);
  return after;
}
