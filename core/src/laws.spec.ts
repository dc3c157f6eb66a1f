import fc from 'fast-check';
import assert from 'node:assert/strict';
import { compare, filterJoint, foldJoint, jointOfCheck, jointOfForecast } from './compare/index.ts';
import { bytesSource, collect, openPackage } from './container/index.ts';
import { nodeEngine } from './container/node.ts';
import { forecast, declaredLosses, profileOn } from './fit/index.ts';
import { TARGETS, openCourse, planPackage, readCourse, targetById, writePackage } from './formats/index.ts';
import { survey } from './inspect/index.ts';
import { SETTINGS, isSet, settingOf, subjects, type Course, type Profile } from './model/index.ts';
import { courses, type Generated } from './testing/courses.ts';
import { memorySink, packageOf } from './testing/packages.ts';

/** More rounds find rarer things: `TREENAIL_LAW_RUNS=2000 npm run test --workspace core`. */
const options = { numRuns: Number(process.env['TREENAIL_LAW_RUNS'] ?? 60) };

async function throughFormat({ course, bodies }: Generated, targetId: string) {
  const { format, target } = targetById(targetId);
  const source = await packageOf(bodies);
  const sent = (await survey(source, course, { engine: nodeEngine })).course;
  const sink = memorySink();
  await writePackage(target, await planPackage(format, sent, target, source), source, sink, { engine: nodeEngine });
  const pkg = await openCourse(bytesSource(sink.bytes()), { engine: nodeEngine });
  const read = await readCourse(pkg);
  const surveyed = await survey(pkg, read.course, { engine: nodeEngine });
  const bytes = sink.bytes();
  return { sent, target, pkg, bytes, read: surveyed.course, notes: [...read.notes, ...surveyed.notes] };
}

/** Entries as they were written; of what is no zip, as they are unpacked. */
function asWritten(bytes: Uint8Array) {
  const open = bytes[0] === 0x50 ? openPackage : openCourse;
  return open(bytesSource(bytes), { engine: nodeEngine });
}

const lossesOf = (
  lines: readonly { source: string | null; outcome: string; settings: { name: string; outcome: string }[] }[],
) =>
  lines
    .filter((l) => l.outcome !== 'whole')
    .map((l) => ({
      source: l.source,
      outcome: l.outcome,
      settings: l.settings
        .filter((s) => s.outcome !== 'whole')
        .map((s) => s.name)
        .sort(),
    }));

/** A course of which something is set on one side only is named on both. */
const both = (a: Course, b: Course) => ({ withCourse: isSet(a) || isSet(b) });

/** Without what JSON does not say: prototypes, and properties that are not there. */
const plain = (value: unknown): unknown => JSON.parse(JSON.stringify(value));

/** A harsh destination, so that the forecast has something to say of most courses. */
const HARSH: Profile = {
  id: 'harsh',
  label: 'Harsh',
  version: 1,
  kinds: {
    tool: { carry: 'never', reason: 'no tools' },
    discussion: { carry: 'as', ways: [{ as: 'page', reason: 'no discussions', drops: ['attachments'] }] },
  },
  settings: { quiz: { timeLimit: 'no clocks' }, page: { audience: 'everyone sees all' } },
  questions: {
    pattern: { carry: 'as', as: 'short answer', reason: 'no patterns' },
    essay: { carry: 'never', reason: 'no essays' },
  },
  questionParts: { hint: 'no hints' },
  limits: { folderDepth: { at: 1, reason: 'flat' }, titleLength: { at: 12, reason: 'short' } },
};

/** A package of questions can't be made of a course that has none. */
function canBeWritten({ course }: Generated, targetId: string): boolean {
  return !targetId.startsWith('qti') || course.items.some((i) => i.kind === 'quiz' || i.kind === 'bank');
}

