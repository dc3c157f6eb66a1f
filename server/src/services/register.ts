import { Op, QueryTypes } from 'sequelize';
import type { CourseSummary, CoursesAsked, CoursesPage, Lack, RegisterSums } from '../contract/index.ts';
import { Copy, CourseRow, Instance, Job, Move } from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import { PLATFORMS, type ListedCourse } from '../platforms/index.ts';
import { kindOf } from './instances.ts';
import { missing, movesBy } from './move-rows.ts';
import { stepOf } from './move-steps.ts';
import { databaseOf, idsOf, inOrder, natural, sumsOf, type Listing, type Narrowing } from './pages.ts';

/** Has every instance listed anew; asked twice within `freshMs` it is done once. */
export async function refreshRegister(freshMs: number): Promise<void> {
  const slot = Math.floor(Date.now() / freshMs);
  for (const instance of await Instance.findAll({ where: { platform: PLATFORMS.map((kind) => kind.id) } })) {
    await enqueue({
      kind: 'register',
      key: `register:${instance.id}:${slot}:${freshMs}`,
      course: instance.name,
      moveId: null,
      input: { instanceId: instance.id },
      of: instance.name,
    });
  }
}

/** Letters that the register has room for. */
const ROOM = { code: 60, section: 30, term: 60, title: 500, owner: 190 } as const;
const REMOTE_ID = 120;

/** What a platform calls its courses may be of any length: what is longer than there is room for is cut. */
function fitting(listed: readonly ListedCourse[]): ListedCourse[] {
  return listed
    .filter(({ remoteId }) => remoteId.length <= REMOTE_ID)
    .map((course) => ({
      ...course,
      ...Object.fromEntries(
        Object.entries(ROOM).map(([name, most]) => [name, cut(course[name as keyof typeof ROOM], most)]),
      ),
    }));
}

/** As much of a text as there is room for, no sign cut in two. */
export function cut(text: string, most: number = ROOM.title): string {
  return text.length <= most ? text : [...text.slice(0, most - 1)].join('').replace(/[\uD800-\uDBFF]$/, '') + '…';
}

/** Writes down what an instance lists. Courses that are gone there stay while a move or a copy speaks of them. */
export async function writeListing(instanceId: number, listed: readonly ListedCourse[]): Promise<void> {
  await CourseRow.bulkCreate(
    fitting(listed).map((course) => ({ instanceId, ...course })),
    { updateOnDuplicate: ['code', 'section', 'term', 'title', 'owner', 'size', 'changedAt', 'parts'] },
  );
  const gone = await CourseRow.findAll({
    where: { instanceId, remoteId: { [Op.notIn]: fitting(listed).map((c) => c.remoteId) } },
  });
  for (const course of gone) {
    const spoken =
      (await Move.count({ where: { courseId: course.id } })) + (await Copy.count({ where: { courseId: course.id } }));
    if (spoken === 0) await course.destroy();
  }
  const left = listed.length - fitting(listed).length;
  const trouble =
    left === 0 ? null : `${left} courses have identifiers longer than ${REMOTE_ID} letters, and are not listed.`;
  await Instance.update({ listedAt: new Date(), trouble }, { where: { id: instanceId } });
}

/** How long before it a cut-off counts. */
const SOON_MS = 60 * 86_400_000;

/** What a course lacks, and when that is so. Of courses that nothing can be fetched of nothing is asked. */
const LACKING: Readonly<Record<Lack, string>> = {
  'no copy': 'i.gives AND k.kept_at IS NULL',
  'old copy': 'i.gives AND k.kept_at < c.changed_at',
  'cut-off': 'i.gives AND i.cut_off < :soon',
};

/* The index is named since the database would take one of fewer columns, and read every copy: three times as slow. */
const LISTING: Listing = {
  from: 'courses c JOIN instances i ON i.id = c.instance_id',
  joins: {
    k: `LEFT JOIN (SELECT course_id, MAX(kept_at) AS kept_at FROM copies FORCE INDEX (copies_newest)
      WHERE partial = 0 AND removed_at IS NULL GROUP BY course_id) k ON k.course_id = c.id`,
  },
  id: 'c.id',
  searched: ['c.code', 'c.section', `CONCAT(c.code, '-', c.section)`, 'c.title', 'c.term', 'i.name', 'c.owner'],
  sorts: {
    course: natural('c.code', 'c.section'),
    title: natural('c.title'),
    term: natural('c.term'),
    instance: ['i.name'],
    owner: ['c.owner'],
    size: ['c.size'],
    changed: ['c.changed_at'],
    copy: ['k.kept_at'],
    lacks: [
      `NULLIF(CONCAT(${Object.values(LACKING)
        .map((sql) => `IF(${sql}, '1', '')`)
        .join(', ')}), '')`,
    ],
    gone: ['i.cut_off'],
  },
  mayLack: ['copy', 'lacks', 'gone'],
  order: 'course',
};

