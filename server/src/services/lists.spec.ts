import { QueryTypes, type Sequelize } from 'sequelize';
import { configFromEnvironment } from '../config.ts';
import { Copy, CourseRow, Instance } from '../db/models/index.ts';
import { testDatabase } from '../testing/database.ts';
import { addInstance } from './instances.ts';
import { courseById, listCourses, registerSums } from './register.ts';
import { copyDetail, listCopies } from './strongroom.ts';
import { migrations } from '../db/migrate.ts';

const PAGE = { words: '', sort: '', offset: 0, limit: 100 };
const DAY = 86_400_000;

describe('Lists in pages', () => {
  let drop: () => Promise<void>;
  let sequelize: Sequelize;
  let live: Instance;
  let files: Instance;

  beforeAll(async () => {
    const database = await testDatabase();
    ({ sequelize } = database);
    drop = () => database.drop();
    const nowhere = { baseUrl: 'http://127.0.0.1:1', credential: 't' };
    live = await addInstance(configFromEnvironment().secret, { name: 'Live', platform: 'quernhold', ...nowhere });
    await live.update({ cutOff: new Date(Date.now() + 30 * DAY) });
    files = await Instance.findOne({ where: { platform: 'files' }, rejectOnEmpty: true });
    const course = (n: number) => ({
      instanceId: n % 5 === 0 ? files.id : live.id,
      remoteId: `c${n}`,
      // Numbers of one and of two digits, since people order them by their size.
      code: `KN ${n % 12}`,
      section: String((n % 3) + 1),
      term: 'Autumn 2026',
      title: n === 7 ? '100% rope_work' : `Knots ${n}`,
      owner: '',
      size: n % 4 === 0 ? 500 : n,
      changedAt: new Date(Date.UTC(2026, 8, 1 + n)),
    });
    const courses = await CourseRow.bulkCreate(Array.from({ length: 60 }, (_, n) => course(n)));
    const ids = new Map((await CourseRow.findAll()).map((c) => [c.remoteId, c.id]));
    const copy = (n: number, more: object) => ({
      courseId: ids.get(`c${n}`) ?? null,
      fileName: `kn-${n}.zip`,
      ...{ code: `KN ${n % 12}`, section: '1', term: 'Autumn 2026', title: `Knots ${n}` },
      instanceName: 'Live',
      format: 'quernhold',
      size: 100 + n,
      sha256: String(n % 10).repeat(64),
      items: n,
      keptAt: new Date(Date.UTC(2026, 8, 20)),
      sourceKey: `made ${n} ${JSON.stringify(more)}`,
      ...more,
    });
    expect(courses.length).toBe(60);
    await Copy.bulkCreate([
      ...Array.from({ length: 30 }, (_, n) => copy(n, {})),
      copy(40, { partial: true }),
      copy(41, { removedAt: new Date(), removedWhy: 'no room' }),
      copy(3, { keptAt: new Date(Date.UTC(2026, 10, 20)) }),
    ]);
  });
  afterAll(() => drop());

  it('give every row once, over as many pages as it takes, whatever they are sorted by', async () => {
    for (const sort of ['', 'course', '-size', 'size', 'changed', '-copy', 'copy', 'lacks', 'gone', 'title']) {
      const rows = [];
      for (let offset = 0; offset < 60; offset += 7) {
        rows.push(...(await listCourses({ ...PAGE, sort, offset, limit: 7 })).rows);
      }
      expect(new Set(rows.map((c) => c.id)).size)
        .withContext(sort)
        .toBe(60);
      expect(rows.length).withContext(sort).toBe(60);
    }
  });

  it('are sorted as people order words and numbers, what has no value last either way', async () => {
    const codes = (await listCourses(PAGE)).rows.map((c) => c.code);
    expect(codes.filter((code, i) => code !== codes[i - 1])).toEqual(Array.from({ length: 12 }, (_, n) => `KN ${n}`));
    const sizes = (await listCourses({ ...PAGE, sort: '-size' })).rows.map((c) => c.size);
    expect(sizes).toEqual([...sizes].sort((a, b) => b - a));
    for (const sort of ['copy', '-copy']) {
      const kept = (await listCourses({ ...PAGE, sort })).rows.map((c) => c.newestCopy?.keptAt ?? null);
      expect(kept.indexOf(null)).withContext(sort).toBe(30);
      const there = kept.slice(0, 30).map(String);
      expect(there).toEqual(sort === 'copy' ? [...there].sort() : [...there].sort().reverse());
    }
  });

  it('are narrowed by every word, in any order and case, a sign of a pattern standing for itself', async () => {
    const titles = async (words: string) => (await listCourses({ ...PAGE, words })).rows.map((c) => c.title);
    expect(await titles('KNOTS live 31')).toEqual(['Knots 31']);
    expect(await titles('7-2 knots')).toEqual(['Knots 19', 'Knots 31', 'Knots 43', 'Knots 55']);
    expect(await titles('0% rope_')).toEqual(['100% rope_work']);
    expect(await titles('1%rope')).toEqual([]);
    expect(await titles("' OR 1=1 --")).toEqual([]);
  });

  it('tell of the register what it lacks, all of it and not the page alone', async () => {
    const { rows, total, sums } = await listCourses({ ...PAGE, limit: 5, instance: live.id });
    const register = await registerSums();
    expect([rows.length, total, register.courses]).toEqual([5, 48, 60]);
    expect([...register.on].sort()).toEqual([files.id, live.id].sort());
    const every = (await listCourses({ ...PAGE, instance: live.id })).rows;
    expect(sums.size).toBe(every.reduce((sum, c) => sum + c.size, 0));
    const given = [...every, ...(await listCourses({ ...PAGE, instance: files.id })).rows];
    const bare = given.filter((c) => c.newestCopy === null);
    const old = given.filter((c) => c.newestCopy !== null && c.newestCopy.keptAt < c.changedAt);
    expect(register.lacks).toEqual({ 'no copy': bare.length, 'old copy': old.length, 'cut-off': 48 });
    expect([bare.length, old.length].every((n) => n > 3)).toBeTrue();
    const lacking = async (lacks: 'no copy' | 'old copy') =>
      (await listCourses({ ...PAGE, lacks })).rows.map((c) => c.id);
    expect((await lacking('no copy')).sort()).toEqual(bare.map((c) => c.id).sort());
    expect((await lacking('old copy')).sort()).toEqual(old.map((c) => c.id).sort());
    expect(await courseById(every[0]?.id ?? 0)).toEqual(every[0] as (typeof every)[number]);
  });

  it('tell what the strongroom holds, the same bytes once, and how many others there are of a course', async () => {
    const { rows, total, sums } = await listCopies({ ...PAGE, limit: 4 });
    expect([rows.length, total, sums.kept]).toEqual([4, 33, 32]);
    // Of each ten that are the same the greatest is told: they are the same bytes, and so of one size in life.
    const held = new Map<string, number>();
    const kept = (await listCopies(PAGE)).rows.filter((c) => !c.removed);
    for (const c of kept) held.set(c.sha256, Math.max(held.get(c.sha256) ?? 0, c.size));
    expect(sums.bytes).toBe([...held.values()].reduce((a, b) => a + b, 0));
    expect(rows[0]?.keptAt.startsWith('2026-11-20')).toBeTrue();
    const id = rows[0]?.id ?? 0;
    const { others, before } = await copyDetail(id);
    expect([others, before]).toEqual([1, null]);
    const names = (await listCopies({ ...PAGE, sort: 'file' })).rows.map((c) => c.fileName);
    expect(names.indexOf('kn-9.zip')).toBeLessThan(names.indexOf('kn-10.zip'));
    expect((await listCopies({ ...PAGE, words: 'kn-12.zip' })).rows.length).toBe(1);
  });

  it('have the indexes that they need, which can be taken away again', async () => {
    const names = async () => {
      const rows = await sequelize.query<{ name: string }>(
        `SELECT DISTINCT INDEX_NAME AS name FROM information_schema.STATISTICS
         WHERE TABLE_SCHEMA = DATABASE() AND TABLE_NAME = 'copies'`,
        { type: QueryTypes.SELECT },
      );
      return rows.map((row) => row.name);
    };
    expect(await names()).toContain('copies_newest');
    await migrations(sequelize).down({ to: '0012-lists' });
    expect(await names()).not.toContain('copies_newest');
    await migrations(sequelize).up();
    expect(await names()).toContain('copies_newest');
  });
});
