import fc from 'fast-check';
import {
  blankMark,
  limitsOf,
  mapParts,
  partsOf,
  type NumberKey,
  type Question,
  type QuestionOf,
  type RichText,
  type SimpleQuestion,
} from '../model/index.ts';

import { escape, rich, words } from './texts.ts';

/** Generated questions. */

/** What hotspots lie on. */
export const PICTURE = 'pictures/plan.png';

/** Mostly words; now and then a file that is attached is named in the text too. */
export const told: fc.Arbitrary<RichText> = fc.oneof(
  { weight: 4, arbitrary: rich },
  {
    weight: 1,
    arbitrary: fc.constant<RichText>({ format: 'html', text: '<p>See <a href="attached/sheet%20one.pdf">it</a></p>' }),
  },
);

const feedback = (keys: readonly ('general' | 'correct' | 'incorrect' | 'hint' | 'solution')[]) =>
  fc.record(Object.fromEntries(keys.map((k) => [k, rich])), { requiredKeys: [] }) as fc.Arbitrary<Question['feedback']>;

const withFiles = <Q extends Question>(q: Q): Q => {
  const inside = mapParts(q, { subquestions: (list) => list.map(withFiles) });
  const prompts = [q, ...partsOf(q).subquestions].map((one) => one.prompt.text).join('');
  return { ...inside, files: prompts.includes('pictures/plan.png') ? ['pictures/plan.png'] : [] };
};

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

interface MadeNumber {
  value: number;
  by: number;
  open: NumberKey['open'] | undefined;
  tolerance: NumberKey['tolerance'] | undefined;
}