describe('The laws of the course model', () => {
  for (const { id } of TARGETS) {
    it(`reading what was written as ${id} gives the course, up to exactly the losses declared`, async () => {
      await fc.assert(
        fc.asyncProperty(courses, async (generated) => {
          fc.pre(canBeWritten(generated, id));
          const { sent, target, read, notes } = await throughFormat(generated, id);
          // Thrown, so that the smallest course that breaks the law is looked for and told. That an archive is no zip is
          // said of every one.
          assert.deepEqual(
            notes.filter((n) => n.code !== 'archive'),
            [],
          );
          assert.equal(read.title, sent.title);
          assert.deepEqual(plain(read.metadata), plain(sent.metadata));
          const found = compare(sent, read);
          assert.deepEqual(lossesOf(found.lines), lossesOf(declaredLosses(sent, target.profile)));
        }),
        options,
      );
      expect().nothing();
    });

    it(`writing ${id} to the same version keeps every entry byte for byte`, async () => {
      await fc.assert(
        fc.asyncProperty(courses, async (generated) => {
          fc.pre(canBeWritten(generated, id));
          const { pkg, bytes, read, target } = await throughFormat(generated, id);
          // What goes on as it came loses nothing.
          if (target.passthrough) expect(profileOn(read, target)).toBeNull();
          const before = await asWritten(bytes);
          const sink = memorySink();
          const { format } = targetById(id);
          await writePackage(target, await planPackage(format, read, target, pkg), pkg, sink, { engine: nodeEngine });
          const again = await asWritten(sink.bytes());
          expect([...again.entries.keys()]).toEqual([...before.entries.keys()]);
          for (const path of before.entries.keys()) {
            expect(await collect(again.stream(path))).toEqual(await collect(before.stream(path)));
          }
        }),
        { numRuns: 20 },
      );
    });
  }

  it('going to the other version and back loses nothing but what the way there declared', async () => {
    await fc.assert(
      fc.asyncProperty(courses, async (generated) => {
        const { pkg, read } = await throughFormat(generated, 'cc13');
        const there = targetById('cc11');
        const sink = memorySink();
        await writePackage(there.target, await planPackage(there.format, read, there.target, pkg), pkg, sink, {
          engine: nodeEngine,
        });
        const old = await openPackage(bytesSource(sink.bytes()), { engine: nodeEngine });
        const back = await readCourse(old);
        const surveyed = await survey(old, back.course, { engine: nodeEngine });
        expect([...back.notes, ...surveyed.notes]).toEqual([]);
        expect(back.course.origin.version).toBe('1.1');
        expect(lossesOf(compare(read, surveyed.course).lines)).toEqual(
          lossesOf(declaredLosses(read, profileOn(read, there.target))),
        );
      }),
      options,
    );
  });

  it('a forecast names every subject and every set setting exactly once', () => {
    fc.assert(
      fc.property(courses, ({ course }) => {
        const { lines, totals } = forecast(course, [HARSH]);
        expect(lines.map((l) => l.source)).toEqual(subjects(course).map((s) => s.key));
        for (const subject of subjects(course)) {
          const line = lines.find((l) => l.source === subject.key);
          const set = SETTINGS.filter((name) => settingOf(subject, name) !== null);
          expect(line?.settings.map((s) => s.name).sort()).toEqual([...set].sort());
        }
        expect(Object.values(totals).reduce((a, b) => a + b, 0)).toBe(lines.length);
      }),
      options,
    );
  });

  it('a course compared with itself is all whole, and what a comparison calls whole it calls whole both ways', () => {
    fc.assert(
      fc.property(courses, courses, ({ course: a }, { course: b }) => {
        const own = compare(a, a);
        expect(own.totals.whole).toBe(own.lines.length);
        const whole = (x: Course, y: Course) => compare(x, y).totals.whole;
        expect(whole(a, b)).toBe(whole(b, a));
      }),
      options,
    );
  });

  it('a comparison names every subject of both sides exactly once', () => {
    fc.assert(
      fc.property(courses, courses, ({ course: a }, { course: b }) => {
        const { lines } = compare(a, b);
        const named = (side: 'source' | 'arrived') => lines.flatMap((l) => l[side] ?? []).sort();
        expect(named('source')).toEqual(
          subjects(a, both(a, b))
            .map((s) => s.key)
            .sort(),
        );
        expect(named('arrived')).toEqual(
          subjects(b, both(a, b))
            .map((s) => s.key)
            .sort(),
        );
      }),
      options,
    );
  });

  it('a joint has a row for every subject and a peg for every line, folded or not', () => {
    fc.assert(
      fc.property(courses, courses, ({ course: a }, { course: b }) => {
        const { lines } = compare(a, b);
        const joint = jointOfCheck(a, b, lines);
        expect(joint.left.length).toBe(subjects(a, both(a, b)).length);
        expect(joint.right.length).toBe(subjects(b, both(a, b)).length);
        expect(joint.pegs.length).toBe(lines.length);
        expect(joint.pegs.every((p) => p.left !== null || p.right !== null)).toBeTrue();
        const all = new Set(joint.left.map((r) => r.key));
        const folded = foldJoint(joint, { left: all, right: new Set() });
        expect(folded.left.every((r) => r.depth === 0)).toBeTrue();
        expect(folded.pegs.reduce((n, p) => n + p.count, 0)).toBe(joint.pegs.length);
        const kept = filterJoint(joint, (p) => p.outcome !== 'whole');
        expect(kept.pegs.length).toBe(joint.pegs.filter((p) => p.outcome !== 'whole').length);
        for (const peg of kept.pegs) {
          const before = joint.pegs.find((p) => p.line === peg.line);
          const title = (rows: readonly { title: string }[], at: number | null | undefined) =>
            at === null || at === undefined ? null : rows[at]?.title;
          expect(title(kept.left, peg.left)).toBe(title(joint.left, before?.left) as never);
          expect(title(kept.right, peg.right)).toBe(title(joint.right, before?.right) as never);
        }
      }),
      options,
    );
  });

  it('the joint of a forecast shows at the right all that is not left behind, and no folder below the limit', () => {
    fc.assert(
      fc.property(courses, ({ course }) => {
        const { lines, totals } = forecast(course, [HARSH]);
        const joint = jointOfForecast(course, lines);
        expect(joint.right.length).toBe(lines.length - (totals['left behind'] ?? 0));
        expect(joint.right.filter((r) => r.kind === 'folder').every((r) => r.depth === 0)).toBeTrue();
      }),
      options,
    );
  });
});
