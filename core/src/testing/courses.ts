import fc from 'fast-check';
import {
  isLedTo,
  kindOf,
  momentOf,
  itemAddress,
  mediaTypeOf,
  type Condition,
  type Course,
  type CourseFile,
  type Item,
  type OutlineNode,
  type RichText,
  type ItemOf,
  type Question,
  type Section,
  type Settings,
} from '../model/index.ts';
import { courseSettings, SMALL_LOM, WHOLE_LOM } from './metadata.ts';
import type { Files } from './packages.ts';
import { PICTURE, told, questions } from './questions.ts';
import { words, escape, rich } from './texts.ts';

/** Generated courses, with the bodies of their files. */
export interface Generated {
  course: Course;
  bodies: Files;
}

const optional = (settings: {
  [K in keyof Settings]?: fc.Arbitrary<NonNullable<Settings[K]>>;
}): fc.Arbitrary<Settings> => fc.record(settings, { requiredKeys: [] });

const roles = {
  description: words,
  keywords: fc.uniqueArray(words, { minLength: 1, maxLength: 2 }),
  standards: fc.constant<Record<string, string>>({ 'guid-1': 'Reads a tide table' }),
  variants: fc.constant<string[]>(['item-0']),
  audience: fc.constantFrom('Instructor', 'Learner'),
  intendedUse: fc.constantFrom('syllabus', 'lessonplan'),
};

/** What SCORM and Content Packaging say of a page or file in the outline. */
const shown = {
  tracked: fc.constant(true),
  prerequisites: fc.constantFrom('node-0', 'node-0&node-1'),
  masteryScore: fc.integer({ min: 1, max: 100 }),
  launchData: words,
  timeAllowed: fc.constantFrom('PT30M', 'PT1H5M', 'PT20S'),
  timeLimitAction: fc.constantFrom('exit,message', 'continue,no message'),
  attempts: fc.integer({ min: 1, max: 9 }),
  completionThreshold: fc.constantFrom('0.5', '1.0'),
  sequencing: fc.constant<string[]>(['preConditionRule: skip if satisfied']),
  parameters: fc.constantFrom('?n=1', '#part'),
  hidden: fc.constant(true),
  lom: fc.constantFrom(SMALL_LOM, WHOLE_LOM),
};
/** Most pages are of no such package. */
const pageSettings = fc.oneof(
  { weight: 3, arbitrary: optional(roles) },
  { weight: 1, arbitrary: optional({ ...roles, ...shown }) },
);

/** Banks and what says something with a table are under no rule. */
function withSettings({ item, bodies }: Draft, settings: Settings): Draft {
  return item.kind === 'bank'
    ? { item, bodies }
    : { item: { ...item, settings: { ...settings, ...item.settings } }, bodies };
}

interface Draft {
  item: Item;
  bodies: Files;
}

const ATTACHABLE: Files = { 'attached/sheet one.pdf': 'a sheet', 'attached/Łódź & co.docx': 'a document' };

