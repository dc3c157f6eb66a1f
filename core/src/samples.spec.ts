import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import * as z from 'zod';
import { compare } from './compare/index.ts';
import { bytesSource, openPackage } from './container/index.ts';
import { nodeEngine } from './container/node.ts';
import { declaredLosses, profileOn, type Line } from './fit/index.ts';
import { TARGETS, openCourse, readCourse, targetById, writePackage } from './formats/index.ts';
import { memorySink } from './testing/packages.ts';
import { inventory, survey } from './inspect/index.ts';
import { plainText } from './markup/index.ts';
import { partsOf, walkOutline, type Course, type QuestionType } from './model/index.ts';

const Truth = z.object({
  title: z.string().optional(),
  counts: z.object({
    pages: z.number(),
    folders: z.number(),
    items: z.number(),
    webLinks: z.number(),
    ltiLinks: z.number(),
    discussions: z.number(),
    assignments: z.number(),
    quizzes: z.number(),
    questionBanks: z.number(),
    questions: z.number(),
  }),
  files: z.array(z.object({ path: z.string(), bytes: z.number(), sha256: z.string(), role: z.string() })),
  questions: z.array(
    z.object({
      id: z.string(),
      type: z.string(),
      title: z.string(),
      prompt: z.string(),
      points: z.number(),
      choices: z.array(z.string()),
      correct: z.array(z.string()),
      answers: z.array(
        z.object({ text: z.string(), caseSensitive: z.boolean(), match: z.enum(['equal', 'substring']) }),
      ),
      feedback: z.object({
        general: z.string(),
        correct: z.string(),
        incorrect: z.string(),
        hint: z.string(),
        solution: z.string(),
        perChoice: z.record(z.string(), z.string()),
      }),
      category: z.string(),
      images: z.array(z.string()),
    }),
  ),
  metadata: z.object({
    title: z.string(),
    language: z.string(),
    keywords: z.array(z.string()),
    description: z.string(),
    rights: z.string(),
    identifier: z.string(),
  }),
  unusedFiles: z.array(z.string()),
  brokenLinks: z.array(z.unknown()),
  outline: z.array(z.unknown()),
  scos: z.array(z.object({ title: z.string(), path: z.string() })).optional(),
});

const TYPES: Record<string, QuestionType> = {
  multiple_choice: 'choice',
  multiple_response: 'multiple response',
  true_false: 'true/false',
  fill_in_blank: 'short answer',
  pattern_match: 'pattern',
  essay: 'essay',
};

interface TruthNode {
  title: string;
  children: TruthNode[];
}
const titlesOf = (nodes: readonly TruthNode[], depth = 0): string[] =>
  nodes.flatMap((n) => [`${depth} ${n.title}`, ...titlesOf(n.children, depth + 1)]);

async function sample(name: string, extension = 'imscc') {
  const path = (suffix: string) => fileURLToPath(new URL(`./testing/samples/${name}.${suffix}`, import.meta.url));
  const truth = Truth.parse(JSON.parse(readFileSync(path('truth.json'), 'utf8')));
  const pkg = await openPackage(bytesSource(readFileSync(path(extension))), { engine: nodeEngine });
  const read = await readCourse(pkg);
  return { truth, pkg, ...(await survey(pkg, read.course, { engine: nodeEngine })), notes: read.notes };
}

// The truth counts white space at element borders, which a reader of text does not.
const squeeze = (text: string) => plainText(text).replace(/ ([?.,])/g, '$1');

