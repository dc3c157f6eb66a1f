import { mkdir, writeFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { parse } from 'yaml';
import * as z from 'zod';
import { QUESTION_FILE, questionOfItem, type ReadQuestion } from '../shared/qti-items.ts';
import { unzip, type Unzipped } from '../shared/unzip.ts';
import { attr, many, one, parseXml, words, type Xml } from '../shared/xml.ts';
import { OBook, OLesson, OPart, type OQuestion } from './model.ts';

const Head = z.looseObject({
  code: z.string().default(''),
  group: z.string().default(''),
  year: z.string().default(''),
  name: z.string(),
  author: z.string().default(''),
  about: z.string().default(''),
  halves: z.array(z.object({ key: z.string(), name: z.string(), loose: z.boolean().optional() })),
});
const LessonHead = OLesson.omit({ parts: true }).extend({ from: z.string().default('') });

/** What was sent in becomes a book on the shelf: a parcel exactly, a cartridge as far as Oxlea goes. @throws Error */
export async function importBook(
  archive: string,
  id: string,
  library: string,
): Promise<{ book: OBook; log: string[] }> {
  const zip = await unzip(archive);
  try {
    await mkdir(library, { recursive: true });
    return zip.names.includes('book.yaml')
      ? { book: await bookOfParcel(zip, id, library), log: [] }
      : await bookOfCartridge(zip, id, library);
  } finally {
    zip.close();
  }
}

async function bookOfParcel(zip: Unzipped, id: string, library: string): Promise<OBook> {
  const text = async (path: string) => ((await zip.bytes(path)) ?? Buffer.alloc(0)).toString('utf8');
  const { halves, ...head } = Head.parse(parse(await text('book.yaml')));
  const names = [...zip.names].sort();
  const read = async (path: string): Promise<OPart> => {
    const whole = await text(path);
    const match = /^---\r?\n([\s\S]*?)\r?\n---\r?\n([\s\S]*)$/.exec(whole);
    const record = (match ? parse(match[1] ?? '') : parse(whole)) as object;
    return OPart.parse(match ? { ...record, text: (match[2] ?? '').replace(/\n$/, '') } : record);
  };
  const filled: OBook['halves'] = [];
  for (const [h, half] of halves.entries()) {
    const lessons: OLesson[] = [];
    for (const path of names.filter((n) => n.startsWith(`${h + 1}/`) && n.endsWith('/lesson.yaml'))) {
      const folder = dirname(path);
      const parts: OPart[] = [];
      for (const part of names.filter((n) => dirname(n) === folder && /\/\d+\.(md|yaml)$/.test(n))) {
        parts.push(await read(part));
      }
      lessons.push({ ...LessonHead.parse(parse(await text(path))), parts });
    }
    filled.push({ ...half, lessons });
  }
  await keepAll(zip, library, (name) => (name.startsWith('library/') ? name.slice('library/'.length) : null));
  const readers = zip.names.includes('readers.yaml') ? (parse(await text('readers.yaml')) as unknown) : [];
  return OBook.parse({ ...head, id, edited: new Date().toISOString(), halves: filled, readers });
}

async function keepAll(zip: Unzipped, library: string, placeOf: (name: string) => string | null): Promise<void> {
  for (const name of zip.names) {
    const place = placeOf(name);
    const bytes = place === null ? null : await zip.bytes(name);
    if (place === null || !bytes) continue;
    await mkdir(dirname(join(library, place)), { recursive: true });
    await writeFile(join(library, place), bytes);
  }
}

/**
 * A cartridge becomes a book of one half. Habits: what lies below a folder is put into one lesson, however deep it lay;
 * pages are read for their words, and pictures are lost; tests and tools are stepped over; everything goes under new keys.
 */
async function bookOfCartridge(zip: Unzipped, id: string, library: string): Promise<{ book: OBook; log: string[] }> {
  const log: string[] = [];
  const xml = async (path: string): Promise<Xml | undefined> => {
    const bytes = await zip.bytes(path);
    return bytes ? parseXml(bytes) : undefined;
  };
  const manifest = one(await xml('imsmanifest.xml'), 'manifest');
  if (!manifest) throw new Error('neither a parcel nor a cartridge');
  const resources = new Map(many(one(manifest, 'resources'), 'resource').map((r) => [attr(r, 'identifier'), r]));
  let count = 0;
  const key = () => `${id}.${++count}`;
  const partOf = async (item: Xml): Promise<OPart[]> => {
    const name = words(one(item, 'title')).trim();
    const inside = (await Promise.all(many(item, 'item').map(partOf))).flat();
    const resource = resources.get(attr(item, 'identifierref'));
    if (!resource) return inside;
    const type = attr(resource, 'type');
    const path = decodeURIComponent(attr(resource, 'href') || attr(many(resource, 'file')[0], 'href'));
    const named = { key: key(), name };
    if (type === 'webcontent' && /\.x?html?$/i.test(path)) {
      const page = ((await zip.bytes(path)) ?? Buffer.alloc(0)).toString('utf8');
      return [{ sort: 'reading', ...named, text: lightOf(page) }, ...inside];
    }
    if (type === 'webcontent') {
      const bytes = await zip.bytes(path);
      if (!bytes) return inside;
      await writeFile(join(library, basename(path)), bytes);
      return [{ sort: 'handout', ...named, file: basename(path) }, ...inside];
    }
    if (type.startsWith('imswl_')) {
      return [{ sort: 'web', ...named, to: attr(one(await xml(path), 'webLink', 'url'), 'href') }, ...inside];
    }
    if (type.startsWith('imsdt_')) {
      return [{ sort: 'talk', ...named, text: lightOf(words(one(await xml(path), 'topic', 'text'))) }, ...inside];
    }
    log.push(`stepped over: ${name} (${type})`);
    return inside;
  };
  const roots = many(one(manifest, 'organizations', 'organization'), 'item');
  const [root] = roots;
  const tops = roots.length === 1 && root && words(one(root, 'title')).trim() === '' ? many(root, 'item') : roots;
  const lessons: OLesson[] = [];
  for (const top of tops) {
    lessons.push({ key: key(), name: words(one(top, 'title')).trim(), from: '', parts: await partOf(top) });
  }
  const questions: OQuestion[] = [];
  for (const resource of [...resources.values()].filter((r) => QUESTION_FILE.test(attr(r, 'type')))) {
    const read = questionOfItem(await xml(decodeURIComponent(attr(resource, 'href'))));
    if (read) questions.push(ownQuestion(read, key()));
    else log.push(`stepped over: ${attr(resource, 'identifier')}, a question of another sort`);
  }
  if (questions.length > 0) {
    const test: OPart = { sort: 'test', key: key(), name: 'Questions', minutes: 0, goes: 0, questions };
    lessons.push({ key: key(), name: 'Questions', from: '', parts: [test] });
  }
  if (/SCORM/i.test(words(one(manifest, 'metadata', 'schema')))) log.push('nothing of it reports to anybody here');
  const title = words(one(manifest, 'metadata', 'lom', 'general', 'title', 'string')) || 'A book';
  const book: OBook = {
    ...{ id, code: '', group: '', year: '', name: title, author: '', about: '', edited: new Date().toISOString() },
    halves: [{ key: key(), name: 'First half', lessons }],
    readers: [],
  };
  return { book, log };
}

function ownQuestion(read: ReadQuestion, key: string): OQuestion {
  return {
    key,
    name: read.label,
    asks: read.ask,
    worth: read.marks,
    sort: ({ one: 'pick', many: 'pick-many', word: 'fill', prose: 'write' } as const)[read.form],
    options: read.options.map((o) => o.text),
    right: read.form === 'word' ? read.words : read.options.flatMap((o, i) => (o.right ? [i + 1] : [])),
    says: null,
  };
}

/** The words of a page in the light mark-up: headings, paragraphs, emphasis; nothing else of it. */
function lightOf(html: string): string {
  const body = /<body[^>]*>([\s\S]*)<\/body>/i.exec(html)?.[1] ?? html;
  return body
    .replace(/<(em|i)\b[^>]*>([\s\S]*?)<\/\1>/gi, '*$2*')
    .replace(/<h1\b[^>]*>/gi, '\n\n# ')
    .replace(/<\/?(p|div|h\d|li|ul|ol|table|tr|br)\b[^>]*>/gi, '\n\n')
    .replace(/<[^>]+>/g, '')
    .replace(/&lt;/g, '<')
    .replace(/&gt;/g, '>')
    .replace(/&amp;/g, '&')
    .replace(/[ \t]+/g, ' ')
    .replace(/ *\n[ \n]*\n */g, '\n\n')
    .trim();
}
