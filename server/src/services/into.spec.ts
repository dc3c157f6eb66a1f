import { compare } from '@treenail/core';
import {
  AuditEntry,
  Copy,
  CourseRow,
  Delivery,
  Job,
  JobStep,
  type Instance,
  type WholeMove,
} from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import { until } from '../testing/database.ts';
import { testHouse, type House } from '../testing/house.ts';
import { keptCourse } from '../testing/moves.ts';
import { codeOf as code } from '../testing/refusals.ts';
import type { Person } from '../contract/index.ts';
import { backOf, noteTakenBack, takeBack } from './back.ts';
import type { Services } from './context.ts';
import { documentIfAny, writeDocument } from './documents.ts';
import { goInto, intoOf, lookAt, meet, targetsOf } from './into.ts';
import { noteStep } from './move-rows.ts';
import { deliver, moveById, moveSummary } from './moves.ts';
import { copyDetail } from './strongroom.ts';

const SHELL = { section: '01', term: 'Autumn 2026', title: 'Repair', typed: '', asKept: false, quiet: false };

/** What stands in the one course of the destination, as the platform tells it. */
interface State {
  units: unknown[];
  people: { part: string }[];
  work: { entry: string }[];
  shut: boolean;
  turn: number;
}

const entry = (id: string, title: string, origin: string | null = null) => ({
  id,
  sort: 'text',
  title,
  origin,
  body: `<p>${title}</p>`,
  url: '',
  file: null,
  files: [],
  marks: null,
  ways: [],
  tries: null,
  minutes: null,
  questions: [],
});

