import { mkdtemp, rm } from 'node:fs/promises';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import * as fc from 'fast-check';
import {
  MeetsAs,
  asSettled,
  forecast,
  itemOfKey,
  landing,
  leftBehindBy,
  meetings,
  planPackage,
  profileOn,
  settle,
  subjects,
  survey,
  targetById,
  workingCopy,
  writePackage,
  type Course,
  type Package,
  type Settled,
} from '@treenail/core';
import { nodeEngine } from '@treenail/core/node';
import { courses, type Generated } from '../../core/src/testing/courses.ts';
import { memorySink, packageOf } from '../../core/src/testing/packages.ts';
import { tarnhall as connectTarnhall } from '../../server/src/platforms/tarnhall/index.ts';
import { setHome } from '../../server/src/platforms/reach.ts';
import type { DestinationSide } from '../../server/src/platforms/index.ts';
import { tarnhall } from '../../standins/src/tarnhall/app.ts';

/**
 * What is foretold of a course that goes into another is held against what the platform makes of it: two generated courses,
 * decisions at random, and an importer that nobody here wrote the forecast by.
 */

const RUNS = Number(process.env['TREENAIL_LAW_RUNS'] ?? 40);
const signal = AbortSignal.timeout(600_000);
const { format, target } = targetById('tarnhall');

let side: DestinationSide;
let server: Server;
let folder: string;

test.beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'pairs-'));
  const settings = { port: 0, folder, token: 't', name: 'Test', pace: 1, othersAhead: 0, expiryMs: 60_000, smtp: null };
  const app = tarnhall(settings, () => []);
  server = await new Promise<Server>((done) => {
    const listening = app.listen(0, '127.0.0.1', () => done(listening));
  });
  setHome('127.0.0.0/8');
  const baseUrl = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const { destination } = connectTarnhall.connect({ baseUrl, credential: 't' });
  if (!destination) throw new Error('Tarnhall takes nothing');
  side = destination;
});

test.afterAll(async () => {
  server.closeAllConnections();
  await new Promise((done) => server.close(done));
  await rm(folder, { recursive: true, force: true });
});

async function packed(pkg: Package, course: Course): Promise<Uint8Array> {
  const sink = memorySink();
  await writePackage(target, await planPackage(format, course, target, pkg), pkg, sink, { engine: nodeEngine });
  return sink.bytes();
}

async function unpackInto(space: string, bytes: Uint8Array, key: string): Promise<void> {
  const { uploadId } = await side.startUpload(bytes.length, key);
  async function* parts() {
    yield bytes;
  }
  await side.upload(uploadId, 0, parts(), signal);
  const run = await side.startImport(space, uploadId, key);
  const at = async () => {
    const state = await side.importState(run);
    if (state.state === 'failed') throw new Error(state.why);
    return state.state;
  };
  await expect.poll(at, { intervals: [2], timeout: 60_000 }).toBe('ready');
}

const itemsOf = (course: Course) => subjects(course, { withCourse: false }).filter((s) => itemOfKey(s.key) !== null);

/** A course with few titles, so that things of two courses are called the same, and with identifiers that no other has. */
function alike({ course, bodies }: Generated, own: string): Generated {
  const names = (of: (id: string, n: number) => string) =>
    Object.fromEntries(course.items.map(({ id }, n) => [id, of(id, n)]));
  const titles = names((_, n) => `Week ${n % 2}`);
  const calls = own === '' ? {} : names((id) => `${own}-${id}`);
  return { course: asSettled(course, { leftOut: [], settings: {}, titles, calls }), bodies };
}

/** Sends one course into a shell, then another into that, and gives what was foretold of it with what is there. */
async function both(key: string, first: Generated, second: Generated, choices: readonly MeetsAs[], rule: string) {
  if (!side.there) throw new Error('Tarnhall takes nothing into what is there');
  const shell = { code: 'X 1', section: '01', term: 'Autumn 2026', title: 'A space' };
  const { id: space } = await side.createShell(shell, key);
  const one = await packageOf(first.bodies);
  await unpackInto(space, await packed(one, first.course), `${key} 1`);
  const { course: standing, names } = await side.readBack(space, signal);

  const two = await packageOf(second.bodies);
  const { course: coming, links } = await survey(two, second.course, { engine: nodeEngine });
  const profile = profileOn(coming, target);
  const { lines: foretold } = forecast(coming, profile ? [profile] : []);
  const leftBehind = leftBehindBy(foretold);
  const { identifiers } = side.there;
  const met = meetings(standing, coming, {
    identifiers,
    unless: 'newest',
    chosen: Object.fromEntries(coming.items.flatMap((i, n) => (choices[n] ? [[i.id, choices[n]]] : []))),
    worked: new Set(),
    leftBehind: new Set([...leftBehind].flatMap((of) => itemOfKey(of) ?? [])),
  });
  const { settled, taken } = settle(standing, coming, met, { identifiers, rule: (title) => `${title}${rule}` });
  const expected = landing(standing, coming, { way: 'into', identifiers, leftBehind, met, titles: settled.titles });

  await side.there.remove(
    space,
    taken.flatMap((id) => names[id] ?? []),
  );
  await unpackInto(space, await settledPackage(two, coming, links, settled), `${key} 2`);
  const { course: after } = await side.readBack(space, signal);
  await side.there.removeCourse(space);
  return { standing, coming, expected, met, after };
}

async function settledPackage(
  pkg: Package,
  course: Course,
  links: Parameters<typeof workingCopy>[1]['links'],
  settled: Settled,
): Promise<Uint8Array> {
  const worked = await workingCopy(pkg, { course, links }, [], [], { settled, engine: nodeEngine });
  return packed(worked.pkg, worked.course);
}

test('what is there after a delivery into a course is what was foretold, whatever meets whatever', async () => {
  test.setTimeout(600_000);
  let run = 0;
  await fc.assert(
    fc.asyncProperty(
      courses,
      courses,
      fc.array(fc.constantFrom(...MeetsAs.options), { maxLength: 9 }),
      fc.constantFrom('', ' (ours)'),
      fc.constantFrom('', 'other'),
      async (first, given, choices, rule, own) => {
        const second = alike(given, own);
        const { standing, expected, met, after } = await both(`pair ${run++}`, alike(first, ''), second, choices, rule);
        const titled = (of: readonly { title: string }[]) => of.map((s) => s.title.replace(/\s+/g, ' ').trim()).sort();
        const foretold = expected.lines.flatMap((l) => (isItem(l) && l.after ? [l.after] : []));
        expect(titled(itemsOf(after))).toEqual(titled(foretold));
        // What was to stay did so as it was.
        const stays = new Map(after.items.map((i) => [i.id, i]));
        const gone = new Set(met.flatMap((m) => (m.is.startsWith('ours') ? [m.first] : [])));
        for (const item of standing.items) {
          if (gone.has(item.id)) continue;
          expect(stays.get(item.id)?.title).toBe(item.title);
          expect(stays.get(item.id)?.fingerprint).toBe(item.fingerprint);
        }
      },
    ),
    { numRuns: RUNS },
  );
});

const isItem = (line: { there: { key: string } | null; comes: { key: string } | null }) =>
  itemOfKey((line.comes ?? line.there)?.key ?? '') !== null;
