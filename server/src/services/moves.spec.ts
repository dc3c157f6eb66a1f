import { randomUUID } from 'node:crypto';
import { problem, type Item } from '@treenail/core';
import type { Sequelize } from 'sequelize';
import { MOVE_STEPS, type MoveSummary, type MovesAsked, type Person } from '../contract/index.ts';
import {
  AuditEntry,
  Copy,
  CourseRow,
  DecisionRow,
  Instance,
  Job,
  MoveStepRow,
  planOf,
  type WholeMove,
} from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import type { Worker } from '../jobs/worker.ts';
import { until } from '../testing/database.ts';
import { testHouse, type House } from '../testing/house.ts';
import { deliveredAlready, keptCourse } from '../testing/moves.ts';
import { codeOf as code } from '../testing/refusals.ts';
import type { Services } from './context.ts';
import { readDocument, writeDocument } from './documents.ts';
import { addInstance } from './instances.ts';
import { noteStep } from './move-rows.ts';
import * as moves from './moves.ts';
import { followUp, goOn } from './plan.ts';
import { heldBy, patienceMs } from './pauses.ts';
import { changePlatform } from './platforms.ts';
import { listCourses } from './register.ts';
import { listCopies, removeCopy } from './strongroom.ts';
import * as retries from './retries.ts';

const PAGE = { words: '', sort: '', offset: 0, limit: 100 };
/** A job that failed. */
const FAILED = {
  kind: 'look',
  course: 'BTB',
  input: { round: 0 },
  state: 'failed',
  words: '',
  problem: problem('disk-full', 'There is no room on 100%_disk.'),
} as const;

