import fc from 'fast-check';
import { fold } from '../markup/index.ts';
import {
  mediaTypeOf,
  type Course,
  type CourseFile,
  type Item,
  type OutlineNode,
  type Question,
  type RichText,
  type Settings,
} from '../model/index.ts';
import type { Files } from './packages.ts';

/** Generated courses, with the bodies of their files. */
export interface Generated {
  course: Course;
  bodies: Files;
}

// Letters of several scripts and everything that mark-up and spreadsheets trip over.
const letter = fc.constantFrom(...'abcdefghij ŁŚżàêß“”–&<>"\'=+@/;عمΔ😀');
export const words = fc
  .array(letter, { minLength: 1, maxLength: 24 })
  .map((letters) => fold(letters.join('')))
  .filter((text) => text !== '');

const escape = (text: string) => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;');
const rich: fc.Arbitrary<RichText> = fc.oneof(
  words.map((text): RichText => ({ format: 'plain', text })),
  words.map((text): RichText => ({ format: 'html', text: `<p>${escape(text)}</p>` })),
);

const feedback = (keys: readonly ('general' | 'correct' | 'incorrect' | 'hint' | 'solution')[]) =>
  fc.record(Object.fromEntries(keys.map((k) => [k, rich])), { requiredKeys: [] }) as fc.Arbitrary<Question['feedback']>;

const question = (id: string): fc.Arbitrary<Question> => {
  const common = {
    id: fc.constant(id),
    title: words,
    prompt: rich,
    points: fc.option(fc.integer({ min: 1, max: 20 })),
    files: fc.constant<string[]>([]),
  };
  const all = ['general', 'correct', 'incorrect', 'hint', 'solution'] as const;
  const choices = (min: number, max: number, right: 'one' | 'some') =>
    fc.array(fc.record({ text: rich, reply: fc.option(rich) }), { minLength: min, maxLength: max }).chain((list) =>
      (right === 'one'
        ? fc.nat(list.length - 1).map((n) => new Set([n]))
        : fc.subarray([...list.keys()], { minLength: 1 }).map((s) => new Set(s))
      ).map((keys) =>
        list.map(({ text, reply }, i) => ({
          id: `${id}-${i}`,
          text,
          correct: keys.has(i),
          ...(reply === null ? {} : { feedback: reply }),
        })),
      ),
    );
  const answers = (match: 'equal' | 'substring') =>
    fc.array(fc.record({ text: words, caseSensitive: fc.boolean(), match: fc.constant(match) }), {
      minLength: 1,
      maxLength: 3,
    });
  const none = fc.constant<never[]>([]);
  const type = <T extends Question['type']>(t: T) => fc.constant(t);
  return fc
    .oneof(
      fc.record({
        ...common,
        type: type('choice'),
        choices: choices(2, 5, 'one'),
        answers: none,
        feedback: feedback(all),
      }),
      fc.record({
        ...common,
        type: type('multiple response'),
        choices: choices(2, 5, 'some'),
        answers: none,
        feedback: feedback(all),
      }),
      fc.record({
        ...common,
        type: type('true/false'),
        choices: choices(2, 2, 'one'),
        answers: none,
        feedback: feedback(all),
      }),
      fc.record({
        ...common,
        type: type('short answer'),
        choices: none,
        answers: answers('equal'),
        feedback: feedback(all),
      }),
      fc.record({
        ...common,
        type: type('pattern'),
        choices: none,
        answers: answers('substring'),
        feedback: feedback(all),
      }),
      fc.record({
        ...common,
        type: type('essay'),
        choices: none,
        answers: none,
        feedback: feedback(['general', 'hint', 'solution']),
      }),
    )
    .chain((q) => fc.option(words).map((category) => (category === null ? q : { ...q, category })));
};

const questions = (id: string) =>
  fc.nat(3).chain((n) => fc.tuple(...Array.from({ length: n }, (_, i) => question(`${id}-q${i}`))));

const optional = (settings: {
  [K in keyof Settings]?: fc.Arbitrary<NonNullable<Settings[K]>>;
}): fc.Arbitrary<Settings> => fc.record(settings, { requiredKeys: [] });

const roles = {
  audience: fc.constantFrom('Instructor', 'Learner'),
  intendedUse: fc.constantFrom('syllabus', 'lessonplan'),
};

interface Draft {
  item: Item;
  bodies: Files;
}

const ATTACHABLE: Files = { 'attached/sheet one.pdf': 'a sheet', 'attached/Łódź & co.docx': 'a document' };