function expectQuestions(course: Course, truth: z.infer<typeof Truth>): void {
  const questions = course.items.flatMap((i) => (i.kind === 'quiz' || i.kind === 'bank' ? i.questions : []));
  expect(questions.length).toBe(truth.questions.length);
  for (const told of truth.questions) {
    const q = questions.find((x) => x.id === told.id);
    if (!q) {
      fail(`no question ${told.id}`);
      continue;
    }
    const { choices, answers } = partsOf(q);
    const feedback = (kind: keyof typeof q.feedback) => squeeze(q.feedback[kind]?.text ?? '');
    expect({
      type: q.type,
      title: q.title,
      prompt: squeeze(q.prompt.text),
      points: q.points,
      choices: choices.map((c) => plainText(c.text.text)),
      correct: choices.filter((c) => c.correct).map((c) => plainText(c.text.text)),
      answers,
      category: q.category ?? '',
      images: q.files,
      perChoice: Object.fromEntries(
        choices.flatMap((c) => (c.feedback ? [[plainText(c.text.text), squeeze(c.feedback.text)]] : [])),
      ),
      general: feedback('general'),
      right: feedback('correct'),
      wrong: feedback('incorrect'),
      hint: feedback('hint'),
      solution: feedback('solution'),
    }).toEqual({
      type: TYPES[told.type] ?? 'foreign',
      title: told.title,
      prompt: told.prompt.replace(/ ([?.,])/g, '$1'),
      points: told.points,
      choices: told.choices,
      correct: told.correct,
      answers: told.answers,
      category: told.category,
      images: told.images,
      perChoice: told.feedback.perChoice,
      general: told.feedback.general,
      right: told.feedback.correct,
      wrong: told.feedback.incorrect,
      hint: told.feedback.hint,
      solution: told.feedback.solution,
    });
  }
}

function expectFiles(course: Course, truth: z.infer<typeof Truth>): void {
  const found = course.files.map((f) => ({ path: f.path, bytes: f.size, sha256: f.sha256 ?? '' })).sort(byPath);
  const told = truth.files
    .filter((f) => f.role !== 'manifest')
    .map(({ path, bytes, sha256 }) => ({ path, bytes, sha256 }))
    .sort(byPath);
  expect(found).toEqual(told);
}

function expectMetadata(course: Course, truth: z.infer<typeof Truth>): void {
  expect(course.title).toBe(truth.metadata.title);
  expect(course.metadata).toEqual({
    language: truth.metadata.language,
    keywords: truth.metadata.keywords,
    description: truth.metadata.description,
    rights: truth.metadata.rights,
    catalogEntry: truth.metadata.identifier,
  });
}

describe('Reading Common Cartridge packages made by another hand', () => {
  for (const name of ['pair-hedge-cc11', 'pair-hedge-cc13']) {
    it(`${name}: counts, outline and metadata`, async () => {
      const { truth, course, links, notes } = await sample(name);
      expect(notes).toEqual([]);
      const counted = inventory(course, links);
      const of = (kind: string) => counted.kinds.find((k) => k.kind === kind)?.items ?? 0;
      expect({
        pages: of('page'),
        folders: counted.folders,
        items: counted.entries,
        webLinks: of('link'),
        ltiLinks: of('tool'),
        discussions: of('discussion'),
        assignments: of('assignment'),
        quizzes: of('quiz'),
        questionBanks: of('bank'),
        questions: counted.questions.reduce((n, q) => n + q.count, 0),
      }).toEqual(truth.counts);
      expect([...walkOutline(course.outline)].map((p) => `${p.depth} ${p.node.title}`)).toEqual(
        titlesOf(truth.outline as TruthNode[]),
      );
      expectMetadata(course, truth);
      expect(counted.unused).toEqual(truth.unusedFiles);
      expect(links.filter((l) => l.state === 'broken').length).toBe(truth.brokenLinks.length);
    });

    it(`${name}: every file with its hash`, async () => {
      const { truth, course } = await sample(name);
      expectFiles(course, truth);
    });

    it(`${name}: every question with its keys, points and feedback`, async () => {
      const { truth, course } = await sample(name);
      expectQuestions(course, truth);
    });
  }
});

const byPath = (a: { path: string }, b: { path: string }) => (a.path < b.path ? -1 : 1);

describe('Reading packages of questions made by another hand', () => {
  for (const [name, version] of [
    ['pair-hedge-qti12', '1.2'],
    ['pair-hedge-qti21', '2.1'],
  ] as const) {
    it(`${name}: quizzes, questions, files and metadata`, async () => {
      const { truth, course, notes } = await sample(name, 'zip');
      expect(notes).toEqual([]);
      const alsoAs = version === '1.2' ? {} : { alsoAs: ['2.2', '3.0'] };
      expect(course.origin).toEqual({ format: 'qti', version, untouched: true, ...alsoAs });
      expectMetadata(course, truth);
      expectFiles(course, truth);
      expectQuestions(course, truth);
      const quizzes = course.items.flatMap((i) => (i.kind === 'quiz' ? [i] : []));
      expect(quizzes.map((q) => [q.title, q.questions.length, q.settings.timeLimit])).toEqual([
        ['Hedge-laying check', 7, 40],
      ]);
    });
  }
});