/** A page of the register. */
export async function listCourses(asked: CoursesAsked): Promise<CoursesPage> {
  const narrowings: Narrowing[] = [upToSoon()];
  if (asked.instance !== undefined) narrowings.push({ sql: 'i.id = :on', values: { on: asked.instance } });
  if (asked.lacks !== undefined) narrowings.push({ sql: LACKING[asked.lacks] });
  const database = databaseOf(CourseRow);
  const [ids, { total, size }] = await Promise.all([
    idsOf(database, LISTING, asked, narrowings),
    sumsOf(database, LISTING, asked.words, narrowings, { size: 'SUM(c.size)' }),
  ]);
  const rows = inOrder(ids, await CourseRow.findAll({ where: { id: ids } }));
  return { rows: await courseSummaries(rows), total, sums: { size } };
}

export async function registerSums(): Promise<RegisterSums> {
  const database = databaseOf(CourseRow);
  const lacking = Object.fromEntries(Object.entries(LACKING).map(([name, sql]) => [name, `SUM(${sql})`]));
  const [{ total, ...lacks }, on] = await Promise.all([
    sumsOf(database, LISTING, '', [upToSoon()], lacking as Record<Lack, string>),
    database.query<{ id: number }>('SELECT DISTINCT instance_id AS id FROM courses', { type: QueryTypes.SELECT }),
  ]);
  return { courses: total, lacks, on: on.map(({ id }) => id) };
}

/** Narrows nothing: says until when a cut-off counts as one that threatens. */
function upToSoon(): Narrowing {
  return { sql: 'TRUE', values: { soon: new Date(Date.now() + SOON_MS) } };
}

/** Every course that there is. */
export async function allCourses(): Promise<CourseSummary[]> {
  return courseSummaries(await CourseRow.findAll({ order: ['code', 'section'] }));
}

export async function courseById(id: number): Promise<CourseSummary> {
  const row = await CourseRow.findByPk(id);
  const [summary] = row ? await courseSummaries([row]) : [];
  if (!summary) throw missing('course');
  return summary;
}

/** All that is told of these courses, by one query a table. */
async function courseSummaries(rows: readonly CourseRow[]): Promise<CourseSummary[]> {
  const courseId = rows.map((row) => row.id);
  const [instances, copies, moves, fetches] = await Promise.all([
    Instance.findAll(),
    Copy.findAll({
      attributes: ['id', 'courseId', 'keptAt', 'form'],
      where: { courseId, partial: false, removedAt: null },
      order: [['keptAt', 'ASC']],
    }),
    movesBy({ where: { courseId }, order: [['id', 'ASC']] }),
    Job.findAll({
      where: { kind: 'fetch', courseId, seenAt: null, state: { [Op.ne]: 'done' } },
      order: [['id', 'ASC']],
    }),
  ]);
  const fetchOf = new Map(fetches.map((j) => [j.courseId, j]));
  const instanceById = new Map(instances.map((i) => [i.id, i]));
  // Later ones replace earlier ones: the newest of each course remains.
  const copyOf = new Map(copies.map((c) => [c.courseId, c]));
  const moveOf = new Map(moves.map((m) => [m.courseId, m]));
  return rows.flatMap((row): CourseSummary[] => {
    const instance = instanceById.get(row.instanceId);
    if (!instance) return [];
    const copy = copyOf.get(row.id);
    const move = moveOf.get(row.id);
    return [
      {
        id: row.id,
        instance: {
          id: instance.id,
          name: instance.name,
          platform: instance.platform,
          gives: instance.gives,
          fetches: kindOf(instance).source !== null,
        },
        code: row.code,
        section: row.section,
        term: row.term,
        title: row.title,
        owner: row.owner,
        size: row.size,
        changedAt: row.changedAt.toISOString(),
        newestCopy: copy ? { id: copy.id, keptAt: copy.keptAt.toISOString(), form: copy.form } : null,
        cutOff: instance.cutOff ? { at: instance.cutOff.toISOString(), why: instance.cutOffWhy ?? '' } : null,
        fetch: fetchSummary(fetchOf.get(row.id)),
        move: move ? { id: move.id, step: stepOf(move) } : null,
      },
    ];
  });
}

function fetchSummary(job: Job | undefined): CourseSummary['fetch'] {
  return job ? { jobId: job.id, state: job.state, words: job.problem?.message ?? job.words } : null;
}
