import { compare } from '@treenail/core';
import { Delivery, isCurrent, planOf, type WholeMove } from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import { until } from '../testing/database.ts';
import { testHouse, type House } from '../testing/house.ts';
import { deliveredAlready, keptCourse } from '../testing/moves.ts';
import { codeOf as code } from '../testing/refusals.ts';
import type { Person } from '../contract/index.ts';
import type { Services } from './context.ts';
import { readDocument, writeDocument } from './documents.ts';
import { furtherOf, partNotes, sendMore } from './further.ts';
import { noteStep } from './move-rows.ts';
import { acceptFit, callOffMove, moveById, moveSummary } from './moves.ts';
import * as tidy from './tidy.ts';

const page = (title: string) =>
  `<html lang="en"><head><title>${title}</title></head><body><p>${title}</p></body></html>`;
const PAGES = { 'caulking.html': page('Caulking'), 'fairing.html': page('Fairing'), 'scarfs.html': page('Scarfs') };

describe('A further part of a move', () => {
  let house: House;
  let services: Services;
  let person: Person;
  let newMove: () => Promise<WholeMove>;
  let moveId: number;

  beforeAll(async () => {
    // A destination that has nothing to say: what stands there can't be looked at.
    house = await testHouse();
    ({ services, person } = house);
    const between = {
      from: await house.addInstance('Old', 'quernhold'),
      to: await house.addInstance('New', 'tarnhall'),
    };
    const of = { ...between, remoteId: 'c7', createdBy: person.id };
    ({ newMove } = await keptCourse(services, house.folder, PAGES, of));
    house.startWorker();
  }, 120_000);

  afterAll(() => house?.close());

  const at = async () => (await moveSummary(await moveById(moveId))).at;
  const standsAt = (step: string) => until(async () => (await at()) === step);
  const inWorkingCopy = () => until(async () => isCurrent(await moveById(moveId)));
  const idOf = async (title: string) =>
    (await readDocument(moveId, 'look')).course.items.find((i) => i.title === title)?.id ?? '';

  /** All but one page went and was checked; then a further part was begun. */
  beforeEach(async () => {
    moveId = (await newMove()).id;
    await enqueue({ kind: 'look', key: `look:move-${moveId}`, course: 'BTB', moveId, input: { round: 0 } });
    await standsAt('fit');
    await tidy.choose(services, person, moveId, { leftOut: [await idOf('Scarfs')], hiddenUntil: null });
    await inWorkingCopy();
    const { course } = await readDocument(moveId, 'working');
    await writeDocument(moveId, 'arrived', course);
    await writeDocument(moveId, 'comparison', compare(course, course));
    await deliveredAlready(await moveById(moveId), { id: 's1', title: 'Repair', url: 'http://127.0.0.1:1/s1' });
    await noteStep(moveId, 'check', 'done', '2 whole');
  });
  const begin = async () => {
    const { copies } = await furtherOf(services, moveId);
    await sendMore(person, moveId, { copyId: copies[0]?.id ?? 0 });
    await standsAt('fit');
    await inWorkingCopy();
  };

  it('proposes what never went, and says that what stands there could not be looked at', async () => {
    const before = await furtherOf(services, moveId);
    expect([before.can, before.went, before.left, before.some]).toEqual([true, 2, 1, ['Scarfs']]);
    await begin();
    const { leftOut } = await readDocument(moveId, 'selection');
    expect(leftOut.sort()).toEqual([await idOf('Caulking'), await idOf('Fairing')].sort());
    const { items } = await readDocument(moveId, 'further');
    expect(items.map((i) => [i.since, i.there]).sort()).toEqual([
      ['new', null],
      ['went', 'unknown'],
      ['went', 'unknown'],
    ]);
    const said = (await partNotes(services, moveId)).join(' ');
    expect(said).toMatch(/could not be looked at \(.+\)/);
  });

  it('is begun once, however often it is asked for', async () => {
    await begin();
    const { version } = planOf(await moveById(moveId));
    await sendMore(person, moveId, { copyId: null });
    expect(planOf(await moveById(moveId)).version).toBe(version);
    expect(await code(sendMore({ ...person, role: 'instructor' }, moveId, { copyId: null }))).not.toBe('done');
  });

  it('by which nothing goes is not built', async () => {
    await begin();
    const all = (await readDocument(moveId, 'look')).course.items.map((i) => i.id);
    await tidy.choose(services, person, moveId, { leftOut: all, hiddenUntil: null });
    await inWorkingCopy();
    expect(await code(acceptFit(person, moveId))).toBe('part-empty');
    expect(await at()).toBe('fit');
  });

  it('is called off, and the move stands where it stood', async () => {
    await begin();
    await callOffMove(person, moveId);
    const move = await moveById(moveId);
    expect(planOf(move).further).toBeNull();
    expect((await moveSummary(move)).steps.find((s) => s.step === 'check')?.result).toBe('2 whole');
    expect((await furtherOf(services, moveId)).can).toBeTrue();
  });

  it('is not called off once some of it may be there', async () => {
    await begin();
    const { version } = planOf(await moveById(moveId));
    await Delivery.create({
      moveId,
      planVersion: version,
      requestKey: `deliver:move-${moveId}:second`,
      asked: {},
      askedBy: person.id,
      askedAt: new Date(),
      shell: null,
      deliveredAt: null,
    });
    expect(await code(callOffMove(person, moveId))).toBe('delivery-begun');
    expect(planOf(await moveById(moveId)).version).toBe(version);
  });
});
