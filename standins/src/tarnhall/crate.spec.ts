import assert from 'node:assert/strict';
import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import * as fc from 'fast-check';
import { writeCrate } from './crate.ts';
import { unpack } from './importer.ts';
import type { TEntry, TFile, TQuestion, TSpace } from './model.ts';

const words = fc.string({ minLength: 1, maxLength: 20 });

/** Numbers as no generated text holds them: an identifier is told from a text that reads the same. */
const FILES = 910_001;
const ENTRIES = 920_001;
const LATER = 930_001;

const question = (key: string): fc.Arbitrary<TQuestion> =>
  fc.record({
    key: fc.constant(key),
    label: words,
    form: fc.constantFrom('one' as const, 'many' as const, 'word' as const, 'prose' as const),
    ask: words.map((text) => `<p>${text}</p>`),
    marks: fc.integer({ min: 1, max: 9 }),
    options: fc.array(fc.record({ key: words, text: words, right: fc.boolean(), reply: fc.option(words) }), {
      maxLength: 3,
    }),
    words: fc.array(fc.record({ text: words, strict: fc.boolean() }), { maxLength: 2 }),
    replies: fc.record({ any: fc.option(words), right: fc.option(words), wrong: fc.option(words) }),
  });
const questions = fc.array(words, { maxLength: 3 }).chain((keys) => fc.tuple(...keys.map((_, i) => question(`q${i}`))));

const space: fc.Arbitrary<{ space: TSpace; bodies: string[] }> = fc
  .record({
    bodies: fc.array(words, { maxLength: 4 }),
    units: fc.array(fc.array(fc.tuple(words, questions, fc.boolean(), fc.nat()), { maxLength: 4 }), { maxLength: 4 }),
    pools: fc.array(questions, { maxLength: 2 }),
    origins: fc.boolean(),
  })
  .map(({ bodies, units, pools, origins }) => {
    const files = bodies.map((body, i): TFile => ({
      id: `f${FILES + i}`,
      path: `file ${i + 1}.txt`,
      bytes: Buffer.byteLength(body),
      sha256: '',
      media: 'text/plain',
    }));
    let n = ENTRIES;
    const ids = units.map((entries) => entries.map(() => `e${n++}`));
    const all = ids.flat();
    const entry = (id: string, [title, asks, attached, at]: [string, TQuestion[], boolean, number]): TEntry => ({
      id,
      sort: asks.length > 0 ? 'test' : 'text',
      title,
      origin: origins ? `origin-${id}` : null,
      // One text speaks of another entry, and of a file.
      body: `<a href="entry:${all[at % all.length] ?? id}">there</a>${files.length > 0 ? `<img src="held:f${FILES + (at % files.length)}">` : ''}`,
      url: '',
      file: null,
      files: attached ? files.slice(0, 2).map((f) => f.id) : [],
      marks: at % 2 === 0 ? null : at,
      ways: [],
      tries: null,
      minutes: null,
      questions: asks,
    });
    return {
      bodies,
      space: {
        id: 's1',
        code: 'X 1',
        section: '01',
        term: 'Autumn 2026',
        title: 'A space',
        keeper: '',
        remark: '',
        changedAt: '',
        about: null,
        units: units.map((entries, u) => ({
          id: `u${u + 1}`,
          title: `Unit ${u + 1}`,
          origin: origins ? `unit-${u}` : null,
          entries: entries.map((one, i) => entry(ids[u]?.[i] ?? '', one)),
        })),
        pools: pools.map((asks, p) => ({ id: `p${p + 1}`, title: `Pool ${p + 1}`, origin: null, questions: asks })),
        files,
        people: [{ name: 'Ana Willet', part: 'learner' }],
        work: [],
        shut: false,
        turn: 0,
        cleared: [],
      },
    };
  });

/** What a space holds, whatever its parts are called in it. */
function held({ units, pools, files }: TSpace): string {
  const called = new Map<string, string>();
  const name = (id: string) => {
    if (!called.has(id)) called.set(id, `${id.slice(0, 1)}#${called.size}`);
    return called.get(id) ?? id;
  };
  for (const file of files) name(file.id);
  for (const unit of units) for (const { id } of unit.entries) name(id);
  return JSON.stringify([units, pools, files.map((f) => ({ ...f, sha256: '' }))])
    .replace(/(?<=["':])([fe]9\d{5})(?=["'\\])/g, (id: string) => name(id))
    .replace(/"id":"[up]\d+"/g, '"id":""');
}

describe('A crate', () => {
  it('unpacked into the space that was cleared gives what was there, whatever it was', async () => {
    const root = await mkdtemp(join(tmpdir(), 'crate-'));
    let run = 0;
    try {
      await fc.assert(
        fc.asyncProperty(space, async ({ space: before, bodies }) => {
          const folder = join(root, String(run++));
          const at = join(folder, 'files');
          await mkdir(at, { recursive: true });
          await Promise.all(bodies.map((body, i) => writeFile(join(at, `f${FILES + i}`), body)));
          const crate = join(folder, 'crate.zip');
          await writeCrate(before, at, crate);
          const after: TSpace = structuredClone({ ...before, units: [], pools: [], files: [] });
          let next = LATER;
          const log: string[] = [];
          await unpack(crate, after, join(folder, 'again'), (kind) => `${kind}${next++}`, {
            started: () => undefined,
            step: () => Promise.resolve(),
            log: (line) => void log.push(line),
          });
          // Thrown, so that the smallest space that breaks it is looked for and told.
          assert.equal(held(after), held(before));
          assert.deepEqual(after.people, before.people);
          assert.deepEqual(
            log.filter((line) => !/^T-(100|900)/.test(line)),
            [],
          );
        }),
        { numRuns: 200 },
      );
      expect().nothing();
    } finally {
      await rm(root, { recursive: true, force: true });
    }
  });
});
