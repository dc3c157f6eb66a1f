import { Op } from 'sequelize';
import type { CourseSummary } from '../contract/index.ts';
import { Copy, CourseRow, Instance, Job, Move } from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import { PLATFORMS, type ListedCourse } from '../platforms/index.ts';
import { kindOf } from './instances.ts';
import { movesBy } from './move-rows.ts';
import { stepOf } from './move-steps.ts';

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

export async function listCourses(): Promise<CourseSummary[]> {
  const [rows, instances, copies, moves, fetches] = await Promise.all([
    CourseRow.findAll({
      order: [
        ['code', 'ASC'],
        ['section', 'ASC'],
      ],
    }),
    Instance.findAll(),
    Copy.findAll({
      attributes: ['id', 'courseId', 'keptAt', 'form'],
      where: { partial: false, removedAt: null },
      order: [['keptAt', 'ASC']],
    }),
    movesBy({ order: [['id', 'ASC']] }),
    Job.findAll({
      where: { kind: 'fetch', courseId: { [Op.not]: null }, seenAt: null, state: { [Op.ne]: 'done' } },
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