describe('A course that is there', () => {
  let house: House;
  let services: Services;
  let person: Person;
  let newMove: () => Promise<WholeMove>;
  let elsewhere: Instance;
  let to: Instance;
  let row: CourseRow;
  let state: State;
  let moveId: number;

  beforeAll(async () => {
    house = await testHouse();
    ({ services, person } = house);
    house.platform.routes = {
      'GET /api/spaces/s1/contents': () => ({ units: state.units, pools: [], files: [] }),
      'GET /api/spaces/s1/people': () => ({ ...state, units: undefined }),
      'GET /api/spaces': { spaces: [] },
    };
    const from = await house.addInstance('Old', 'quernhold');
    to = await house.addInstance('New', 'tarnhall');
    elsewhere = await house.addInstance('Old again', 'oxlea');
    const files = {
      'start.html': '<title>Start</title><p>Start</p>',
      'fairing.html': '<title>Fairing</title><p>Fair</p>',
    };
    ({ newMove } = await keptCourse(services, house.folder, files, { from, to, remoteId: 'c7', createdBy: person.id }));
    const course = (more: Partial<CourseRow>) =>
      CourseRow.create({
        instanceId: to.id,
        remoteId: 's1',
        code: 'BTB 210',
        section: '02',
        term: 'Autumn 2026',
        title: 'Repair, a trial',
        owner: '',
        size: 1,
        changedAt: new Date(),
        ...more,
      });
    row = await course({});
    await course({ remoteId: 's2', code: 'STF 001', section: '01', title: 'Working here' });
    await course({ remoteId: 's3', code: 'STF 002', section: '01', term: 'Spring 2027', title: 'Repair' });
  }, 120_000);

  afterAll(() => house?.close());

  /** A move that is built and stands at its delivery. */
  beforeEach(async () => {
    state = {
      units: [{ id: 'u1', title: 'Old', origin: null, entries: [entry('e1', 'Start'), entry('e2', 'Glue', 'p9')] }],
      people: [{ part: 'tutor' }, { part: 'learner' }],
      work: [{ entry: 'e1' }],
      shut: false,
      turn: 4,
    };
    const move = await newMove();
    moveId = move.id;
    const items = [
      { kind: 'page' as const, id: 'p9', title: 'Glue anew', definitionPath: null, settings: {}, file: 'fairing.html' },
      { kind: 'page' as const, id: 'p1', title: 'Start', definitionPath: null, settings: {}, file: 'start.html' },
    ];
    const course = {
      title: 'Repair',
      origin: { format: 'folder', version: '1', untouched: true },
      metadata: { keywords: [] },
      outline: items.map((i) => ({ id: `n-${i.id}`, title: i.title, item: i.id, children: [] })),
      items,
      files: [],
    };
    await writeDocument(moveId, 'working', { course, mended: [], failed: [] });
    const { lines, totals } = compare(course, course);
    await writeDocument(moveId, 'forecast', { profiles: [], lines, totals });
    for (const step of ['look', 'fit', 'build'] as const) await noteStep(moveId, step, 'done', '');
  });

  it('is suggested by what it has in common, and found by its words; a term in common says nothing', async () => {
    const { can, targets, more } = await targetsOf(services, moveId, '');
    expect([can, more]).toEqual([true, 0]);
    expect(targets.map((t) => [t.code, t.section, t.why])).toEqual([
      ['BTB 210', '02', 'same code, term'],
      ['STF 002', '01', 'same title'],
      ['STF 001', '01', ''],
    ]);
    expect((await targetsOf(services, moveId, 'working 001')).targets.map((t) => t.code)).toEqual(['STF 001']);
  });

  it('is not offered by a platform that takes courses only into new shells', async () => {
    const move = await moveById(moveId);
    await move.update({ destinationId: elsewhere.id });
    expect((await targetsOf(services, moveId, '')).can).toBeFalse();
    expect(await code(lookAt(services, moveId, row.id))).toBe('no-way-in');
    expect(await code(backOf(services, moveId).then((b) => b.says.join()))).toBe('done');
  });

  it('is told with what will be gone, what will be twice and what will be overwritten', async () => {
    const beside = await goInto(services, person, moveId, { courseId: row.id, way: 'beside' });
    expect(beside.typed).toBe('');
    expect(beside.says).toEqual([
      'What is there stays: 1 item (1 page).',
      '1 item there will be overwritten, since what comes bears the same identifier: “Glue”. A copy of what is there is kept and read first.',
      '1 item will be there twice, by title or substance: “Start”.',
      'Its name, code, section and term stay, and so do 1 learner and 1 tutor.',
    ]);
    const instead = await goInto(services, person, moveId, { courseId: row.id, way: 'in place of' });
    expect(instead.typed).toBe('Repair, a trial');
    expect(instead.says[0]).toBe(
      '2 items (2 pages) of “Repair, a trial” will be gone. A copy of what is there is kept and read first.',
    );
    expect(instead.says[1]).toContain('1 thing that learners did there will be gone with it');
    expect(await code(goInto(services, { ...person, role: 'instructor' }, moveId, null))).not.toBe('done');
    await goInto(services, person, moveId, null);
    expect((await intoOf(services, moveId)).into).toBeNull();
  });

  it('is matched item by item where that is asked: what becomes of each that meets its like is decided, and told before', async () => {
    const into = await goInto(services, person, moveId, { courseId: row.id, way: 'into' });
    const told = ({ meets }: typeof into) => meets.map((m) => [m.title, m.theirs, m.by, m.is]);
    // Learners worked in “Start”: it is not taken out.
    expect(told(into)).toEqual([
      ['Glue anew', 'Glue', 'identifier', 'ours'],
      ['Start', 'Start', 'title', 'theirs'],
    ]);
    expect(into.meets[1]?.can).toEqual(['both', 'theirs']);
    expect(into.says).toEqual([
      'What is there stays: 1 item (1 page).',
      '1 item there will be overwritten, since what comes bears the same identifier: “Glue”. A copy of what is there is kept and read first.',
      '1 item of what comes will not be sent, since theirs stays: “Start”.',
      'Its name, code, section and term stay, and so do 1 learner and 1 tutor.',
    ]);
    const both = await meet(services, person, moveId, {
      chosen: { p9: 'both', p1: 'ours' },
      rule: '{title} ({code})',
    });
    expect(told(both)).toEqual([
      ['Glue anew', 'Glue', 'identifier', 'both'],
      ['Start', 'Start', 'title', 'theirs'],
    ]);
    expect(both.meets[1]?.why).toBe('learners have worked in theirs');
    expect(both.says).toContain('1 item of ours will be called otherwise: “Glue anew (BTB 210)”.');
    expect(both.says).toContain(
      '1 item of ours will get another identifier, so that nothing there is overwritten: “Glue anew”.',
    );
    expect(both.says.some((s) => s.includes('overwritten, since'))).toBeFalse();
    state.work = [];
    await goInto(services, person, moveId, { courseId: row.id, way: 'beside' });
    const ours = await meet(services, person, moveId, { chosen: { p1: 'ours' }, rule: '' });
    expect(ours.says).toContain(
      '1 item there will be taken out, and ours will be there for it: “Start”. A copy of what is there is kept and read first; links there that led to it lead nowhere then.',
    );
    expect(await code(meet(services, person, moveId, { chosen: {}, rule: '{name}' }))).toBe('naming-rule');
    expect(await code(meet(services, { ...person, role: 'instructor' }, moveId, { chosen: {}, rule: '' }))).not.toBe(
      'done',
    );
    // Looked at again it keeps what was decided; of another way nothing is left.
    const again = async (way: 'beside' | 'into') =>
      (await goInto(services, person, moveId, { courseId: row.id, way })).into?.chosen;
    expect(await again('beside')).toEqual({ p1: 'ours' });
    expect(await again('into')).toEqual({});
  });

  it('is not gone into where it is shut, and not when it was shut since', async () => {
    state.shut = true;
    expect(await code(goInto(services, person, moveId, { courseId: row.id, way: 'beside' }))).toBe('course-shut');
    expect(await documentIfAny(moveId, 'into')).toBeNull();
    state.shut = false;
    await goInto(services, person, moveId, { courseId: row.id, way: 'beside' });
    state.shut = true;
    expect(await code(deliver(services, person, moveId, SHELL))).toBe('course-shut');
    expect(await Job.count({ where: { moveId, kind: 'deliver' } })).toBe(0);
  });

  it('is not delivered into before its loss is meant, nor where it was changed since, nor where another is on its way', async () => {
    await goInto(services, person, moveId, { courseId: row.id, way: 'in place of' });
    expect(await code(deliver(services, person, moveId, SHELL))).toBe('not-typed');
    state.turn++;
    const typed = { ...SHELL, typed: 'Repair, a trial' };
    expect(await code(deliver(services, person, moveId, typed))).toBe('destination-changed');
    // What is there now was looked at by that.
    expect((await documentIfAny(moveId, 'into'))?.standing.turn).toBe('5');
    const other = await newMove();
    const job = await enqueue({
      kind: 'deliver',
      key: `deliver:other-${other.id}`,
      course: 'BTB',
      moveId: other.id,
      input: {
        round: 0,
        shell: { code: 'BTB 210', section: '01', term: 'x', title: 'x' },
        into: { id: 's1', title: 'Repair, a trial', url: 'http://x' },
      },
    });
    expect(await code(deliver(services, person, moveId, typed))).toBe('destination-busy');
    await job.update({ state: 'done' });
    expect(await code(deliver(services, person, moveId, typed))).toBe('done');
    const [delivery] = await Delivery.findAll({ where: { moveId } });
    expect(delivery?.way).toBe('in place of');
    const asked = await Job.findOne({ where: { moveId, kind: 'deliver' }, rejectOnEmpty: true });
    expect(asked.input).toEqual(jasmine.objectContaining({ way: 'in place of' }));
    // Where it goes is settled from then on.
    expect(await code(goInto(services, person, moveId, null))).toBe('delivery-begun');
    await asked.update({ state: 'done' });
  });

  it('gets nothing of a copy that its source is newer than, unless that is meant', async () => {
    const move = await moveById(moveId);
    const source = await CourseRow.findByPk(move.courseId, { rejectOnEmpty: true });
    const copy = await Copy.findByPk(move.copyId ?? 0, { rejectOnEmpty: true });
    const { changedAt } = source;
    await source.update({ changedAt: new Date(copy.keptAt.getTime() + 60_000) });
    expect(await code(deliver(services, person, moveId, SHELL))).toBe('source-newer');
    expect(await Job.count({ where: { moveId, kind: 'deliver' } })).toBe(0);
    expect(await code(deliver(services, person, moveId, { ...SHELL, asKept: true }))).toBe('done');
    await Job.update({ state: 'called off' }, { where: { moveId } });
    await source.update({ changedAt });
  });

  it('is as it was again where a delivery was called off after what stood there was kept, whatever became of that', async () => {
    const requestKey = `deliver:move-${moveId}`;
    const delivery = await Delivery.create({
      moveId,
      planVersion: 1,
      requestKey,
      asked: {},
      askedBy: person.id,
      askedAt: new Date(),
      shell: { id: 's1', title: 'Repair, a trial', url: 'http://x' },
      way: 'in place of',
    });
    const input = { round: 0, shell: { code: 'BTB 210', section: '01', term: 'x', title: 'x' } };
    const job = await enqueue({ kind: 'deliver', key: requestKey, course: 'BTB', moveId, input });
    state.work = [];
    const can = async () => (await backOf(services, moveId)).can;
    // While it is on its way, and where nothing was kept yet, there is nothing to take back.
    expect(await can()).toBeFalse();
    await job.update({ state: 'called off' });
    expect(await can()).toBeFalse();
    const { copyId } = await moveById(moveId);
    await delivery.update({ beforeCopyId: copyId });
    expect((await copyDetail(copyId ?? 0)).before).toEqual({ moveId, title: 'Repair, a trial' });
    const { says } = await backOf(services, moveId);
    expect(says[0]).toContain('what was there before comes again from the kept copy kept.zip');
    expect((await moveSummary(await moveById(moveId))).canTakeBack).toBeTrue();
    state.work = [{ entry: 'e1' }];
    expect(await can()).toBeFalse();
    expect(await code(takeBack(services, person, moveId))).toBe('no-way-back');
    state.work = [];
    const kept = await Copy.findByPk(copyId ?? 0, { rejectOnEmpty: true });
    await kept.update({ removedAt: new Date() });
    expect((await backOf(services, moveId)).says[0]).toContain('was removed from the strongroom');
    await kept.update({ removedAt: null });
    expect(await code(takeBack(services, person, moveId))).toBe('done');
    expect(await Job.count({ where: { moveId, kind: 'take-back' } })).toBe(1);
  });

  it('is not taken back where learners worked in what came; taken back, the move stands at its delivery', async () => {
    await goInto(services, person, moveId, { courseId: row.id, way: 'beside' });
    const delivery = await Delivery.create({
      moveId,
      planVersion: 1,
      requestKey: `deliver:move-${moveId}`,
      asked: {},
      askedBy: person.id,
      askedAt: new Date(),
      shell: { id: 's1', title: 'Repair, a trial', url: 'http://x' },
      deliveredAt: new Date(),
      way: 'beside',
      brought: { held: ['e7', 'e8'], work: 1, overwrote: false },
    });
    for (const step of ['deliver', 'check'] as const) await noteStep(moveId, step, 'done', '');
    expect(await backOf(services, moveId)).toEqual({
      can: true,
      says: [
        '2 things that came by this delivery will be taken out of “Repair, a trial” by their identifiers.',
        'What was there before, and what others put there since, stays as it is.',
      ],
    });
    state.work.push({ entry: 'e8' });
    const worked = await backOf(services, moveId);
    expect([worked.can, worked.says[0]]).toEqual([
      false,
      'Learners have worked in it meanwhile: 1 item that came would be lost with what they did.',
    ]);
    expect(await code(takeBack(services, person, moveId))).toBe('no-way-back');
    expect(await AuditEntry.count({ where: { act: 'delivery is to be taken back', subject: `move ${moveId}` } })).toBe(
      0,
    );
    await noteTakenBack(await moveById(moveId), delivery, person.id);
    const summary = await moveSummary(await moveById(moveId));
    expect([summary.at, summary.shell, summary.canTakeBack]).toEqual(['deliver', null, false]);
    expect(summary.deliveries[0]?.takenBackAt).not.toBeNull();
    // Delivered again it is another delivery, not the one that was taken back.
    expect(await code(deliver(services, person, moveId, SHELL))).toBe('done');
    expect(await Delivery.count({ where: { moveId } })).toBe(2);
  });

  it('is left alone by a worker that goes on after one which had taken the delivery back and died before it said so', async () => {
    // What other specs left waiting is not to be done here.
    await Job.update({ state: 'called off' }, { where: { state: 'queued' } });
    const delivered = {
      moveId,
      planVersion: 1,
      asked: {},
      askedBy: person.id,
      askedAt: new Date(),
    };
    // Called off before: its shell stands, and a person may have put something in.
    const shell = { id: 's2', title: 'Called off', url: 'http://x' };
    await Delivery.create({ ...delivered, requestKey: `deliver:${moveId}-off`, shell });
    const back = await Delivery.create({
      ...delivered,
      requestKey: `deliver:${moveId}-back`,
      shell: { id: 's1', title: 'Made for it', url: 'http://x' },
      deliveredAt: new Date(),
      takenBackAt: new Date(),
      brought: { held: ['e7'], work: 0, overwrote: false },
    });
    const key = `take-back:move-${moveId}:delivery-${back.id}`;
    const job = await enqueue({ kind: 'take-back', key, course: 'BTB', moveId, input: { round: 0 } });
    const result = { by: 'course', deliveryId: back.id };
    await JobStep.create({ jobId: job.id, name: 'judged', result, finishedAt: new Date() });
    house.platform.calls();
    const worker = house.startWorker();
    await until(async () => (await job.reload()).state === 'done');
    await worker.stop();
    expect(house.platform.calls().filter((call) => !call.startsWith('GET'))).toEqual([]);
  });
});
