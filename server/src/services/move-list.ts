import { Op } from 'sequelize';
import type { MoveStep, MoveSummary, MovesAsked, MovesPage, Person } from '../contract/index.ts';
import { MOVE_STEPS, STEP_NAMES } from '../contract/index.ts';
import { Copy, CourseRow, Instance, Job, Move, User, deliveryOf, planOf, type WholeMove } from '../db/models/index.ts';
import { jobOfStep } from '../jobs/definitions.ts';
import { asJobSummary } from './jobs.ts';
import { missing, movesBy } from './move-rows.ts';
import { PASSED, mayBePassed, canReopen, canSendMore, canTakeBack, partNumber, stepOf, stepsOf } from './move-steps.ts';
import { databaseOf, idsOf, inOrder, natural, sumsOf, type Listing } from './pages.ts';
import { mustBe } from './people.ts';
import { asCopySummary } from './strongroom.ts';

/** The list of moves, and what is told of each. */

export async function moveSummary(move: WholeMove): Promise<MoveSummary> {
  const [summary] = await moveSummaries([move]);
  if (!summary) throw missing('move');
  return summary;
}

/** All that is told of these moves, by one query a table. */
async function moveSummaries(moves: readonly WholeMove[]): Promise<MoveSummary[]> {
  const people = moves.flatMap((m) => [
    ...m.steps.flatMap((s) => s.decidedBy ?? []),
    ...m.deliveries.flatMap((d) => d.askedBy ?? []),
  ]);
  const [users, courses, jobs, copies, instances] = await Promise.all([
    User.findAll({ where: { id: [...new Set(people)] }, attributes: ['id', 'name'] }),
    CourseRow.findAll({ where: { id: moves.map((m) => m.courseId) } }),
    Job.findAll({ where: { moveId: moves.map((m) => m.id) }, order: [['id', 'ASC']] }),
    Copy.findAll({ where: { id: moves.flatMap((m) => m.copyId ?? []) } }),
    Instance.findAll(),
  ]);
  const nameOf = new Map(users.map((user) => [user.id, user.name]));
  const named = (id: number | null) => (id === null ? null : (nameOf.get(id) ?? null));
  const byId = <R extends { id: number }>(rows: readonly R[]) => new Map(rows.map((row) => [row.id, row]));
  const [courseById, copyById, instanceById] = [byId(courses), byId(copies), byId(instances)];
  const jobsOf = new Map<number, Job[]>();
  for (const job of jobs) if (job.moveId !== null) jobsOf.set(job.moveId, [...(jobsOf.get(job.moveId) ?? []), job]);
  return moves.flatMap((move): MoveSummary[] => {
    const course = courseById.get(move.courseId);
    const from = course && instanceById.get(course.instanceId);
    const to = instanceById.get(move.destinationId);
    if (!course || !from || !to) return [];
    const { id, code, section, term, title } = course;
    const own = jobsOf.get(move.id) ?? [];
    const copy = copyById.get(move.copyId ?? 0);
    return [
      {
        id: move.id,
        course: { id, code, section, term, title },
        from: { id: from.id, name: from.name, platform: from.platform },
        to: { id: to.id, name: to.name, platform: to.platform, quiet: to.quiet ?? null },
        steps: stepsOf(move, own).map(({ by, ...step }) => ({ ...step, by: named(by) })),
        planVersion: planOf(move).version,
        part: partNumber(move),
        canSendMore: canSendMore(move),
        deliveries: move.deliveries.map((d) => ({
          planVersion: d.planVersion,
          askedAt: d.askedAt.toISOString(),
          by: named(d.askedBy),
          deliveredAt: d.deliveredAt?.toISOString() ?? null,
          takenBackAt: d.takenBackAt?.toISOString() ?? null,
          way: d.way,
          shell: d.shell ?? null,
        })),
        at: stepOf(move),
        createdAt: move.createdAt.toISOString(),
        copy: copy ? asCopySummary(copy, move.id) : null,
        built: planOf(move).built ?? null,
        shell: deliveryOf(move)?.delivery.shell ?? null,
        canReopen: canReopen(move, own),
        canTakeBack: canTakeBack(move, own),
        errand: move.errand ?? null,
        calledOffAt: move.calledOffAt?.toISOString() ?? null,
        putAwayAt: move.putAwayAt?.toISOString() ?? null,
        jobs: own.map(asJobSummary),
      },
    ];
  });
}

/* What `stepsOf` says of a move, said in SQL, so that the list is sorted where it lies; a spec holds both together. */

const quoted = (words: readonly string[]) => words.map((word) => `'${word}'`).join(', ');
/** Of each move the bits of the steps that are done, the first step being 1. */
const DONE = `(SELECT move_id, BIT_OR(IF(state = 'done', 1 << (FIELD(step, ${quoted(MOVE_STEPS)}) - 1), 0)) AS done
  FROM move_steps GROUP BY move_id)`;
