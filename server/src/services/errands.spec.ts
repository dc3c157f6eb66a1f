import { Refusal, openPackage, readPackage } from '@treenail/core';
import { nodeEngine } from '@treenail/core/node';
import { AuditEntry, Copy, CourseRow, GivenFile, isDone, type Instance } from '../db/models/index.ts';
import type { NewErrand } from '../contract/index.ts';
import { until } from '../testing/database.ts';
import { testHouse, type House } from '../testing/house.ts';
import { keptCourse } from '../testing/moves.ts';
import { codeOf as code } from '../testing/refusals.ts';
import { contentsOf, giveFile, givenFile, givenOf, startErrand } from './errands.ts';
import { documentIfAny, readDocument } from './documents.ts';
import { stepOf } from './move-steps.ts';
import { moveById, moveSummary } from './moves.ts';
import { removeCopy } from './strongroom.ts';

describe('A kept copy, restored or given away', () => {
  let house: House;
  let copy: Copy;
  let to: Instance;
  let course: CourseRow;
  let state: { units: unknown[]; work: { entry: string }[]; shut: boolean };
  let asked = 0;
  const errand = (more: Partial<NewErrand> = {}): NewErrand => ({
    act: 'restore',
    items: null,
    destinationId: to.id,
    into: null,
    key: `errand-key-${++asked}`,
    ...more,
  });
  const settled = async (moveId: number) => {
    await until(async () => {
      const move = await moveById(moveId);
      return move.errand?.ready === true && (isDone(move, 'build') || move.errand.trouble !== '');
    });
    return moveById(moveId);
  };

  beforeAll(async () => {
    house = await testHouse();
    state = { units: [], work: [], shut: false };
    house.platform.routes = {
      'GET /api/spaces/s1/contents': () => ({ units: state.units, pools: [], files: [] }),
      'GET /api/spaces/s1/people': () => ({ people: [], work: state.work, shut: state.shut, turn: 1 }),
      'GET /api/spaces': { spaces: [] },
    };
    const from = await house.addInstance('Old', 'oxlea');
    to = await house.addInstance('New', 'tarnhall');
    const files = {
      'start.html': '<title>Start</title><p>Start <a href="fairing.html">here</a></p>',
      'fairing.html': '<title>Fairing</title><p>Fair</p>',
      'deep/glue.html': '<title>Glue</title><p>Stick</p>',
    };
    const { services, folder, person } = house;
    await keptCourse(services, folder, files, { from, to, remoteId: 'c7', createdBy: person.id });
    copy = await Copy.findOne<Copy>({ rejectOnEmpty: true });
    course = await CourseRow.create({
      ...{ instanceId: to.id, remoteId: 's1', code: 'BTB 210', section: '02', term: 'Autumn 2026' },
      ...{ title: 'Repair, a trial', owner: '', size: 1, changedAt: new Date() },
    });
    house.startWorker();
  }, 120_000);
  afterAll(() => house?.close());
  beforeEach(() => {
    state = { units: [], work: [], shut: false };
  });

  const idOf = async (title: string) => {
    const { course: read } = await contentsOf(house.services, copy.id);
    const item = read.items.find((i) => i.title === title);
    if (!item) throw new Error(`no ${title}`);
    return item.id;
  };

  it('goes whole as far as the delivery by itself, once for each that asks', async () => {
    const trail = () => AuditEntry.count({ where: { act: 'restore asked for', subject: `copy ${copy.id}` } });
    const before = await trail();
    const wish = errand();
    const id = await startErrand(house.person, copy.id, wish);
    expect(await startErrand(house.person, copy.id, wish)).toBe(id);
    const move = await settled(id);
    expect([stepOf(move), move.errand?.trouble]).toEqual(['deliver', '']);
    expect((await readDocument(id, 'look')).course.items.length).toBe(3);
    expect(await documentIfAny(id, 'into')).toBeNull();
    expect((await moveSummary(move)).errand?.act).toBe('restore');
    expect((await trail()) - before).toBe(1);
  });

  it('goes in part with what was chosen and nothing else, into the course that was named', async () => {
    const id = await startErrand(
      house.person,
      copy.id,
      errand({ act: 'give', items: [await idOf('Fairing')], into: { courseId: course.id, way: 'beside' } }),
    );
    const move = await settled(id);
    expect([stepOf(move), move.errand?.trouble]).toEqual(['deliver', '']);
    const { course: goes } = await readDocument(id, 'working');
    expect(goes.items.map((i) => i.title)).toEqual(['Fairing']);
    // Folders that nothing of it stands in do not go.
    expect(goes.outline.map((n) => n.title)).toEqual(['Fairing']);
    expect((await readDocument(id, 'into')).way).toBe('beside');
    const [given] = await givenOf(copy.id);
    expect([given?.words, given?.by, given?.move]).toEqual(['page “Fairing”', 'Ada', { id, act: 'give', to: 'New' }]);
  });

  it('waits for a person where something is in the way, and says what', async () => {
    state.shut = true;
    const id = await startErrand(house.person, copy.id, errand({ into: { courseId: course.id, way: 'beside' } }));
    const move = await settled(id);
    expect(stepOf(move)).toBe('fit');
    expect(move.errand?.trouble).toContain('“Repair, a trial” is shut');
    const gone = await startErrand(house.person, copy.id, errand({ items: ['never-there'] }));
    expect((await settled(gone)).errand?.trouble).toContain('Nothing of what was chosen');
  });

  it('waits for a person where what was chosen leads to what does not go, and a file says so', async () => {
    const items = [await idOf('Start')];
    const move = await settled(await startErrand(house.person, copy.id, errand({ act: 'give', items })));
    expect(stepOf(move)).toBe('fit');
    expect(move.errand?.trouble).toContain('1 reference of what goes will lead nowhere');
    await giveFile(house.services, house.person, copy.id, { items, target: 'cc13', key: 'file-key-start' });
    await until(async () => (await GivenFile.findAll()).every((given) => given.built));
    const row = await GivenFile.findOne({ where: { requestKey: 'file-key-start' }, rejectOnEmpty: true });
    expect(row.losses).toEqual(['“Start” links to “Fairing”, which is not given with it']);
    await row.destroy();
  });

  it('is made into a file of what was chosen, which says where it is from', async () => {
    const { targets, back } = await contentsOf(house.services, copy.id);
    // The platform that it was fetched from takes courses into new shells only.
    expect(back).toBeNull();
    expect(targets.map((t) => t.id)).toContain('cc13');
    const wish = { items: [await idOf('Glue')], target: 'cc13', key: 'file-key-1' };
    await giveFile(house.services, house.person, copy.id, wish);
    await giveFile(house.services, house.person, copy.id, wish);
    await until(async () => (await GivenFile.findAll()).every((given) => given.built));
    const [row, ...others] = await GivenFile.findAll();
    if (!row) throw new Error('nothing was given');
    expect(others).toEqual([]);
    expect([row.words, row.losses]).toEqual(['page “Glue”', []]);
    const file = await givenFile(row.id);
    expect(file.fileName).toContain('Glue');
    const pkg = await openPackage(await house.services.store.open(file.sha256), { engine: nodeEngine });
    const { course: read } = await readPackage(pkg);
    await pkg.close();
    expect([read.title, read.items.map((i) => i.title)]).toEqual(['Glue', ['Glue']]);
    expect(read.metadata.description).toContain('From BTB 210-01 Repair');
    expect((await givenOf(copy.id)).filter((g) => g.file !== null).map((g) => g.file?.format)).toEqual([
      row.built?.format ?? '',
    ]);
    expect(
      await code(giveFile(house.services, house.person, copy.id, { ...wish, items: ['x'], key: 'file-key-2' })),
    ).toBe('part-empty');
    expect(
      await code(giveFile(house.services, house.person, copy.id, { ...wish, target: 'x', key: 'file-key-3' })),
    ).toBe('format-not-taken');
  });

  it('is refused to who may not, and of a copy that was removed', async () => {
    const instructor = { ...house.person, role: 'instructor' as const };
    expect(await code(startErrand(instructor, copy.id, errand()))).toBe('not-allowed');
    expect(
      await code(giveFile(house.services, instructor, copy.id, { items: ['x'], target: 'cc13', key: 'file-key-4' })),
    ).toBe('not-allowed');
    const other = await Copy.create({ ...copy.get(), id: undefined as never, fileName: 'other.zip', sourceKey: 'k2' });
    await removeCopy(house.services, house.person, other.id, 'a double');
    expect(await code(startErrand(house.person, other.id, errand()))).toBe('copy-removed');
    await expectAsync(givenFile(9999)).toBeRejectedWith(jasmine.any(Refusal));
  });
});
