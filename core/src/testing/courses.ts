import fc from 'fast-check';
import { fold } from '../markup/index.ts';
import {
  blankMark,
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

/** Mostly words; now and then a file that is attached is named in the text too. */
const told: fc.Arbitrary<RichText> = fc.oneof(
  { weight: 4, arbitrary: rich },
  {
    weight: 1,
    arbitrary: fc.constant<RichText>({ format: 'html', text: '<p>See <a href="attached/sheet%20one.pdf">it</a></p>' }),
  },
);

const feedback = (keys: readonly ('general' | 'correct' | 'incorrect' | 'hint' | 'solution')[]) =>
  fc.record(Object.fromEntries(keys.map((k) => [k, rich])), { requiredKeys: [] }) as fc.Arbitrary<Question['feedback']>;

const withFiles = (q: Question): Question => ({
  ...q,
  files: q.prompt.text.includes('pictures/plan.png') ? ['pictures/plan.png'] : [],
});

/** Mostly words; now and then a picture is among them. */
const asked: fc.Arbitrary<RichText> = fc.oneof(
  { weight: 5, arbitrary: rich },
  {
    weight: 1,
    arbitrary: words.map((text): RichText => ({
      format: 'html',
      text: `<p>${escape(text)} <img src="pictures/plan.png" alt=""></p>`,
    })),
  },
);

const question = (id: string): fc.Arbitrary<Question> => {
  const common = {
    id: fc.constant(id),
    title: words,
    prompt: asked,
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
  const plainChoices = (min: number, max: number) =>
    fc
      .array(rich, { minLength: min, maxLength: max })
      .map((texts) => texts.map((text, n) => ({ id: `${id}-${n}`, text, correct: false })));
  /** Points for parts: the question is then worth what its best answer gives. */
  const withScores = fc
    .record({ ...common, type: type('choice'), choices: choices(2, 5, 'one'), answers: none, feedback: feedback(all) })
    .map((q) => ({
      ...q,
      points: 7,
      choices: q.choices.map((c, n) => ({ ...c, score: c.correct ? 7 : 1 + (n % 3) })),
    }));
  const addedScores = fc
    .record({
      ...common,
      type: type('multiple response'),
      choices: choices(2, 5, 'some'),
      answers: none,
      feedback: feedback(all),
    })
    .map((q) => ({
      ...q,
      points: 11,
      choices: q.choices.map((c, n) => ({ ...c, score: c.correct ? 1 + (n % 3) : -1 })),
    }));
  const numeric = fc
    .record({ ...common, type: type('numeric'), choices: none, answers: none, feedback: feedback(all) })
    .chain((q) =>
      fc
        .array(fc.record({ value: fc.integer({ min: -999, max: 999 }), by: fc.constantFrom(0, 0.5, 2) }), {
          minLength: 1,
          maxLength: 2,
        })
        .map((keys) => ({
          ...q,
          numbers: keys.map(({ value, by }) => ({ value, low: value - by, high: value + by })),
        })),
    );
  const ordering = fc
    .record({ ...common, type: type('ordering'), choices: plainChoices(2, 5), answers: none, feedback: feedback(all) })
    .chain((q) =>
      fc
        .shuffledSubarray(
          q.choices.map((c) => c.id),
          { minLength: q.choices.length },
        )
        .map((order) => ({ ...q, order })),
    );
  const matching = fc
    .record({
      ...common,
      type: type('matching'),
      choices: plainChoices(2, 4),
      answers: none,
      feedback: feedback(all),
      texts: fc.array(rich, { minLength: 2, maxLength: 4 }),
    })
    .chain(({ texts, ...q }) => {
      const targets = texts.map((text, n) => ({ id: `${id}-t${n}`, text }));
      return fc
        .tuple(
          fc.array(fc.nat(targets.length - 1), { minLength: q.choices.length, maxLength: q.choices.length }),
          fc.boolean(),
        )
        .map(([to, partial]) => ({
          ...q,
          ...(partial ? { points: 20 } : {}),
          targets,
          pairs: q.choices.map((c, n) => ({
            choice: c.id,
            target: targets[to[n] ?? 0]?.id ?? '',
            ...(partial ? { score: 1 + n } : {}),
          })),
        }));
    });
  const associate = fc
    .record({ ...common, type: type('associate'), choices: plainChoices(2, 4), answers: none, feedback: feedback(all) })
    .map((q) => ({ ...q, pairs: [{ choice: q.choices[0]?.id ?? '', target: q.choices[1]?.id ?? '' }] }));
  const gapped = (count: number) => Array.from({ length: count }, (_, n) => `${id}-b${n}`);
  const marked = (texts: readonly string[], ids: readonly string[]) =>
    ids.map((b, n) => `${escape(texts[n] ?? 'gap')} ${blankMark(b)} `).join('') + 'so';
  const cloze = fc
    .record({
      ...common,
      type: type('cloze'),
      choices: none,
      answers: none,
      feedback: feedback(all),
      texts: fc.array(words, { minLength: 1, maxLength: 3 }),
    })
    .chain(({ texts, ...q }) =>
      fc
        .tuple(
          fc.array(answers('equal'), { minLength: texts.length, maxLength: texts.length }),
          choices(2, 3, 'one'),
          fc.boolean(),
        )
        .map(([keys, picks, pick]) => {
          const ids = gapped(texts.length);
          return {
            ...q,
            prompt: { format: 'html' as const, text: `<p>${marked(texts, ids)}</p>` },
            blanks: ids.map((b, n) =>
              pick && n === 0
                ? {
                    id: b,
                    answers: [],
                    choices: picks.map(({ id: own, text, correct }) => ({ id: own, text, correct })),
                  }
                : { id: b, answers: keys[n] ?? [], choices: [] },
            ),
          };
        }),
    );
  const gapMatch = fc
    .record({
      ...common,
      type: type('gap match'),
      choices: plainChoices(2, 3),
      answers: none,
      feedback: feedback(all),
      texts: fc.array(words, { minLength: 1, maxLength: 2 }),
    })
    .map(({ texts, ...q }) => {
      const ids = gapped(texts.length);
      return {
        ...q,
        prompt: { format: 'html' as const, text: `<p>${marked(texts, ids)}</p>` },
        blanks: ids.map((b) => ({ id: b, answers: [], choices: [] })),
        pairs: ids.map((b, n) => ({ choice: q.choices[n]?.id ?? '', target: b })),
      };
    });
  const hotspot = fc
    .record({ ...common, type: type('hotspot'), choices: none, answers: none, feedback: feedback(all) })
    .map((q) => ({
      ...q,
      image: { file: PICTURE, width: 240, height: 150 },
      areas: [
        { id: `${id}-a0`, shape: 'rect' as const, coords: [0, 0, 20, 30], correct: true },
        { id: `${id}-a1`, shape: 'circle' as const, coords: [90, 90, 12], correct: false },
        { id: `${id}-a2`, shape: 'poly' as const, coords: [1, 2, 30, 4, 5, 60], correct: false },
      ],
    }));
  const upload = fc.record({
    ...common,
    type: type('upload'),
    choices: none,
    answers: none,
    feedback: feedback(['general', 'hint', 'solution']),
  });
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
      withScores,
      addedScores,
      numeric,
      ordering,
      matching,
      associate,
      cloze,
      gapMatch,
      hotspot,
      upload,
    )
    .chain((q) => fc.option(words).map((category) => (category === null ? q : { ...q, category })));
};

const questions = (id: string) =>
  fc.nat(3).chain((n) => fc.tuple(...Array.from({ length: n }, (_, i) => question(`${id}-q${i}`).map(withFiles))));

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

/** What hotspots lie on. */
const PICTURE = 'pictures/plan.png';

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
      .map(([title, list, settings]) => plain({ kind: 'quiz', ...base, title, settings, questions: list })),
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
      const folder: OutlineNode = { id: `folder-${i}`, title: titles[i] ?? 'Folder', children: [] };
      open.at(-1)?.push(folder);
      open.push(folder.children);
    } else if (turn === 2 && open.length > 1) open.pop();
    // An outline may call an item otherwise than it calls itself.
    const title = (titles[i] ?? '').length % 4 === 3 ? `${item.title} here` : item.title;
    open.at(-1)?.push({ id: `node-${i}`, title, item: item.id, children: [] });
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