describe('Moves', () => {
  let house: House;
  let sequelize: Sequelize;
  let services: Services;
  let person: Person;
  let worker: Worker;
  let from: Instance;
  let to: Instance;
  let newMove: () => Promise<WholeMove>;

  beforeAll(async () => {
    house = await testHouse();
    ({ sequelize, services, person } = house);
    const nowhere = { baseUrl: 'http://127.0.0.1:1', credential: 't' };
    // Courses of files are asked of nobody.
    from = await Instance.findOne({ where: { platform: 'files' }, rejectOnEmpty: true });
    to = await addInstance(services.config.secret, { name: 'New', platform: 'tarnhall', ...nowhere });
    const page = '<html lang="en"><body><h1>Start</h1><p>See <a href="gone.html">Caulking</a>.</p></body></html>';
    const kept = await keptCourse(
      services,
      house.folder,
      { 'index.html': page },
      {
        from,
        to,
        remoteId: 'c1',
        createdBy: person.id,
      },
    );
    newMove = kept.newMove;
    startWorker();
  });
  const startWorker = () => {
    worker = house.startWorker();
  };
  afterAll(() => house.close());

  const at = async (id: number) => (await moves.moveSummary(await moves.moveById(id))).at;
  /** A move that stands at its fit. */
  const looked = async () => {
    const move = await newMove();
    await enqueue({
      kind: 'look',
      key: `look:${randomUUID()}`,
      course: 'BTB',
      moveId: move.id,
      input: { round: 0 },
    });
    await until(async () => (await at(move.id)) === 'fit');
    return moves.moveById(move.id);
  };
  const built = async () => {
    const move = await looked();
    await moves.acceptFit(person, move.id);
    await until(async () => (await at(move.id)) === 'deliver');
    return moves.moveById(move.id);
  };

  it('take records of students along only where a person said why', async () => {
    const move = await looked();
    const { findings } = await readDocument(move.id, 'findings');
    const [like] = findings;
    if (!like) throw new Error('nothing was found');
    const records = {
      ...like,
      kind: 'people-records',
      key: 'people',
      groupKey: 'people',
      evidence: '7 people, 4 grades',
    };
    await writeDocument(move.id, 'findings', { findings: [...findings, records] });
    await expectAsync(moves.acceptFit(person, move.id)).toBeRejectedWithError(
      'Records of students would go along: 7 people, 4 grades.',
    );
    const match = { kind: 'people-records', groupKey: null, key: null };
    const left = {
      moveId: move.id,
      matchKind: match.kind,
      matchGroupKey: null,
      matchKey: null,
      mend: 'leave',
      params: {},
    };
    await DecisionRow.create({ ...left, reason: 'an appeal is open', decidedBy: person.id, decidedAt: new Date() });
    await moves.acceptFit(person, move.id);
    expect(planOf(await moves.moveById(move.id)).acceptedAt).not.toBeNull();
  });

  it('are carried in the format that keeps the most unless a person chose', async () => {
    const move = await looked();
    expect(planOf(move).carriedAs).toBe('tarnhall');
    expect(planOf(move).formChosen).toBeFalse();
  });

  it('say of Tidy that something is left to decide, and lead nobody past it', async () => {
    const move = await looked();
    const { steps } = await moves.moveSummary(move);
    expect(steps.find((s) => s.step === 'tidy')?.state).toBe('open');
    await noteStep(move.id, 'tidy', 'done', 'all decided');
    const after = await moves.moveSummary(await moves.moveById(move.id));
    expect(after.steps.find((s) => s.step === 'tidy')?.state).toBe('done');
  });

  it('can be started again to the same place, and one press is one move', async () => {
    const course = await CourseRow.findOne({ where: { remoteId: 'c1' }, rejectOnEmpty: true });
    const copy = await Copy.findOne({ where: { sourceKey: 'k' }, rejectOnEmpty: true });
    const asked = { courseId: course.id, destinationId: to.id, copyId: copy.id };
    const first = await moves.startMove(person, asked);
    expect(await moves.startMove(person, asked)).toEqual({ moveId: first.moveId, fresh: false });
    const another = randomUUID();
    const presses = await Promise.all([1, 2, 3].map(() => moves.startMove(person, { ...asked, another })));
    expect(new Set(presses.map((p) => p.moveId)).size).toBe(1);
    expect(presses[0]?.moveId).not.toBe(first.moveId);
    const { open, copies } = await moves.beginningsOf(services, course.id);
    expect(open.map((m) => m.id)).toContain(first.moveId);
    expect(copies.map((c) => c.id)).toContain(copy.id);
  });

  it('open their fit again until they are delivered, and build anew from it', async () => {
    const move = await built();
    expect((await moves.moveSummary(move)).canReopen).toBeTrue();
    await moves.reopenFit(person, move.id);
    expect(await at(move.id)).toBe('fit');
    const open = await moves.moveById(move.id);
    const { steps, built: now, planVersion } = await moves.moveSummary(open);
    const resultOf = (step: string) => steps.find((s) => s.step === step)?.result;
    expect([now, planVersion, resultOf('fit')?.startsWith('accepted'), resultOf('build')]).toEqual([
      null,
      2,
      false,
      '',
    ]);
    // What was accepted first stays as it was, with who accepted it and what was built of it.
    const [first] = open.plans;
    expect([first?.version, first?.acceptedBy, first?.accepted?.carriedAs]).toEqual([1, person.id, 'tarnhall']);
    expect(first?.built?.size).toBeGreaterThan(0);
    await moves.acceptFit(person, move.id);
    await until(async () => (await at(move.id)) === 'deliver');
    expect(await Job.count({ where: { moveId: move.id, kind: 'build' } })).toBe(2);
    const accepted = await moves.moveSummary(await moves.moveById(move.id));
    expect(accepted.steps.find((s) => s.step === 'fit')?.by).toBe(person.name);
    await deliveredAlready(await moves.moveById(move.id));
    expect(await code(moves.reopenFit(person, move.id))).toBe('delivery-begun');
  });

  it('are named in the register, each with the step at which it stands', async () => {
    const move = await looked();
    const { rows } = await listCourses(PAGE);
    expect(rows.find((course) => course.move?.id === move.id)?.move?.step).toBe('fit');
  });

  it('stay accepted though their look is done once more', async () => {
    const move = await built();
    const look = `look:${randomUUID()}`;
    await enqueue({ kind: 'look', key: look, course: 'BTB', moveId: move.id, input: { round: 0 } });
    await until(async () => (await Job.findOne({ where: { requestKey: look } }))?.state === 'done');
    expect(await at(move.id)).toBe('deliver');
  });

  it('refuse a delivery that is asked for once more after it is done, with a sentence', async () => {
    const move = await built();
    await deliveredAlready(move);
    const shell = { section: '01', term: 'Autumn 2026', title: 'Repair', typed: '', asKept: false, quiet: false };
    expect(await code(moves.deliver(services, person, move.id, shell))).toBe('delivered-already');
    expect(await Job.count({ where: { moveId: move.id, kind: 'deliver' } })).toBe(0);
  });

  it('say what stands at the destination already, and which move brought it', async () => {
    const before = await newMove();
    await deliveredAlready(before, { id: 's1', title: 'Repair', url: 'http://x' });
    const listed = { section: '01', term: 'Autumn 2026', title: 'Repair', owner: '', size: 1, changedAt: new Date() };
    await CourseRow.create({ ...listed, instanceId: to.id, remoteId: 's1', code: 'BTB 210' });
    await CourseRow.create({ ...listed, instanceId: to.id, remoteId: 's2', code: 'BTB 210', section: '02' });
    await CourseRow.create({ ...listed, instanceId: to.id, remoteId: 's3', code: 'EST 120' });
    const { courses } = await moves.thereAlready((await newMove()).id);
    expect(courses.map((c) => [c.section, c.moveId])).toEqual([
      ['01', before.id],
      ['02', null],
    ]);
  });

  it('are called off with all that runs for them, and put away once they are over', async () => {
    const move = await looked();
    expect(await code(moves.putAway(person, move.id, true))).toBe('still-open');
    const waiting = await enqueue({
      kind: 'outside',
      key: `outside:${randomUUID()}`,
      course: '',
      moveId: move.id,
      input: { round: 0 },
    });
    await waiting.update({ runAfter: new Date(Date.now() + 3_600_000) });
    await moves.callOffMove(person, move.id);
    await until(async () => (await Job.findByPk(waiting.id))?.state === 'called off');
    expect(await code(moves.acceptFit(person, move.id))).toBe('called-off');
    await moves.putAway(person, move.id, true);
    const listed = (await moves.listMoves(person, { ...PAGE, away: true })).rows.find((m) => m.id === move.id);
    expect([listed?.calledOffAt === null, listed?.putAwayAt === null]).toEqual([false, false]);
    const without = await moves.listMoves(person, { ...PAGE, away: false });
    expect([without.rows.some((m) => m.id === move.id), without.sums.away]).toEqual([false, 1]);
    await moves.putAway(person, move.id, false);
    expect((await moves.moveById(move.id)).putAwayAt).toBeNull();
    const delivered = await newMove();
    await deliveredAlready(delivered);
    expect(await code(moves.callOffMove(person, delivered.id))).toBe('delivered');
  });

  it('wait for the quiet hours of the destination where that is asked for, unless these last', async () => {
    const move = await built();
    const shell = { section: '01', term: 'Autumn 2026', title: 'Repair', typed: '', asKept: true, quiet: true };
    // Hours that are not now, whenever this is tried: twelve hours ahead by the clock of the house.
    const clock = (hours: number) => {
      const at = new Date(Date.now() + hours * 3_600_000);
      const zone = services.config.zone;
      return new Intl.DateTimeFormat('en-GB', {
        hour: '2-digit',
        minute: '2-digit',
        hourCycle: 'h23',
        timeZone: zone,
      }).format(at);
    };
    await changePlatform(services, person, to.id, { quiet: { from: clock(12), to: clock(13) } });
    await moves.deliver(services, person, move.id, shell);
    const job = await Job.findOne({ where: { moveId: move.id, kind: 'deliver' }, rejectOnEmpty: true });
    expect(job.words).toContain('waiting for the quiet hours of New, from');
    expect(Math.round((job.runAfter.getTime() - Date.now()) / 3_600_000)).toBe(12);
    // Pressed once more it is the same delivery; called off, it can go at once.
    await moves.deliver(services, person, move.id, { ...shell, quiet: false });
    expect(await Job.count({ where: { moveId: move.id, kind: 'deliver' } })).toBe(1);
    await moves.callOffMove(person, move.id);
    await changePlatform(services, person, to.id, { quiet: null, cutOff: null });
    const [told] = (await moves.listMoves(person, { ...PAGE, away: true })).rows;
    expect(told?.to.quiet).toBeNull();
  });

  it('are listed by a fixed number of queries, however many there are', async () => {
    // Nothing else asks meanwhile.
    await worker.stop();
    const query = spyOn(sequelize, 'query').and.callThrough();
    const asked = async () => {
      query.calls.reset();
      await moves.listMoves(person, { ...PAGE, away: true });
      return query.calls.count();
    };
    // There is one, whatever was tried before.
    await newMove();
    const few = await asked();
    for (let i = 0; i < 30; i++) await newMove();
    expect(await asked()).toBe(few);
    // The page, what fits, what there is and waits, what is put away; then one a table: moves, steps, plans, deliveries,
    // people, courses, jobs, copies, instances.
    expect(few).toBe(13);
    // Of many the newest are told, and how many there are.
    const some = await moves.listMoves(person, { ...PAGE, limit: 5, away: true });
    expect(some.rows.length).toBe(5);
    expect(some.rows.map((m) => m.id)).toEqual([...some.rows.map((m) => m.id)].sort((a, b) => b - a));
    expect(some.total).toBeGreaterThanOrEqual(30);
    const next = await moves.listMoves(person, { ...PAGE, offset: 5, limit: 5, away: true });
    expect(new Set([...some.rows, ...next.rows].map((m) => m.id)).size).toBe(10);
    startWorker();
  });

  it('are sorted, searched and counted by the database as each is told', async () => {
    // One at every step that can be reached here, one whose job failed, one that is called off.
    const fitted = await looked();
    const ready = await built();
    await newMove();
    const failed = await newMove();
    const now = new Date();
    const times = { createdAt: now, changedAt: now, runAfter: now };
    await Job.create({ ...FAILED, ...times, moveId: failed.id, requestKey: `look:${randomUUID()}` });
    const gone = await newMove();
    await moves.callOffMove(person, gone.id);
    const delivered = await newMove();
    await deliveredAlready(delivered);
    await worker.stop();
    const list = (asked: Partial<MovesAsked>) =>
      moves.listMoves(person, { ...PAGE, away: true, limit: 1000, ...asked });
    const { rows, sums } = await list({});
    const names = (sort: string, told: (m: MoveSummary) => string | number) =>
      list({ sort }).then((page) => page.rows.map(told));
    const at = (m: MoveSummary) => MOVE_STEPS.indexOf(m.at);
    const done = (m: MoveSummary) => m.steps.filter((s) => s.state === 'done').length;
    const result = (m: MoveSummary) => m.steps.find((s) => s.step === m.at)?.result ?? '';
    const ascending = (a: number, b: number) => a - b;
    expect(new Set(rows.map(at)).size).toBeGreaterThan(2);
    expect(await names('at', at)).toEqual(rows.map(at).sort(ascending));
    expect(await names('-steps', done)).toEqual(rows.map(done).sort(ascending).reverse());
    const byResult = await list({ sort: 'result' });
    expect(new Set(byResult.rows.map((m) => m.id)).size).toBe(rows.length);
    // Like results stand together: a result that is told is the one that was sorted by.
    const runs = byResult.rows.map(result).filter((told, i, all) => told !== all[i - 1]);
    expect(new Set(runs.map((told) => told.toLowerCase())).size).toBe(runs.length);
    const waits = (m: MoveSummary) =>
      m.calledOffAt === null &&
      m.steps.some((s) => (s.state === 'here' && s.step !== 'hand-over') || s.state === 'failed');
    expect(sums.waiting).toBe(rows.filter(waits).length);
    const found = async (words: string) => (await list({ words })).rows.map((m) => m.id);
    expect(await found('called off')).toContain(gone.id);
    expect(await found('dry FIT')).toContain(fitted.id);
    expect(await found('deliver')).toContain(ready.id);
    expect(await found('no room on 100%_disk')).toEqual([failed.id]);
    expect(await found('100%disk')).toEqual([]);
    startWorker();
  });

  it('keep a copy that they stand on from being removed; one that none needs goes, and its row stays', async () => {
    const move = await newMove();
    const { id, ...first } = (await Copy.findByPk(move.copyId ?? 0, { rejectOnEmpty: true })).get({ plain: true });
    expect(id).toBe(move.copyId ?? 0);
    const sha256 = await services.store.putBytes(Buffer.from('another package'));
    const copy = await Copy.create({ ...first, sha256, sourceKey: 'another' });
    // The same bytes, kept twice.
    const twin = await Copy.create({ ...first, sha256, sourceKey: 'twin' });
    await move.update({ copyId: copy.id });
    expect(await code(removeCopy(services, person, copy.id, 'no room'))).toBe('copy-needed');
    await moves.callOffMove(person, move.id);
    await removeCopy(services, person, twin.id, 'kept twice');
    expect(await services.store.has(copy.sha256)).toBeTrue();
    await removeCopy(services, person, copy.id, 'no room');
    expect(await services.store.has(copy.sha256)).toBeFalse();
    const row = (await listCopies(PAGE)).rows.find((c) => c.id === copy.id);
    expect(row?.removed?.why).toBe('no room');
    expect(await AuditEntry.count({ where: { act: 'copy removed' } })).toBe(2);
    const instructor: Person = { ...person, role: 'instructor' };
    expect(await code(removeCopy(services, instructor, copy.id, 'x'))).toBe('not-allowed');
  });

  it('leave a step that failed to a person, whatever else of the move is done', async () => {
    const move = await newMove();
    const look = await enqueue({
      kind: 'look',
      key: `look:move-${move.id}`,
      course: 'BTB',
      moveId: move.id,
      input: { round: 0 },
    });
    await until(async () => (await Job.findByPk(look.id))?.state === 'done');
    await Job.update({ state: 'failed' }, { where: { id: look.id } });
    // As if it had failed before it was done: the move stands at its look again.
    await MoveStepRow.destroy({ where: { moveId: move.id, step: 'look' } });
    await followUp(move.id);
    expect((await Job.findByPk(look.id))?.state).toBe('failed');
    await goOn(move.id);
    expect((await Job.findByPk(look.id))?.state).not.toBe('failed');
  });

  it('wait while the instance that they ask is paused, each for as long as is set for it', async () => {
    const move = await newMove();
    await changePlatform(services, person, to.id, { paused: true, patienceMinutes: 90 });
    const job = await enqueue({
      kind: 'deliver',
      key: `deliver:${randomUUID()}`,
      course: '',
      moveId: move.id,
      input: { round: 0, shell: { code: 'X', section: '', term: '', title: 'X' } },
    });
    expect(await heldBy(job)).toContain('New is paused');
    expect(await patienceMs(job)).toBe(90 * 60_000);
    await until(async () => (await Job.findByPk(job.id))?.words.startsWith('New is paused') === true);
    await changePlatform(services, person, to.id, { paused: false });
    expect(await heldBy(job)).toBeNull();
    // It is taken up at once, and refused for what it is: nothing is built.
    await until(async () => (await Job.findByPk(job.id))?.state === 'failed');
  });

  it('show what arrived: pages by their texts, the rest by the model, and say what is not at hand', async () => {
    const { id } = await newMove();
    const common = { definitionPath: null, settings: {} };
    const items: Item[] = [
      { kind: 'page', id: 'p', title: 'Knots', file: 'p.html', ...common },
      { kind: 'page', id: 'long', title: 'All knots', file: 'l.html', ...common },
      { kind: 'discussion', id: 'd', title: 'Talk', text: { format: 'html', text: '<p>Which knot?</p>' }, ...common },
      { kind: 'file', id: 'f', title: 'Chart', file: 'chart.pdf', ...common },
    ];
    const origin = { format: 'tarnhall', version: '1', untouched: true };
    const metadata = { keywords: [] };
    await writeDocument(id, 'arrived', { title: 'Rigging', origin, metadata, outline: [], items, files: [] });
    const shown = async (item: string) => {
      const preview = await moves.previewOfArrived(id, item, false);
      return preview.form === 'page' ? preview.html : preview.form === 'none' ? preview.why : preview.form;
    };
    expect(await shown('p')).toContain('check it again');
    const text = '<p>Tie a <img src="held:f1" alt="bowline"> so.</p><script>alert(1)</script>';
    await writeDocument(id, 'pages', { pages: { p: text } });
    expect(await shown('p')).toContain('<p>Tie a <img alt="bowline"> so.</p>');
    expect(await shown('p')).not.toContain('alert(1)');
    expect(await shown('long')).toBe('there was no room to keep its text');
    expect(await shown('d')).toContain('<p>Which knot?</p>');
    expect(await shown('f')).toContain('its bytes stay at the platform');
    expect(await code(moves.previewOfArrived(id, 'nobody', false))).toBe('not-found');
  });

  it('start all failed jobs of an instance again at once, with what they have', async () => {
    const failed = await Job.create({
      kind: 'check',
      requestKey: `check:${randomUUID()}`,
      moveId: (await newMove()).id,
      course: '',
      input: { round: 2 },
      state: 'failed',
      words: '',
      problem: { code: 'platform-silent', message: 'It does not answer.', action: 'Look.' },
      runAfter: new Date(Date.now() + 3_600_000),
      createdAt: new Date(),
      changedAt: new Date(),
    });
    // Paused, so that what is put back is not taken at once.
    await changePlatform(services, person, to.id, { paused: true });
    expect(await retries.retryAllOf(person, to.id)).toBeGreaterThanOrEqual(1);
    const again = await Job.findByPk(failed.id, { rejectOnEmpty: true });
    // Nothing is asked anew: the platform had not said no.
    expect(['queued', 'running', 'waiting']).toContain(again.state);
    expect([(again.input as { round: number }).round, again.problem ?? null]).toEqual([2, null]);
    await changePlatform(services, person, to.id, { paused: false });
  });
});