function numberKey({ value, by, open, tolerance }: MadeNumber): NumberKey {
  const width = tolerance === 'relative' ? (Math.abs(value) * by) / 100 : by;
  const isRange = width > 0;
  return {
    value,
    low: value - width,
    high: value + width,
    ...(isRange && open ? { open } : {}),
    ...(isRange && tolerance ? { tolerance } : {}),
  };
}

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
    fc.uniqueArray(fc.record({ text: words, caseSensitive: fc.boolean(), match: fc.constant(match) }), {
      minLength: 1,
      maxLength: 3,
      selector: (answer) => answer.text,
    });
  /** Now and then something is said to one of them. */
  const replied = <T extends object>(list: fc.Arbitrary<T[]>): fc.Arbitrary<(T & { feedback?: RichText })[]> =>
    fc
      .tuple(list, fc.option(rich, { freq: 2 }))
      .map(([keys, feedback]) => keys.map((key, n) => (n === 0 && feedback ? { ...key, feedback } : key)));
  const type = <T extends Question['type']>(t: T) => fc.constant(t);
  const plainChoices = (min: number, max: number) =>
    fc
      .array(rich, { minLength: min, maxLength: max })
      .map((texts) => texts.map((text, n) => ({ id: `${id}-${n}`, text, correct: false })));
  /** Points for parts: the question is then worth what its best answer gives. */
  const withScores = fc
    .record({ ...common, type: type('choice'), choices: choices(2, 5, 'one'), feedback: feedback(all) })
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
      feedback: feedback(all),
    })
    .chain((q) => {
      const choices = q.choices.map((c, n) => ({ ...c, score: c.correct ? 1 + (n % 3) : -1 }));
      const limit = (value: number) => fc.option(fc.constant(value), { nil: undefined });
      return fc
        .record({ others: limit(-2), least: limit(0), most: limit(1) })
        .map((limits) =>
          limitsOf(
            choices.map((c) => c.score),
            false,
            limits,
          ),
        )
        .map((scoring) => ({ ...q, points: 11, choices, ...(scoring ? { scoring } : {}) }));
    });
  const numeric = fc.record({ ...common, type: type('numeric'), feedback: feedback(all) }).chain((q) =>
    replied(
      fc
        .uniqueArray(
          fc.record({
            value: fc.integer({ min: -999, max: 999 }),
            by: fc.constantFrom(0, 0.5, 2),
            open: fc.constantFrom(undefined, 'low' as const, 'high' as const, 'both' as const),
            tolerance: fc.constantFrom(undefined, 'absolute' as const, 'relative' as const),
          }),
          { minLength: 1, maxLength: 2, selector: (key) => key.value },
        )
        .map((keys) => keys.map(numberKey)),
    ).chain((numbers) =>
      fc
        .constantFrom(undefined, { low: -1000, high: 1000 }, { low: -1000.5, high: 1000, step: 0.5 })
        .map((range) => ({ ...q, numbers, ...(range ? { asked: { by: ['slider' as const], range } } : {}) })),
    ),
  );
  const ordering = fc
    .record({ ...common, type: type('ordering'), choices: plainChoices(2, 5), feedback: feedback(all) })
    .chain((q) =>
      fc
        .shuffledSubarray(
          q.choices.map((c) => c.id),
          { minLength: q.choices.length },
        )
        // What stands in its order already is never shown so.
        .map((order) => ({
          ...q,
          order,
          ...(order.every((id, i) => q.choices[i]?.id === id) ? { shuffled: true as const } : {}),
        })),
    );
  const matching = fc
    .record({
      ...common,
      type: type('matching'),
      choices: plainChoices(2, 4),
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
    .record({ ...common, type: type('associate'), choices: plainChoices(2, 4), feedback: feedback(all) })
    .map((q) => ({ ...q, pairs: [{ choice: q.choices[0]?.id ?? '', target: q.choices[1]?.id ?? '' }] }));
  const gapped = (count: number) => Array.from({ length: count }, (_, n) => `${id}-b${n}`);
  const marked = (texts: readonly string[], ids: readonly string[]) =>
    ids.map((b, n) => `${escape(texts[n] ?? 'gap')} ${blankMark(b)} `).join('') + 'so';
  const cloze = fc
    .record({
      ...common,
      type: type('cloze'),
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
  const hotspot = fc.record({ ...common, type: type('hotspot'), feedback: feedback(all) }).map((q) => ({
    ...q,
    image: { file: PICTURE, width: 240, height: 150 },
    areas: [
      { id: `${id}-a0`, shape: 'rect' as const, coords: [0, 0, 20, 30], correct: true },
      { id: `${id}-a1`, shape: 'circle' as const, coords: [90, 90, 12], correct: false },
      { id: `${id}-a2`, shape: 'poly' as const, coords: [1, 2, 30, 4, 5, 60], correct: false },
    ],
  }));
  /** Points set anywhere: each place is right, and they are called by their number. */
  const pointing = fc
    .tuple(fc.record({ ...common, type: type('hotspot'), feedback: feedback(all) }), fc.integer({ min: 1, max: 3 }))
    .map(([q, many]) => ({
      ...q,
      points: 6,
      asked: { by: ['pointing' as const] },
      image: { file: PICTURE, width: 240, height: 150 },
      areas: [
        { shape: 'rect' as const, coords: [0, 0, 20, 30] },
        { shape: 'circle' as const, coords: [90, 90, 12] },
        { shape: 'poly' as const, coords: [100, 2, 140, 4, 120, 60] },
      ]
        .slice(0, many)
        .map((area, i) => ({
          id: `area-${i + 1}`,
          ...area,
          correct: true,
          ...(many === 1 ? {} : { score: 6 / many }),
        })),
    }));
  const upload = fc.record({
    ...common,
    type: type('upload'),
    feedback: feedback(['general', 'hint', 'solution']),
  });
  /** What asks one thing, as a part of a question: without what belongs to the whole. */
  const part = (n: number, made: fc.Arbitrary<SimpleQuestion>, points: number | null) =>
    made.map((q): SimpleQuestion => ({ ...q, id: `${id}-p${n}`, title: '', feedback: {}, points, files: [] }));
  const choosing = fc.record({
    ...common,
    type: type('choice'),
    choices: choices(2, 4, 'one'),
    feedback: fc.constant({}),
  });
  const inWords = (q: QuestionOf<'short answer'>) => ({ ...q, prompt: { format: 'html' as const, text: '' } });
  const entered = fc
    .record({ ...common, type: type('short answer'), answers: replied(answers('equal')), feedback: fc.constant({}) })
    .map(inWords);
  const picked = fc.record({ ...common, choices: choices(2, 3, 'one') }).map(({ choices: all, ...q }) => ({
    ...q,
    type: 'cloze' as const,
    feedback: {},
    prompt: { format: 'html' as const, text: blankMark(`${id}-p2`) },
    blanks: [
      { id: `${id}-p2`, answers: [], choices: all.map(({ id: own, text, correct }) => ({ id: own, text, correct })) },
    ],
  }));
  const written = fc.record({ ...common, type: type('essay'), feedback: fc.constant({}) });
  /** Points for each part, or for all of them together. */
  const severalParts = fc
    .tuple(fc.boolean(), fc.boolean())
    .chain(([together, few]) => {
      const points = together ? null : 3;
      const second: fc.Arbitrary<SimpleQuestion> = fc.oneof(entered, ordering, hotspot, associate);
      const asked = [
        part(0, choosing, points),
        part(1, second, points),
        part(2, picked, points),
        part(3, written, null),
      ];
      return fc.record({
        ...common,
        type: type('several parts'),
        feedback: feedback(all),
        subquestions: fc.tuple(...(few ? asked.slice(0, 2) : asked)),
      });
    })
    .map((q) => ({
      ...q,
      points: q.points ?? 6,
      prompt: {
        format: 'html' as const,
        text: `<p>First</p>${q.subquestions.map((p) => `<div>${blankMark(p.id)}</div>`).join('')}<p>so</p>`,
      },
    }));
  return fc
    .oneof(
      severalParts,
      fc.record({
        ...common,
        type: type('choice'),
        choices: choices(2, 5, 'one'),
        feedback: feedback(all),
      }),
      fc.record({
        ...common,
        type: type('multiple response'),
        choices: choices(2, 5, 'some'),
        feedback: feedback(all),
      }),
      fc.record({
        ...common,
        type: type('true/false'),
        choices: choices(2, 2, 'one'),
        feedback: feedback(all),
      }),
      fc.record({
        ...common,
        type: type('short answer'),
        answers: replied(answers('equal')),
        feedback: feedback(all),
      }),
      fc.record({
        ...common,
        type: type('pattern'),
        answers: replied(answers('substring')),
        feedback: feedback(all),
      }),
      fc.record({
        ...common,
        type: type('essay'),
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
      pointing,
      upload,
    )
    .chain((q) =>
      fc.tuple(fc.option(words), fc.boolean()).map(([category, shuffled]) => ({
        ...q,
        ...(category === null ? {} : { category }),
        ...(shuffled && 'choices' in q ? { shuffled: true as const } : {}),
      })),
    );
};

export const questions = (id: string) =>
  fc.nat(3).chain((n) => fc.tuple(...Array.from({ length: n }, (_, i) => question(`${id}-q${i}`).map(withFiles))));