const bit = (step: MoveStep) => 1 << MOVE_STEPS.indexOf(step);
const HOLDING = MOVE_STEPS.filter((step) => !mayBePassed(step) && step !== 'hand-over');
/** Where a move stands, from 1. */
const AT = `CASE ${HOLDING.map((step) => `WHEN COALESCE(d.done, 0) & ${bit(step)} = 0 THEN ${MOVE_STEPS.indexOf(step) + 1}`).join(' ')}
  ELSE ${MOVE_STEPS.length} END`;
const KINDS = MOVE_STEPS.map((step) => jobOfStep(step)?.kind ?? '');
const TIDY = MOVE_STEPS.indexOf('tidy') + 1;
/** How many steps were gone past with something left to decide. */
const PASSED_OPEN = `(SELECT COUNT(*) FROM move_steps s WHERE s.move_id = m.id AND s.step IN (${quoted(PASSED)})
  AND s.state = 'open' AND FIELD(s.step, ${quoted(MOVE_STEPS)}) < m.at_step)`;
/** Tidy was gone past with something left to decide. */
const TIDY_OPEN = `m.at_step > ${TIDY} AND EXISTS
  (SELECT 1 FROM move_steps s WHERE s.move_id = m.id AND s.step = 'tidy' AND s.state = 'open')`;
const newest = (move: string, kind: string) =>
  `(SELECT MAX(n.id) FROM jobs n WHERE n.move_id = ${move} AND n.kind = ${kind})`;
const WAITING = `m.called_off_at IS NULL AND (
  (m.at_step < ${MOVE_STEPS.length} AND (j.id IS NULL OR j.state IN ('done', 'called off', 'failed')))
  OR (${TIDY_OPEN} AND EXISTS
    (SELECT 1 FROM jobs t WHERE t.id = ${newest('m.id', `'${KINDS[TIDY - 1] ?? ''}'`)} AND t.state = 'failed')))`;
const RESULT = `CASE WHEN j.state = 'failed' THEN COALESCE(JSON_VALUE(j.problem, '$.message') COLLATE utf8mb4_unicode_ci, 'failed')
  WHEN j.state NOT IN ('done', 'called off') THEN j.words
  ELSE (SELECT s.result FROM move_steps s WHERE s.move_id = m.id AND s.step = ELT(m.at_step, ${quoted(MOVE_STEPS)})) END`;

const LISTING: Listing = {
  from: `(SELECT w.*, ELT(w.at_step, ${quoted(KINDS)}) AS at_kind FROM
      (SELECT v.*, ${AT} AS at_step FROM moves v LEFT JOIN ${DONE} d ON d.move_id = v.id) w) m
    JOIN courses c ON c.id = m.course_id JOIN instances f ON f.id = c.instance_id JOIN instances t ON t.id = m.destination_id`,
  joins: { j: `LEFT JOIN jobs j ON j.id = ${newest('m.id', 'm.at_kind')}` },
  id: 'm.id',
  searched: [
    'c.code',
    'c.section',
    `CONCAT(c.code, '-', c.section)`,
    'c.title',
    'f.name',
    't.name',
    `ELT(m.at_step, ${quoted(MOVE_STEPS.map((step) => STEP_NAMES[step]))})`,
    `IF(m.called_off_at IS NULL, '', 'called off')`,
    RESULT,
  ],
  sorts: {
    course: natural('c.code', 'c.section'),
    from: ['f.name'],
    to: ['t.name'],
    started: ['m.created_at'],
    steps: [`m.at_step - 1 - ${PASSED_OPEN}`],
    at: ['m.at_step'],
    result: [`COALESCE(${RESULT}, '')`],
  },
  mayLack: [],
  order: '-started',
};

/** A page of the moves; those that were put away only where they are asked for. */
export async function listMoves(person: Person, asked: MovesAsked): Promise<MovesPage> {
  mustBe(person, 'administrator');
  const database = databaseOf(Move);
  const shown = asked.away ? [] : [{ sql: 'm.put_away_at IS NULL' }];
  const [ids, { total }, { total: all, waiting }, away] = await Promise.all([
    idsOf(database, LISTING, asked, shown),
    sumsOf(database, LISTING, asked.words, shown, {}),
    sumsOf(database, LISTING, '', shown, { waiting: `SUM(${WAITING})` }),
    Move.count({ where: { putAwayAt: { [Op.not]: null } } }),
  ]);
  const moves = inOrder(ids, await movesBy({ where: { id: ids } }));
  return { rows: await moveSummaries(moves), total, sums: { all, waiting, away } };
}