describe('Reading SCORM packages made by another hand', () => {
  for (const [name, format, version] of [
    ['pair-hedge-scorm12', 'scorm', '1.2'],
    ['pair-hedge-scorm2004', 'scorm', '2004 4th Edition'],
  ] as const) {
    it(`${name}: outline, what reports, files and metadata`, async () => {
      const { truth, course, links, notes } = await sample(name, 'zip');
      expect(notes).toEqual([]);
      expect(course.origin).toEqual({ format, version, untouched: true });
      expectMetadata(course, truth);
      expectFiles(course, truth);
      expect([...walkOutline(course.outline)].map((p) => `${p.depth} ${p.node.title}`)).toEqual(
        titlesOf(truth.outline as TruthNode[]),
      );
      const counted = inventory(course, links);
      expect([counted.folders, counted.entries, counted.unused]).toEqual([
        truth.counts.folders,
        truth.counts.items,
        truth.unusedFiles,
      ]);
      const tracked = course.items.filter((i) => i.settings.tracked === true);
      expect(tracked.map((i) => `${i.title} ${i.definitionPath}`).sort()).toEqual(
        (truth.scos ?? []).map((sco) => `${sco.title} ${sco.path}`).sort(),
      );
    });
  }
});

describe('Converting packages made by another hand', () => {
  for (const [from, extension] of [
    ['pair-hedge-cc13', 'imscc'],
    ['pair-hedge-qti12', 'zip'],
    ['pair-hedge-qti21', 'zip'],
  ] as const) {
    for (const to of ['qti12', 'qti21', 'qti22', 'qti30', 'cc11', 'cc12', 'cc13']) {
      it(`${from} as ${to}: every question keeps its words, keys, points, feedback and pictures`, async () => {
        const { truth, pkg, course } = await sample(from, extension);
        const { format, target } = targetById(to);
        const sink = memorySink();
        await writePackage(target, await format.plan(course, target, pkg), pkg, sink, { engine: nodeEngine });
        const written = await openPackage(bytesSource(sink.bytes()), { engine: nodeEngine });
        const read = await readCourse(written);
        const again = await survey(written, read.course, { engine: nodeEngine });
        expect([...read.notes, ...again.notes].filter((n) => n.weight === 'warning')).toEqual([]);
        expectQuestions(again.course, truth);
      });
    }
  }

  for (const [from, extension] of [
    ['pair-hedge-cc11', 'imscc'],
    ['pair-hedge-cc13', 'imscc'],
    ['pair-hedge-qti12', 'zip'],
    ['pair-hedge-qti21', 'zip'],
    ['pair-hedge-scorm12', 'zip'],
    ['pair-hedge-scorm2004', 'zip'],
  ] as const) {
    it(`${from}: in every format, what is lost is exactly what was declared`, async () => {
      const { pkg, course } = await sample(from, extension);
      const asked = course.items.some((i) => i.kind === 'quiz' || i.kind === 'bank');
      const targets = TARGETS.filter((t) => asked || !t.id.startsWith('qti'));
      expect(targets.length).toBeGreaterThan(12);
      for (const target of targets) {
        const { format } = targetById(target.id);
        const sink = memorySink();
        await writePackage(target, await format.plan(course, target, pkg), pkg, sink, { engine: nodeEngine });
        const written = await openCourse(bytesSource(sink.bytes()), { engine: nodeEngine });
        const back = (await survey(written, (await readCourse(written)).course, { engine: nodeEngine })).course;
        const words = (lines: readonly Line[]) =>
          lines
            .filter((l) => l.outcome !== 'whole')
            .map(({ title, outcome, settings }) => {
              const lost = settings.filter((s) => s.outcome !== 'whole').map((s) => s.name);
              return `${title}: ${outcome} ${lost.sort().join(', ')}`;
            });
        expect(words(compare(course, back).lines))
          .withContext(target.id)
          .toEqual(words(declaredLosses(course, profileOn(course, target))));
      }
    });
  }
});
