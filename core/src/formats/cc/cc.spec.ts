import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import * as z from 'zod';
import { bytesSource, openPackage } from '../../container/index.ts';
import { nodeEngine } from '../../container/node.ts';
import { plainText } from '../../markup/index.ts';
import { inventory, survey } from '../../inspect/index.ts';
import { subjects, walkOutline, type QuestionType } from '../../model/index.ts';
import { cartridge, foreignZipOf, packageOf } from '../../testing/packages.ts';
import { readCourse } from '../index.ts';

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

async function sample(name: string) {
  const path = (suffix: string) => fileURLToPath(new URL(`../../testing/samples/${name}.${suffix}`, import.meta.url));
  const truth = Truth.parse(JSON.parse(readFileSync(path('truth.json'), 'utf8')));
  const pkg = await openPackage(bytesSource(readFileSync(path('imscc'))), { engine: nodeEngine });
  const read = await readCourse(pkg);
  return { truth, pkg, ...(await survey(pkg, read.course, { engine: nodeEngine })), notes: read.notes };
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
      expect(course.title).toBe(truth.metadata.title);
      expect(course.metadata).toEqual({
        language: truth.metadata.language,
        keywords: truth.metadata.keywords,
        description: truth.metadata.description,
        rights: truth.metadata.rights,
        catalogEntry: truth.metadata.identifier,
      });
      expect(counted.unused).toEqual(truth.unusedFiles);
      expect(links.filter((l) => l.state === 'broken').length).toBe(truth.brokenLinks.length);
    });

    it(`${name}: every file with its hash`, async () => {
      const { truth, course } = await sample(name);
      const found = course.files.map((f) => ({ path: f.path, bytes: f.size, sha256: f.sha256 ?? '' })).sort(byPath);
      const told = truth.files
        .filter((f) => f.role !== 'manifest')
        .map(({ path, bytes, sha256 }) => ({ path, bytes, sha256 }))
        .sort(byPath);
      expect(found).toEqual(told);
    });

    it(`${name}: every question with its keys, points and feedback`, async () => {
      const { truth, course } = await sample(name);
      const questions = course.items.flatMap((i) => (i.kind === 'quiz' || i.kind === 'bank' ? i.questions : []));
      expect(questions.length).toBe(truth.questions.length);
      for (const told of truth.questions) {
        const q = questions.find((x) => x.id === told.id);
        if (!q) {
          fail(`no question ${told.id}`);
          continue;
        }
        // The truth counts white space at element borders, which a reader of text does not.
        const squeeze = (text: string) => plainText(text).replace(/ ([?.,])/g, '$1');
        const feedback = (kind: keyof typeof q.feedback) => squeeze(q.feedback[kind]?.text ?? '');
        expect({
          type: q.type,
          title: q.title,
          prompt: squeeze(q.prompt.text),
          points: q.points,
          choices: q.choices.map((c) => plainText(c.text.text)),
          correct: q.choices.filter((c) => c.correct).map((c) => plainText(c.text.text)),
          answers: q.answers,
          category: q.category ?? '',
          images: q.files,
          perChoice: Object.fromEntries(
            q.choices.flatMap((c) => (c.feedback ? [[plainText(c.text.text), squeeze(c.feedback.text)]] : [])),
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
    });
  }
});

const byPath = (a: { path: string }, b: { path: string }) => (a.path < b.path ? -1 : 1);

async function refusal(work: Promise<unknown>): Promise<string> {
  try {
    await work;
  } catch (error) {
    return (error as { problem?: { code?: string } }).problem?.code ?? String(error);
  }
  return 'read';
}

describe('Reading what is wrong', () => {
  const read = async (files: Record<string, string | Uint8Array>) => readCourse(await packageOf(files));

  it('refuses a zip without a manifest', async () => {
    expect(await refusal(read({ 'a.html': 'x' }))).toBe('no-manifest');
  });

  it('refuses a manifest that is not XML, and says the line', async () => {
    try {
      await read({ 'imsmanifest.xml': '<manifest>\n<resources>\n</manifest>' });
      fail('it was read');
    } catch (error) {
      const { problem } = error as { problem: { code: string; line?: number; file?: string } };
      expect(problem.code).toBe('xml-malformed');
      expect(problem.line).toBe(3);
      expect(problem.file).toBe('imsmanifest.xml');
    }
  });

  it('refuses an entity bomb', async () => {
    const bomb = `<?xml version="1.0"?><!DOCTYPE m [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]><manifest>&b;</manifest>`;
    expect(await refusal(read({ 'imsmanifest.xml': bomb }))).toBe('xml-entities');
  });

  it('refuses an entity that nobody declared, and one that names a file', async () => {
    expect(await refusal(read({ 'imsmanifest.xml': '<manifest>&nothing;</manifest>' }))).toBe('xml-malformed');
    const outside = `<!DOCTYPE m [<!ENTITY f SYSTEM "file:///etc/passwd">]><manifest>&f;</manifest>`;
    expect(await refusal(read({ 'imsmanifest.xml': outside }))).toBe('xml-entities');
  });

  it('refuses XML that nests without end', async () => {
    expect(await refusal(read({ 'imsmanifest.xml': '<a>'.repeat(100_000) }))).toBe('xml-depth');
  });

  it('refuses a manifest of another standard', async () => {
    expect(await refusal(read({ 'imsmanifest.xml': '<manifest xmlns="urn:other"/>' }))).toBe('not-a-cartridge');
  });

  it('reports a file that the manifest names and that is not there, and reads the rest', async () => {
    const { course, notes } = await read(
      cartridge({
        resources: '<resource identifier="r2" type="webcontent" href="gone.pdf"><file href="gone.pdf"/></resource>',
      }),
    );
    expect(notes.map((n) => [n.code, n.item, n.line])).toEqual([['file-missing', 'r2', 7]]);
    expect(course.items.map((i) => i.title)).toEqual(['First page']);
  });

  it('reports an outline entry without a resource, and a definition that can not be read, and reads the rest', async () => {
    const { course, notes } = await read(
      cartridge({
        items:
          '<item identifier="i2" identifierref="nowhere"><title>Lost</title></item><item identifier="i3" identifierref="r3"><title>Spoiled</title></item>',
        resources: '<resource identifier="r3" type="imswl_xmlv1p1"><file href="l.xml"/></resource>',
        files: { 'l.xml': '<webLink><title>x' },
      }),
    );
    expect(notes.map((n) => n.code)).toEqual(['resource-missing', 'xml-malformed']);
    expect(subjects(course).map((s) => [s.kind, s.title])).toEqual([
      ['page', 'First page'],
      ['foreign', 'Spoiled'],
    ]);
  });

  it('keeps what it does not understand as foreign', async () => {
    const { course, notes } = await read(
      cartridge({
        resources: '<resource identifier="r9" type="x/thing"><file href="thing.bin"/></resource>',
        files: { 'thing.bin': 'bytes' },
      }),
    );
    expect(notes.map((n) => n.code)).toEqual(['foreign-part']);
    expect(course.items.find((i) => i.id === 'r9')).toEqual(
      jasmine.objectContaining({ kind: 'foreign', type: 'x/thing', files: ['thing.bin'] } as never),
    );
  });

  it('reads UTF-16 and names that differ in case or are percent-encoded', async () => {
    const files = cartridge({
      resources:
        '<resource identifier="r2" type="webcontent" href="My%20File.PDF"><file href="My%20File.PDF"/></resource>',
      items: '<item identifier="i2" identifierref="r2"><title>Łódź</title></item>',
      files: { 'my file.pdf': 'x' },
    });
    const text = String(files['imsmanifest.xml']).replace('UTF-8', 'UTF-16');
    const utf16 = Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from(text, 'utf16le')]);
    const { course, notes } = await read({ ...files, 'imsmanifest.xml': utf16 });
    expect(course.items.map((i) => i.title)).toEqual(['First page', 'Łódź']);
    expect(notes.every((n) => n.code === 'name-case')).toBeTrue();
  });

  it('reads what another zip program wrote, with data descriptors, stored or deflated', async () => {
    for (const compress of [true, false]) {
      const pkg = await openPackage(bytesSource(await foreignZipOf(cartridge(), compress)));
      expect((await readCourse(pkg)).course.items.length).toBe(1);
    }
  });
});
