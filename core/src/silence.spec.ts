import { readFileSync, readdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import fc from 'fast-check';
import assert from 'node:assert/strict';
import { bytesSource, openPackage } from './container/index.ts';
import { nodeEngine } from './container/node.ts';
import { declaredLosses, profileOn } from './fit/index.ts';
import { TARGETS, openCourse, planPackage, readCourse, targetById, writePackage } from './formats/index.ts';
import { inventory, survey } from './inspect/index.ts';
import { decodeText, openTagsWith } from './markup/index.ts';
import { subjects, type Course } from './model/index.ts';
import { courses } from './testing/courses.ts';
import { memorySink, packageOf, zipOf } from './testing/packages.ts';

/** Nothing of a package is passed over in silence: what no reader knows is told, wherever it stands. */

const FOLDER = fileURLToPath(new URL('./testing/samples/', import.meta.url));

/** A package as its entries. */
type Entries = Record<string, Uint8Array>;

async function entriesOf(bytes: Uint8Array): Promise<Entries> {
  const pkg = await openPackage(bytesSource(bytes), { engine: nodeEngine });
  const entries: Entries = {};
  for (const path of pkg.entries.keys()) entries[path] = await pkg.bytes(path);
  return entries;
}

const SAMPLES = await Promise.all(
  readdirSync(FOLDER)
    .filter((name) => /\.(imscc|zip)$/.test(name))
    .map((name) => entriesOf(new Uint8Array(readFileSync(FOLDER + name)))),
);

/** Targets whose packages are XML by the standards. */
const WRITTEN = TARGETS.filter((t) => /^(cc|cp|scorm|qti|thin)/.test(t.id));

async function made(targetId: string, seed: number): Promise<Entries | null> {
  const [generated] = fc.sample(courses, { numRuns: 1, seed });
  if (!generated) return null;
  const { course, bodies } = generated;
  if (targetId.startsWith('qti') && !course.items.some((i) => i.kind === 'quiz' || i.kind === 'bank')) return null;
  const { format, target } = targetById(targetId);
  const source = await packageOf(bodies);
  const sent = (await survey(source, course, { engine: nodeEngine })).course;
  const sink = memorySink();
  await writePackage(target, await planPackage(format, sent, target, source), source, sink, { engine: nodeEngine });
  return entriesOf(sink.bytes());
}

const ELEMENT = '<zz:surprise xmlns:zz="urn:zz" how="1">unheard of</zz:surprise>';

/** The text with something in it that no standard knows: in the n-th element, or as one of its attributes. */
function surprised(text: string, n: number, how: 'element' | 'attribute'): { text: string; at: string } | null {
  const tags = [...openTagsWith(text, /</g)];
  const place = tags[n % Math.max(1, tags.length)];
  if (!place) return null;
  const { start, tag } = place;
  const end = start + tag.length;
  const name = /^<([^\s/>]+)/.exec(tag)?.[1] ?? '';
  if (how === 'attribute') {
    const at = start + 1 + name.length;
    return { text: `${text.slice(0, at)} xmlns:zz="urn:zz" zz:surprise="1"${text.slice(at)}`, at: name };
  }
  if (tag.endsWith('/>')) {
    return { text: `${text.slice(0, end - 2)}>${ELEMENT}</${name}>${text.slice(end)}`, at: name };
  }
  return { text: text.slice(0, end) + ELEMENT + text.slice(end), at: name };
}

async function readOf(entries: Entries) {
  const bytes = await zipOf(entries);
  const pkg = await openCourse(bytesSource(bytes), { engine: nodeEngine });
  const { course, notes } = await readCourse(pkg);
  return { course, notes };
}

/** Whether the course holds it as text: what a reader carries as mark-up, it has read. */
const holds = ({ title, metadata, settings, outline, items }: Course) =>
  /surprise|unheard of/.test(
    JSON.stringify([
      title,
      metadata,
      outline,
      items.map((i) => ({ ...i, settings: { ...i.settings, unread: [] } })),
      { ...settings, unread: [] },
    ]),
  );

/** How much is told that was not read. */
const told = (course: Course) => (inventory(course).unread ?? []).reduce((sum, u) => sum + u.times, 0);

/** Every file that readers parse. */
const isDefinition = (path: string, text: string) => /\.xml$/i.test(path) && text.trimStart().startsWith('<');

describe('Silence', () => {
  const surprises = fc.record({
    file: fc.nat(),
    at: fc.nat({ max: 5000 }),
    how: fc.constantFrom('element' as const, 'attribute' as const),
  });

  async function check(
    entries: Entries,
    { file, at, how }: { file: number; at: number; how: 'element' | 'attribute' },
  ) {
    const before = await readOf(entries);
    const paths = Object.keys(entries).filter((p) => isDefinition(p, decodeText(entries[p] ?? new Uint8Array())));
    const path = paths[file % paths.length];
    if (path === undefined) return;
    const changed = surprised(decodeText(entries[path] ?? new Uint8Array()), at, how);
    if (!changed) return;
    const after = await readOf({ ...entries, [path]: new TextEncoder().encode(changed.text) });
    // A file that nothing leads to is carried as it is.
    const isRead = !after.course.files.some((f) => f.path === path && f.role === 'content');
    if (!isRead || holds(after.course)) return;
    // A paragraph that held nothing but what is answered is no paragraph any more.
    if (how === 'attribute' && /^(p|div)$/.test(changed.at)) return;
    // What is around it may not be what it was any more, and is told too.
    const isWithin = inventory(after.course).unread?.some((u) => u.name === changed.at.replace(/^.*:/, ''));
    assert.ok(isWithin || told(after.course) > told(before.course), `${how} in ${changed.at} of ${path}`);
    // Every target that writes it anew declares it.
    for (const target of TARGETS) {
      const profile = profileOn(after.course, target);
      if (profile === null || target.passthrough?.(after.course.origin) === 'definitions') continue;
      const lost = declaredLosses(after.course, profile).some(
        (line) =>
          line.outcome === 'left behind' || line.settings.some((s) => s.name === 'unread' && s.outcome !== 'whole'),
      );
      assert.ok(lost, `${target.id} does not declare it`);
    }
  }

  it('is kept of nothing in packages made by another hand', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat({ max: SAMPLES.length - 1 }), surprises, async (sample, surprise) => {
        await check(SAMPLES[sample] ?? {}, surprise);
      }),
      { numRuns: Number(process.env['TREENAIL_LAW_RUNS'] ?? 60) },
    );
    expect().nothing();
  });

  it('is kept of nothing in packages that Treenail wrote, of which nothing is left unread', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...WRITTEN.map((t) => t.id)),
        fc.nat(),
        surprises,
        async (id, seed, surprise) => {
          const entries = await made(id, seed);
          if (!entries) return;
          const { course } = await readOf(entries);
          assert.deepEqual(
            subjects(course).flatMap((s) => s.settings.unread ?? []),
            [],
          );
          await check(entries, surprise);
        },
      ),
      { numRuns: Number(process.env['TREENAIL_LAW_RUNS'] ?? 50) },
    );
    expect().nothing();
  });
});