function draft(n: number): fc.Arbitrary<Draft> {
  const id = `item-${n}`;
  const attachments = fc.subarray(Object.keys(ATTACHABLE), { minLength: 1 });
  const plain = (item: Item): Draft => ({ item, bodies: {} });
  const base = { id, place: null };
  return fc.oneof(
    fc.tuple(words, words, optional(roles)).map(([title, text, settings]): Draft => {
      const file = `pages/${id} x.html`;
      return {
        item: { kind: 'page', ...base, title, settings, file, place: file },
        bodies: { [file]: `<html><body><p>${escape(text)}</p></body></html>` },
      };
    }),
    fc.tuple(words, words, optional(roles)).map(([title, text, settings]): Draft => {
      const file = `files/${id}.pdf`;
      return { item: { kind: 'file', ...base, title, settings, file, place: file }, bodies: { [file]: text } };
    }),
    fc
      .tuple(words, fc.webUrl(), optional({ ...roles, linkTarget: fc.constantFrom('_blank', '_self') }))
      .map(([title, url, settings]) => plain({ kind: 'link', ...base, title, settings, url })),
    fc
      .tuple(
        words,
        words,
        optional({
          vendor: words,
          icon: fc.constant('https://x.example/i.png'),
          customParameters: fc.dictionary(fc.constantFrom('a', 'b', 'c'), words, { minKeys: 1 }),
        }),
      )
      .map(([title, description, settings]) =>
        plain({ kind: 'tool', ...base, title, settings, url: 'https://tool.example/go', description }),
      ),
    fc
      .tuple(
        words,
        rich,
        optional({
          points: fc.integer({ min: 1, max: 100 }),
          submissionFormats: fc.subarray(['file', 'text', 'url'], { minLength: 1 }),
          instructorNotes: words,
          attachments,
        }),
      )
      .map(([title, text, settings]) => plain({ kind: 'assignment', ...base, title, settings, text })),
    fc
      .tuple(words, rich, optional({ attachments }))
      .map(([title, text, settings]) => plain({ kind: 'discussion', ...base, title, settings, text })),
    fc
      .tuple(
        words,
        questions(id),
        optional({
          attempts: fc.integer({ min: 1, max: 9 }),
          timeLimit: fc.integer({ min: 1, max: 90 }),
          instructions: words,
        }),
      )
      .map(([title, list, settings]) => plain({ kind: 'quiz', ...base, title, settings, questions: list })),
    fc
      .tuple(words, questions(id))
      .map(([title, list]) => plain({ kind: 'bank', ...base, title, settings: {}, questions: list })),
  );
}

/** Hangs the items into folders: each one after the last, one deeper, or one out. */
function outlineOf(items: readonly Item[], turns: readonly number[], titles: readonly string[]): OutlineNode[] {
  const root: OutlineNode[] = [];
  const open: OutlineNode[][] = [root];
  items.forEach((item, i) => {
    const turn = turns[i] ?? 0;
    if (turn === 1 && open.length < 4) {
      const folder: OutlineNode = { id: `folder-${i}`, title: titles[i] ?? 'Folder', children: [] };
      open.at(-1)?.push(folder);
      open.push(folder.children);
    } else if (turn === 2 && open.length > 1) open.pop();
    open.at(-1)?.push({ id: `node-${i}`, title: item.title, item: item.id, children: [] });
  });
  return root;
}

export const courses: fc.Arbitrary<Generated> = fc
  .integer({ min: 1, max: 9 })
  .chain((n) =>
    fc.tuple(
      fc.tuple(...Array.from({ length: n }, (_, i) => draft(i))),
      fc.array(fc.nat(2), { minLength: n, maxLength: n }),
      fc.array(words, { minLength: n, maxLength: n }),
      words,
      fc.record(
        {
          description: words,
          rights: words,
          language: fc.constant('en'),
          catalogEntry: words,
          keywords: fc.array(words, { maxLength: 3 }),
        },
        { requiredKeys: ['keywords'] },
      ),
    ),
  )
  .map(([drafts, turns, titles, title, metadata]): Generated => {
    const bodies: Files = { ...ATTACHABLE, 'loose/unused.csv': 'a,b' };
    drafts.forEach((d) => Object.assign(bodies, d.bodies));
    const items = drafts.map((d) => d.item);
    const files = Object.entries(bodies).map(([path, body]): CourseFile => ({
      path,
      size: Buffer.byteLength(body),
      mediaType: mediaTypeOf(path),
      role: 'content',
    }));
    const course: Course = {
      title,
      origin: { format: 'generated', version: '1', untouched: false },
      metadata,
      outline: outlineOf(items, turns, titles),
      items,
      files,
    };
    return { course, bodies };
  });