function draft(n: number): fc.Arbitrary<Draft> {
  const id = `item-${n}`;
  const attachments = fc.subarray(Object.keys(ATTACHABLE), { minLength: 1 });
  const plain = (item: Item): Draft => ({ item, bodies: {} });
  const base = { id, definitionPath: null };
  return fc.oneof(
    fc.tuple(words, words, pageSettings).map(([title, text, settings]): Draft => {
      const file = `pages/${id} x.html`;
      return {
        item: { kind: 'page', ...base, title, settings, file, definitionPath: file },
        bodies: { [file]: `<html><body><p>${escape(text)}</p></body></html>` },
      };
    }),
    fc.tuple(words, words, pageSettings).map(([title, text, settings]): Draft => {
      const file = `files/${id}.pdf`;
      return { item: { kind: 'file', ...base, title, settings, file, definitionPath: file }, bodies: { [file]: text } };
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
        told,
        optional({
          points: fc.integer({ min: 1, max: 100 }),
          submissionFormats: fc.subarray(['file', 'text', 'url'], { minLength: 1 }),
          instructorNotes: words,
          instructorAttachments: fc.subarray(Object.keys(ATTACHABLE), { minLength: 1 }),
          attachments,
        }),
      )
      .map(([title, text, settings]) => plain({ kind: 'assignment', ...base, title, settings, text })),
    fc
      .tuple(words, told, optional({ attachments }))
      .map(([title, text, settings]) => plain({ kind: 'discussion', ...base, title, settings, text })),
    fc
      .tuple(
        words,
        questions(id),
        optional({
          attempts: fc.oneof(fc.integer({ min: 1, max: 9 }), fc.constant('unlimited')),
          timeLimit: fc.integer({ min: 1, max: 90 }),
          instructions: words,
          description: words,
          draws: fc.constantFrom<Record<string, string>>({ 'item-0': '3' }, { 'item-1': 'all' }),
        }),
      )
      .map(([title, list, settings]) => {
        const quiz: ItemOf<'quiz'> = {
          kind: 'quiz',
          ...base,
          title,
          settings,
          questions: askedTwice(list, title.length % 4 === 2),
        };
        return plain(title.length % 3 === 1 ? inSections(quiz) : quiz);
      }),
    fc
      .tuple(words, rich, fc.array(fc.tuple(words, told, fc.boolean()), { minLength: 1, maxLength: 3 }))
      .map(([title, text, list]) => {
        const entries = list.map(([term, definition, shown]) => {
          return { term, definition, pictures: shown ? [PICTURE] : [] };
        });
        return plain({ kind: 'glossary', ...base, title, settings: {}, text, entries });
      }),
    fc
      .tuple(words, questions(id))
      .map(([title, list]) => plain({ kind: 'bank', ...base, title, settings: {}, questions: list })),
  );
}

/** What only a platform's own archive holds: dates, conditions and locks. */
const rules = optional({
  opens: fc.constantFrom(momentOf('2026-09-14T08:00:00Z'), momentOf('2026-09-14T08:00')),
  due: fc.constantFrom(momentOf('2026-10-01T16:00:00Z'), momentOf('2026-10-01')),
  visibleWhen: fc.array(
    fc.oneof(
      fc
        .tuple(fc.constantFrom('at least' as const, 'below' as const), fc.constantFrom(0, 50, 62.5, 100))
        .map(([side, percent]): Condition => ({ is: 'score', item: 'item-0', side, percent })),
      fc.integer({ min: 1, max: 9 }).map((days): Condition => ({ is: 'not visited', item: 'item-1', days })),
      fc.constant<Condition>({ is: 'unread', words: 'when the tide is out' }),
    ),
    { minLength: 1, maxLength: 3 },
  ),
  doneWhen: fc.constant('passed'),
  password: words,
  lockdown: fc.constant(true),
  onlyFor: fc.constant('group-a'),
});

/** Kinds that say something beside what learners go through. */
function besideDraft(n: number): fc.Arbitrary<Draft> {
  const none: RichText = { format: 'plain', text: '' };
  const base = (title: string, settings: Settings = {}) => ({
    id: `item-${n}`,
    definitionPath: null,
    title,
    settings,
    text: none,
  });
  const kinds: fc.Arbitrary<Item>[] = [
    fc.tuple(words, rich).map(([title, text]) => {
      return { kind: 'announcement', ...base(title, { posted: momentOf('2026-09-01T08:00:00Z') }), text };
    }),
    fc.tuple(words, words).map(([title, text]) => {
      const settings = { opens: momentOf('2026-09-20T08:00:00Z'), closes: momentOf('2026-09-20T10:00:00Z') };
      return { kind: 'event', ...base(title, settings), text: { format: 'plain', text } };
    }),
    fc.tuple(words, fc.array(words, { minLength: 1, maxLength: 3 })).map(([title, steps]) => {
      return { kind: 'checklist', ...base(title), steps };
    }),
    fc
      .tuple(
        words,
        words,
        fc.constantFrom<Condition>(
          { is: 'score', item: 'item-0', side: 'below', percent: 62.5 },
          { is: 'absent', times: 3 },
          { is: 'not visited', item: 'item-1', days: 7 },
          { is: 'unread', words: 'at low water' },
        ),
      )
      .map(([title, text, rule]) => {
        const settings: Settings = { visibleWhen: [rule], audience: 'tutor' };
        return { kind: 'automation', ...base(title, settings), text: { format: 'plain', text } };
      }),
    words.map((title) => {
      const marks = [
        { code: 'H', label: 'Here', percent: 100 },
        { code: 'L', label: 'Late', percent: 50 },
      ];
      return { kind: 'attendance', ...base(title, { sessions: [momentOf('2026-09-14')] }), marks };
    }),
    fc.tuple(words, words).map(([title, text]) => {
      const criteria = [
        {
          title: 'Care',
          levels: [
            { title: 'Good', points: 5, text },
            { title: 'Poor', points: 1, text },
          ],
        },
        { title: 'Speed', levels: [{ title: 'Good', points: 3, text }] },
      ];
      return { kind: 'rubric', ...base(title), criteria };
    }),
    words.map((title) => ({ kind: 'groups', ...base(title), names: ['group-a', 'group-b'] })),
    words.map((title) => ({ kind: 'category', ...base(title, { weight: 40, dropLowest: 1, equalPoints: true }) })),
    words.map((title) => {
      const settings = { points: 10, category: 'item-0', gradesItem: 'item-1', bonus: true };
      return { kind: 'column', ...base(title, settings) };
    }),
  ];
  return fc.oneof(...kinds).map((item): Draft => ({ item, bodies: {} }));
}

/** The first question may be asked once more at the end. */
function askedTwice(questions: readonly Question[], isTwice: boolean): Question[] {
  return isTwice ? [...questions, ...questions.slice(0, 1)] : [...questions];
}

/** A quiz whose questions stand in sections, one of them within another. */
function inSections(quiz: ItemOf<'quiz'>): ItemOf<'quiz'> {
  const [first, second, ...others] = quiz.questions.map((q) => q.id);
  if (first === undefined || second === undefined) return quiz;
  const inner: Section = { id: 's2', title: 'Inner', shuffled: true, parts: [second] };
  const outer: Section = { id: 's1', title: quiz.title, text: '<p>Read this first.</p>', parts: [first, inner] };
  const rest: Section[] = others.length > 0 ? [{ id: 's3', title: 'The rest', parts: others }] : [];
  return { ...quiz, settings: { ...quiz.settings, sections: [outer, ...rest] } };
}

const FOLDER_SETTINGS: readonly (Settings | null)[] = [
  null,
  { hidden: true },
  { description: 'What this part is about', lom: SMALL_LOM },
  { opens: { is: 'wall', at: '2026-10-05T08:00' }, visibleWhen: [{ is: 'unread', words: 'after the first week' }] },
];

const PLACE_SETTINGS: readonly (Settings | null)[] = [
  null,
  { hidden: true },
  { masteryScore: 65, parameters: '?chapter=2' },
  { prerequisites: 'node-0' },
  { due: { is: 'day', on: '2026-11-02' } },
];

/** Hangs the items into folders: each one after the last, one deeper, or one out. */
function outlineOf(items: readonly Item[], turns: readonly number[], titles: readonly string[]): OutlineNode[] {
  const root: OutlineNode[] = [];
  const open: OutlineNode[][] = [root];
  items.forEach((item, i) => {
    if (!kindOf(item).content) return;
    // Most banks stand in no place of it.
    if (item.kind === 'bank' && (titles[i] ?? '').length % 3 > 0) return;
    const turn = turns[i] ?? 0;
    if (turn === 1 && open.length < 4) {
      const title = titles[i] ?? 'Folder';
      const settings = FOLDER_SETTINGS[title.length % FOLDER_SETTINGS.length];
      const folder: OutlineNode = { id: `folder-${i}`, title, ...(settings ? { settings } : {}), children: [] };
      open.at(-1)?.push(folder);
      open.push(folder.children);
    } else if (turn === 2 && open.length > 1) open.pop();
    // An outline may call an item otherwise than it calls itself.
    const title = (titles[i] ?? '').length % 4 === 3 ? `${item.title} here` : item.title;
    const node: OutlineNode = { id: `node-${i}`, title, item: item.id, children: [] };
    open.at(-1)?.push(node);
    // Some stand a second time, under a name and settings of that place.
    if (title.length % 5 === 2) {
      const settings = PLACE_SETTINGS[title.length % PLACE_SETTINGS.length];
      const again = { id: `again-${i}`, title: `${title} again`, item: item.id, children: [] };
      root.push(settings ? { ...again, settings } : again);
    }
    // In some there hangs what comes after.
    if (title.length % 5 === 4 && open.length < 4) open.push(node.children);
  });
  return root;
}

/** A text that leads to the item before it, where that is one that has no page or file of its own. */
function leadingOn({ item, bodies }: Draft, before: Draft | undefined): Draft {
  if (!before || !isLedTo(before.item)) return { item, bodies };
  const link = `<p>Then <a href="${itemAddress(before.item.id)}">go on</a></p>`;
  if (item.kind === 'page') {
    const page = bodies[item.file];
    const text = typeof page === 'string' ? page.replace('</body>', `${link}</body>`) : '';
    return { item, bodies: { ...bodies, [item.file]: text } };
  }
  if (item.kind !== 'assignment' && item.kind !== 'discussion') return { item, bodies };
  return {
    item: { ...item, text: { format: 'html', text: item.text.format === 'html' ? item.text.text + link : link } },
    bodies,
  };
}

export const courses: fc.Arbitrary<Generated> = fc
  .integer({ min: 1, max: 9 })
  .chain((n) =>
    fc.tuple(
      fc.tuple(
        ...Array.from({ length: n }, (_, i) =>
          fc.oneof(
            { weight: 8, arbitrary: draft(i) },
            { weight: 1, arbitrary: fc.tuple(draft(i), rules).map(([d, r]) => withSettings(d, r)) },
            { weight: 2, arbitrary: besideDraft(i) },
          ),
        ),
      ),
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
  .map(([given, turns, titles, title, metadata]): Generated => {
    const drafts = given.map((draft, i) => leadingOn(draft, given[turns[i] === 2 ? i - 1 : -1]));
    const bodies: Files = { ...ATTACHABLE, [PICTURE]: 'a picture', 'loose/unused.csv': 'a,b' };
    drafts.forEach((d) => Object.assign(bodies, d.bodies));
    const items = drafts.map((d) => d.item);
    const files = Object.entries(bodies).map(([path, body]): CourseFile => ({
      path,
      size: Buffer.byteLength(body),
      mediaType: mediaTypeOf(path),
      role: 'content',
    }));
    const settings = courseSettings(title);
    const course: Course = {
      ...(settings ? { settings } : {}),
      title,
      origin: { format: 'generated', version: '1', untouched: false },
      // Who has an identifier in a catalogue is known by the first of them.
      metadata: settings?.lom?.general ? { ...metadata, catalogEntry: 'X 1' } : metadata,
      outline: outlineOf(items, turns, titles),
      items,
      files,
    };
    return { course, bodies };
  });
