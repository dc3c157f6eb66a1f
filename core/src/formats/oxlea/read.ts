import * as z from 'zod';
import type { Package } from '../../container/index.ts';
import { decodeText, escapeXml, readHtml } from '../../markup/index.ts';
import {
  momentOf,
  Refusal,
  problem,
  remark,
  warning,
  type Item,
  type Note,
  type OutlineNode,
  questionOf,
  type Question,
} from '../../model/index.ts';
import { filesIn, html, settingsOf } from '../archive/parts.ts';
import type { ReadResult } from '../format.ts';
import { resolveReference } from '../references.ts';
import { htmlOf, parted, yamlOf } from '../archive/texts.ts';
import { BOOK, readingPath } from './unpack.ts';

const named = {
  key: z.string(),
  name: z.string(),
  /** The key is the identifier that the thing came with. */
  own: z.boolean().default(false),
};
/** How a text is written: in a light mark-up (CommonMark), or as HTML. */
const form = z.enum(['light', 'html']).default('light');
/** What stands in it stands beside its like, in its place. */
const loose = z.boolean().default(false);
const Book = z.looseObject({
  oxlea: z.number(),
  code: z.string(),
  group: z.string().default(''),
  year: z.string().default(''),
  name: z.string(),
  about: z.string().default(''),
  rights: z.string().optional(),
  language: z.string().optional(),
  words: z.array(z.string()).default([]),
  halves: z.array(z.object({ ...named, loose })),
});
const Lesson = z.looseObject({ ...named, loose, from: z.string().nullish() });
const OxQuestion = z.object({
  ...named,
  form,
  asks: z.string(),
  worth: z.number().nullable(),
  sort: z.enum(['pick', 'pick-many', 'true-false', 'fill', 'write']),
  options: z.array(z.string()),
  right: z.array(z.union([z.number(), z.string()])),
  /** Places of the words that count only as they are written. */
  exact: z.array(z.number()).default([]),
  says: z.string().nullable(),
  /** What is said beside: of a question to write on after it, of others as the answer in full. */
  other: z.string().optional(),
});
const Part = z.discriminatedUnion('sort', [
  z.object({ ...named, sort: z.literal('reading') }),
  z.object({ ...named, sort: z.literal('line') }),
  z.object({ ...named, sort: z.literal('talk'), form }),
  z.object({ ...named, sort: z.literal('piece'), form, worth: z.number().nullable(), by: z.string().nullish() }),
  z.object({ ...named, sort: z.literal('handout'), file: z.string() }),
  z.object({ ...named, sort: z.literal('web'), to: z.string() }),
  z.object({
    ...named,
    sort: z.literal('test'),
    minutes: z.number().nullable(),
    goes: z.number().nullable(),
    questions: z.array(OxQuestion),
  }),
]);
type Part = z.infer<typeof Part>;

/** Reads an Oxlea parcel: two halves of lessons, each of parts in the order of their names. */
export async function readOxlea(pkg: Package): Promise<ReadResult> {
  const notes: Note[] = [...pkg.notes];
  const yaml = async (path: string) => yamlOf(decodeText(await pkg.bytes(path)), path);
  const book = checked(Book, await yaml(BOOK), BOOK);
  const items: Item[] = [];
  const paths = [...pkg.entries.keys()].sort();
  const lessons = paths.filter((p) => /^\d+\/\d+\/lesson\.yaml$/.test(p));
  const outline: OutlineNode[] = [];
  for (const [h, half] of book.halves.entries()) {
    const children: OutlineNode[] = [];
    for (const path of lessons.filter((p) => p.startsWith(`${h + 1}/`))) {
      const lesson = checked(Lesson, await yaml(path), path);
      const folder = path.slice(0, -'lesson.yaml'.length);
      const inside: OutlineNode[] = [];
      for (const at of paths.filter((p) => p.startsWith(folder) && /\/\d+\.(md|yaml)$/.test(p))) {
        const item = await itemAt(pkg, at, notes);
        if (!item) continue;
        if (!('kind' in item)) {
          inside.push(item);
          continue;
        }
        if (lesson.from) item.settings.opens = momentOf(lesson.from);
        items.push(item);
        inside.push({ id: `i-${item.id}`, title: item.title, item: item.id, children: [] });
      }
      if (lesson.loose) children.push(...inside);
      else children.push({ id: `i-${lesson.key}`, title: lesson.name, children: inside });
    }
    if (half.loose) outline.push(...children);
    else outline.push({ id: `i-${half.key}`, title: half.name, children });
  }
  const readers = pkg.entries.has('readers.yaml') ? z.array(z.unknown()).safeParse(await yaml('readers.yaml')) : null;
  const people = readers?.success ? readers.data.length : 0;
  return {
    course: {
      title: book.name,
      origin: { format: 'oxlea', version: String(book.oxlea), untouched: true },
      identity: { id: '', code: book.code, section: book.group, term: book.year },
      metadata: {
        keywords: book.words,
        ...(book.about ? { description: book.about } : {}),
        ...(book.code ? { catalogEntry: book.code } : {}),
        ...(book.rights === undefined ? {} : { rights: book.rights }),
        ...(book.language === undefined ? {} : { language: book.language }),
      },
      outline,
      items,
      files: filesIn(pkg, (path) => /\.(yaml|md)$/.test(path)),
      ...(people > 0 ? { personal: { people, submissions: 0, grades: 0, posts: 0, files: ['readers.yaml'] } } : {}),
    },
    notes,
  };
}

