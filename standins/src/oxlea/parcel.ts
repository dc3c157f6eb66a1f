import { createWriteStream } from 'node:fs';
import { rename } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { stringify } from 'yaml';
import yazl from 'yazl';
import { cutDown, type OAsk, type OBook, type OPart } from './model.ts';

/**
 * Oxlea's own archive: folders of lessons with their texts in a light mark-up (CommonMark) below a head in YAML, tests
 * and readers as YAML beside them, the library's files as they are.
 */
export async function writeParcel(book: OBook, library: string, ask: OAsk, target: string): Promise<void> {
  const zip = new yazl.ZipFile();
  const put = (path: string, text: string) => zip.addBuffer(Buffer.from(text), path);
  const used = new Set<string>();
  put(
    'book.yaml',
    stringify({
      oxlea: 2,
      code: book.code,
      group: book.group,
      year: book.year,
      name: book.name,
      author: book.author,
      about: book.about,
      halves: book.halves.map((half) => ({ ...half, lessons: undefined })),
    }),
  );
  // Folders bear the places that lessons have in the whole book.
  const chosen = new Map(
    cutDown(book, ask)
      .halves.flatMap((h) => h.lessons)
      .map((lesson) => [lesson.key, lesson]),
  );
  for (const [h, half] of book.halves.entries()) {
    for (const [l, whole] of half.lessons.entries()) {
      const lesson = chosen.get(whole.key);
      if (!lesson) continue;
      const folder = `${h + 1}/${String(l + 1).padStart(2, '0')}`;
      put(`${folder}/lesson.yaml`, stringify({ ...lesson, parts: undefined }));
      for (const [p, part] of lesson.parts.entries()) {
        const at = `${folder}/${String(p + 1).padStart(2, '0')}`;
        if (part.sort === 'handout') used.add(part.file);
        put(...textOf(part, at));
      }
    }
  }
  if (ask.readers) put('readers.yaml', stringify(book.readers));
  for (const file of used) zip.addFile(join(library, file), `library/${file}`);
  zip.end();
  const half = `${target}.part`;
  await pipeline(zip.outputStream, createWriteStream(half));
  await rename(half, target);
}

function textOf(part: OPart, at: string): [string, string] {
  if (!('text' in part)) return [`${at}.yaml`, stringify(part)];
  const { text, ...head } = part;
  return [`${at}.md`, `---\n${stringify(head)}---\n${text}\n`];
}
