import { mkdtemp, rm } from 'node:fs/promises';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { compare } from '@treenail/core';
import pino from 'pino';
import type { Sequelize } from 'sequelize';
import { configFromEnvironment } from '../config.ts';
import { Delivery, User, isCurrent, planOf, type WholeMove } from '../db/models/index.ts';
import { handlersOf } from '../handlers/index.ts';
import { enqueue } from '../jobs/queue.ts';
import { Worker } from '../jobs/worker.ts';
import { testDatabase, until } from '../testing/database.ts';
import { deliveredAlready, keptCourse } from '../testing/moves.ts';
import { codeOf as code } from '../testing/refusals.ts';
import type { Person } from '../contract/index.ts';
import { servicesOf, type Services } from './context.ts';
import { readDocument, writeDocument } from './documents.ts';
import { furtherOf, partNotes, sendMore } from './further.ts';
import { addInstance } from './instances.ts';
import { noteStep } from './move-rows.ts';
import { acceptFit, callOffMove, moveById, moveSummary } from './moves.ts';
import { addPerson } from './people.ts';
import * as tidy from './tidy.ts';

const page = (title: string) =>
  `<html lang="en"><head><title>${title}</title></head><body><p>${title}</p></body></html>`;
const PAGES = { 'caulking.html': page('Caulking'), 'fairing.html': page('Fairing'), 'scarfs.html': page('Scarfs') };

describe('A further part of a move', () => {
  let folder: string;
  let sequelize: Sequelize;
  let drop: () => Promise<void>;
  let platform: Server;
  let services: Services;
  let worker: Worker;
  let person: Person;
  let newMove: () => Promise<WholeMove>;
  let moveId: number;

  beforeAll(async () => {
    const database = await testDatabase();
    ({ sequelize } = database);
    drop = () => database.drop();
    folder = await mkdtemp(join(tmpdir(), 'treenail-'));
    // A destination that has nothing to say: what stands there can't be looked at.
    platform = createServer((_req, res) => res.writeHead(404).end());
    await new Promise<void>((done) => platform.listen(0, '127.0.0.1', done));
    const baseUrl = `http://127.0.0.1:${(platform.address() as AddressInfo).port}`;
    const config = {
      ...configFromEnvironment(),
      blobs: join(folder, 'blobs'),
      scratch: join(folder, 'scratch'),
      pollMs: 50,
      smtp: null,
    };
    services = servicesOf(config);
    await addPerson('Ada', 'ada@marrowick.example', 'administrator', 'right');
    const row = await User.findOne({ where: { email: 'ada@marrowick.example' }, rejectOnEmpty: true });
    person = { id: row.id, name: row.name, email: row.email, role: 'administrator' };
    const add = (name: string, of: string) =>
      addInstance(config.secret, { name, platform: of, baseUrl, credential: 't' });
    const between = { from: await add('Old', 'quernhold'), to: await add('New', 'tarnhall') };
    ({ newMove } = await keptCourse(services, folder, PAGES, { ...between, remoteId: 'c7', createdBy: person.id }));
    worker = new Worker({
      sequelize,
      handlers: handlersOf(services),
      leaseMs: 5000,
      restMs: 20,
      log: pino({ level: 'silent' }),
    });
    worker.start();
  }, 120_000);

  afterAll(async () => {
    await worker?.stop();
    await drop?.();
    await rm(folder, { recursive: true, force: true });
    await new Promise((done) => platform.close(done));
  });

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