function checked<S extends z.ZodType>(schema: S, value: unknown, path: string): z.infer<S> {
  const read = schema.safeParse(value);
  if (read.success) return read.data;
  throw new Refusal(
    problem(
      'archive-damaged',
      `${path} does not hold what it should: ${z.prettifyError(read.error)}`,
      {
        file: path,
      },
      'Export it again.',
    ),
  );
}

async function itemAt(pkg: Package, path: string, notes: Note[]): Promise<Item | OutlineNode | null> {
  const text = decodeText(await pkg.bytes(path));
  const { head, body } = path.endsWith('.md') ? parted(text, path) : { head: yamlOf(text, path), body: '' };
  const part = Part.safeParse(head);
  if (!part.success) {
    notes.push(
      remark('foreign-record', `${path} is of a sort that is not understood.`, {
        file: path,
      }),
    );
    return null;
  }
  const { data } = part;
  if (data.sort === 'line') return { id: data.key, title: data.name, heading: true, children: [] };
  return itemOf(pkg, data, path, body, notes);
}

function itemOf(
  pkg: Package,
  part: Exclude<Part, { sort: 'line' }>,
  path: string,
  body: string,
  notes: Note[],
): Item | null {
  // The identifiers under which Oxlea's standard export names the same things.
  const common = { id: part.own ? part.key : `ox-${part.key}`, title: part.name, definitionPath: path };
  switch (part.sort) {
    case 'reading':
      return { kind: 'page', ...common, file: readingPath(path), definitionPath: readingPath(path), settings: {} };
    case 'talk':
      return { kind: 'discussion', ...common, text: html(part.form === 'html' ? body : htmlOf(body)), settings: {} };
    case 'piece':
      return {
        kind: 'assignment',
        ...common,
        text: html(part.form === 'html' ? body : htmlOf(body)),
        settings: settingsOf({ points: part.worth, due: part.by ? momentOf(part.by) : null }),
      };
    case 'web':
      return { kind: 'link', ...common, url: part.to, settings: {} };
    case 'test':
      return {
        kind: 'quiz',
        ...common,
        settings: settingsOf({ attempts: part.goes, timeLimit: part.minutes }),
        questions: part.questions.map((q) => oxQuestion(q, pkg, path)),
      };
    case 'handout': {
      const file = `library/${part.file}`;
      if (pkg.entries.has(file)) return { kind: 'file', ...common, file, definitionPath: file, settings: {} };
      notes.push(
        warning('file-missing', `The library has no ${part.file}.`, {
          file: path,
          item: part.name,
        }),
      );
      return null;
    }
  }
}

const TYPES: Record<z.infer<typeof OxQuestion>['sort'], Question['type']> = {
  pick: 'choice',
  'pick-many': 'multiple response',
  'true-false': 'true/false',
  fill: 'short answer',
  write: 'essay',
};

function oxQuestion(q: z.infer<typeof OxQuestion>, pkg: Package, path: string): Question {
  const isHtml = q.form === 'html';
  const text = (words: string) => html(isHtml ? words : escapeXml(words));
  const [general, solution] = q.sort === 'write' ? [q.other, q.says] : [q.says, q.other];
  const shown = [q.asks, ...q.options].flatMap((words) => (isHtml ? readHtml(words).links : []));
  const files = shown.flatMap(({ value }) => resolveReference((p) => pkg.entries.has(p), path, value) ?? []);
  const common = {
    id: q.key,
    title: q.name,
    prompt: isHtml ? html(q.asks) : html(`<p>${escapeXml(q.asks)}</p>`),
    points: q.worth,
    feedback: {
      ...(general == null ? {} : { general: text(general) }),
      ...(solution == null ? {} : { solution: text(solution) }),
    },
    files: [...new Set(files)],
  };
  return questionOf(TYPES[q.sort], common, {
    choices: q.options.map((words, i) => ({
      id: `${q.key}-${i + 1}`,
      text: text(words),
      correct: q.right.includes(i + 1),
    })),
    answers: q.right.flatMap((r, i) =>
      typeof r === 'string' ? [{ text: r, caseSensitive: q.exact.includes(i + 1), match: 'equal' as const }] : [],
    ),
  });
}
