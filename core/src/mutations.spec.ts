import { readFileSync, readdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import fc from 'fast-check';
import { bytesSource, collect, openPackage, portableEngine, type Engine } from './container/index.ts';
import { nodeEngine } from './container/node.ts';
import {
  EXAMPLE_DESCRIPTIONS,
  FORMATS,
  describedFormat,
  openCourse,
  readCourse,
  readDescription,
  targetById,
  writePackage,
} from './formats/index.ts';
import { previewItem, survey } from './inspect/index.ts';
import { Refusal } from './model/index.ts';
import { workingCopy } from './reshape/index.ts';
import { CRATE, FOLIO, PARCEL } from './testing/archives.ts';
import { memorySink, zipOf, type Files } from './testing/packages.ts';

/** Spoiled packages are read or refused with a code: never a crash, a hang, or an error that explains nothing. */

const FOLDER = fileURLToPath(new URL('./testing/samples/', import.meta.url));
const PACKAGES: Uint8Array[] = readdirSync(FOLDER)
  .filter((name) => /\.(imscc|zip)$/.test(name))
  .map((name): Uint8Array => new Uint8Array(readFileSync(FOLDER + name)))
  .concat(await Promise.all([CRATE, PARCEL, FOLIO].map(zipOf)));
const { description } = readDescription(EXAMPLE_DESCRIPTIONS.find((e) => e.name === 'dunlin')?.text ?? '');
const DESCRIBED = description ? [describedFormat(description)] : [];

/** Reads everything that a person would see of it, and writes it anew in some format. */
async function use(bytes: Uint8Array, engine: Engine, to: string): Promise<string> {
  try {
    const limits = { totalBytes: 64 << 20, textBytes: 8 << 20, memoryBytes: 64 << 20 };
    const pkg = await openCourse(bytesSource(bytes), { engine, limits, described: DESCRIBED });
    const { course } = await readCourse(pkg, DESCRIBED);
    const surveyed = await survey(pkg, course, { engine, findings: { today: '2026-11-25' } });
    const { findings } = surveyed;
    // Everything that is suggested is done, whatever state the package is in.
    const decisions = findings.flatMap(({ kind, key, suggestions: [first] }) =>
      first
        ? [{ id: key, match: { kind, groupKey: null, key }, mend: first.mend, params: first.params, reason: '' }]
        : [],
    );
    const work = await workingCopy(pkg, surveyed, findings, decisions, { engine });
    expect(work.mended.length + work.failed.length).toBe(decisions.length);
    for (const item of course.items.slice(0, 8)) await previewItem(pkg, item, engine, { course, words: ['a'] });
    const { format, target } = targetById(to);
    const plan = await format.plan(work.course, target, work.pkg);
    await writePackage(target, plan, work.pkg, memorySink(), { engine });
    return 'read';
  } catch (error) {
    if (error instanceof Refusal) {
      const { code, message, action } = error.problem;
      expect([code, message, action].every((words) => words !== '')).toBeTrue();
      return code;
    }
    throw error;
  }
}

async function unpacked(zip: Uint8Array): Promise<Files> {
  const pkg = await openPackage(bytesSource(zip), { engine: nodeEngine });
  const files: Files = {};
  for (const path of pkg.entries.keys()) files[path] = await collect(pkg.stream(path));
  return files;
}

const TARGETS = FORMATS.flatMap((f) => f.targets.map((t) => t.id));
const anyPackage = fc.nat(PACKAGES.length - 1).map((i) => PACKAGES[i] ?? new Uint8Array());
const place = fc.double({ min: 0, max: 0.999999, noNaN: true });
const engine = fc.constantFrom(nodeEngine, portableEngine);
const target = fc.constantFrom(...TARGETS);

describe('Spoiled packages', () => {
  let unpackedPackages: Files[];
  beforeAll(async () => {
    unpackedPackages = await Promise.all(PACKAGES.map(unpacked));
  });

  it('with bytes flipped are read or refused', async () => {
    const flips = fc.array(fc.tuple(place, fc.integer({ min: 1, max: 255 })), { minLength: 1, maxLength: 12 });
    await fc.assert(
      fc.asyncProperty(anyPackage, flips, engine, target, async (zip, list, by, to) => {
        const bytes = zip.slice();
        for (const [at, mask] of list) {
          const i = Math.floor(at * bytes.length);
          bytes[i] = (bytes[i] ?? 0) ^ mask;
        }
        await use(bytes, by, to);
      }),
      { numRuns: 1200 },
    );
  }, 300_000);

  it('with a lying directory are read or refused', async () => {
    const flips = fc.array(fc.tuple(place, fc.integer({ min: 1, max: 255 })), { minLength: 1, maxLength: 6 });
    await fc.assert(
      fc.asyncProperty(anyPackage, flips, engine, target, async (zip, list, by, to) => {
        const bytes = zip.slice();
        const start = Buffer.from(bytes).indexOf(Buffer.from('PK\x01\x02'));
        for (const [at, mask] of list) {
          const i = start + Math.floor(at * (bytes.length - start));
          bytes[i] = (bytes[i] ?? 0) ^ mask;
        }
        await use(bytes, by, to);
      }),
      { numRuns: 1200 },
    );
  }, 300_000);

  it('cut, doubled or with a piece taken out are read or refused', async () => {
    await fc.assert(
      fc.asyncProperty(anyPackage, place, place, fc.nat(3), target, async (zip, a, b, how, to) => {
        const [from, until] = [a, b].sort((x, y) => x - y).map((n) => Math.floor(n * zip.length)) as [number, number];
        const pieces = [
          [zip.subarray(0, from)],
          [zip.subarray(0, from), zip.subarray(until)],
          [zip.subarray(0, until), zip.subarray(from)],
          [new Uint8Array(gzipSync(zip)).subarray(0, until)],
        ][how];
        await use(new Uint8Array(Buffer.concat(pieces ?? [])), nodeEngine, to);
      }),
      { numRuns: 800 },
    );
  }, 300_000);

  it('with entries exchanged, emptied or left out are read or refused', async () => {
    const changes = fc.array(fc.tuple(fc.nat(2), fc.nat(), fc.nat()), { minLength: 1, maxLength: 5 });
    await fc.assert(
      fc.asyncProperty(fc.nat(PACKAGES.length - 1), changes, target, async (which, list, to) => {
        const files: Files = { ...unpackedPackages[which] };
        const paths = Object.keys(files);
        for (const [how, x, y] of list) {
          const [a = '', b = ''] = [paths[x % paths.length], paths[y % paths.length]];
          if (how === 0) [files[a], files[b]] = [files[b] ?? '', files[a] ?? ''];
          else if (how === 1) files[a] = '';
          else delete files[a];
        }
        await use(await zipOf(files), nodeEngine, to);
      }),
      { numRuns: 500 },
    );
  }, 300_000);

  it('with their documents spoiled are read or refused', async () => {
    const bits = fc.constantFrom(
      '<',
      '>',
      '"',
      '&',
      '&x;',
      ']]>',
      '<!--',
      '\u0000',
      '<item identifierref="m"/>',
      '<manifest identifier="m"><resources/></manifest>',
      'xml:base="../../.."',
      ' identifier="a" identifier="a"',
      '<![CDATA[',
      '<?xml version="1.0" encoding="utf-99"?>',
      '\ud800',
      '{',
      '../',
      'sort: spell\n',
      '&a [*a, *a]',
      '"units/u.json"',
    );
    const edits = fc.array(fc.tuple(place, fc.nat(40), bits), { minLength: 1, maxLength: 4 });
    await fc.assert(
      fc.asyncProperty(fc.nat(PACKAGES.length - 1), fc.nat(), edits, target, async (which, file, list, to) => {
        const files: Files = { ...unpackedPackages[which] };
        const xmls = Object.keys(files).filter((p) => /\.(xml|json|yaml|md)$/.test(p));
        const path = xmls[file % xmls.length] ?? 'imsmanifest.xml';
        let text = Buffer.from(files[path] ?? '').toString('utf8');
        for (const [at, drop, put] of list) {
          const i = Math.floor(at * text.length);
          text = text.slice(0, i) + put + text.slice(i + drop);
        }
        files[path] = text;
        await use(await zipOf(files), nodeEngine, to);
      }),
      { numRuns: 1500 },
    );
  }, 300_000);
});
