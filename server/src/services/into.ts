import {
  Refusal,
  WAYS_IN,
  count,
  courseName,
  heldWords,
  itemOfKey,
  landing,
  problem,
  someOf,
  targetById,
  type Course,
  type LandingForecast,
  type Problem,
  type Landing,
} from '@treenail/core';
import type {
  Into,
  IntoAnswer,
  IntoChoice,
  Looked,
  MeetRequest,
  Person,
  Standing,
  Target,
  TargetsAnswer,
} from '../contract/index.ts';
import { CourseRow, Instance, Job, MoveDocument, isDelivered, planOf, type WholeMove } from '../db/models/index.ts';
import type { CourseThere, DestinationSide } from '../platforms/index.ts';
import type { Services } from './context.ts';
import { documentIfAny, readDocument, writeDocument } from './documents.ts';
import { connectorOf } from './instances.ts';
import { isUnfinished } from './jobs.ts';
import { NAMED, meetingsSay, metIn, type Met } from './meetings.ts';
import { courseOf, missing, moveById } from './move-rows.ts';
import { carriedAs, mustNotBeCalledOff, stepOf } from './move-steps.ts';
import { audit, mustBe } from './people.ts';
import { courseDecided } from './working.ts';

/** Deliveries into a course that is there: which, how, and what that does to what stands there. */

/** Courses that are told at once. */
const MOST = 50;
/** Platforms that show a course whole in its archive only take their time over it. */
const READ_MS = 150_000;

interface There {
  instance: Instance;
  side: DestinationSide;
  there: CourseThere;
}

/** @throws Refusal where courses that are there can't be delivered into */
export async function thereOf(services: Services, move: WholeMove): Promise<There> {
  const { instance, side } = await destinationOf(services, move);
  if (!side?.there) {
    throw new Refusal(problem('no-way-in', `${instance.name} takes courses only into new shells.`));
  }
  return { instance, side, there: side.there };
}

async function destinationOf(services: Services, move: WholeMove) {
  const instance = await Instance.findByPk(move.destinationId, { rejectOnEmpty: true });
  return { instance, side: connectorOf(services.config.secret, instance).destination };
}

/** Courses of the destination, those first that a person would take for where this one belongs. */
export async function targetsOf(services: Services, moveId: number, words: string): Promise<TargetsAnswer> {
  const move = await moveById(moveId);
  const [course, { instance, side }] = await Promise.all([courseOf(move), destinationOf(services, move)]);
  const listedAt = instance.listedAt?.toISOString() ?? null;
  if (!side?.there) return { can: false, targets: [], more: 0, listedAt };
  const asked = words.toLowerCase().split(/\s+/).filter(Boolean);
  const rows = (await CourseRow.findAll({ where: { instanceId: instance.id } })).filter((row) => {
    const said = `${courseName(row)} ${row.title} ${row.term}`.toLowerCase();
    return asked.every((word) => said.includes(word));
  });
  const ranked = rows
    .map((row) => ({ row, ...likeness(row, course) }))
    .sort((a, b) => b.rank - a.rank || courseName(a.row).localeCompare(courseName(b.row)));
  const targets = ranked.slice(0, MOST).map(({ row, why }): Target => {
    const { code, section, term, title } = row;
    return { courseId: row.id, code, section, term, title, why };
  });
  return { can: true, targets, more: rows.length - targets.length, listedAt };
}

/** How much speaks for a course being the same as another, and what. */
function likeness(there: CourseRow, { code, section, term, title }: CourseRow): { rank: number; why: string } {
  const same = (a: string, b: string) => a !== '' && a.toLowerCase() === b.toLowerCase();
  const found = [
    ...(same(there.code, code) ? [{ rank: 4, why: 'code' }] : []),
    ...(same(there.code, code) && same(there.section, section) ? [{ rank: 2, why: 'section' }] : []),
    ...(same(there.title, title) ? [{ rank: 2, why: 'title' }] : []),
    ...(same(there.term, term) ? [{ rank: 1, why: 'term' }] : []),
  ];
  const rank = found.reduce((sum, one) => sum + one.rank, 0);
  // A term alone is common to half of all courses.
  return { rank, why: rank < 2 ? '' : `same ${found.map((one) => one.why).join(', ')}` };
}

/** What is in a course of the destination now, and who. */
export async function lookAt(services: Services, moveId: number, courseId: number): Promise<Looked> {
  const move = await moveById(moveId);
  return (await readThere(services, move, courseId)).looked;
}

async function readThere(
  services: Services,
  move: WholeMove,
  courseId: number,
): Promise<{ looked: Looked; id: string }> {
  const { side, there } = await thereOf(services, move);
  const row = await targetOf(move, courseId);
  const standing = await there.standing(row.remoteId);
  const { course, names } = await side.readBack(row.remoteId, AbortSignal.timeout(READ_MS));
  const looked: Looked = {
    courseId,
    title: row.title,
    url: there.address(row.remoteId),
    course,
    standing,
    identifiers: there.identifiers,
    names,
    lookedAt: new Date().toISOString(),
    ...waysOf(move, side, standing),
  };
  return { looked, id: row.remoteId };
}

/** What takes the place of all that stands in a course can go nowhere beside it. */
function waysOf(move: WholeMove, side: DestinationSide, { held }: Standing): Pick<Looked, 'ways' | 'unless'> {
  const form = carriedAs(move, side);
  if (form.more !== 'instead') return { ways: [...WAYS_IN], unless: '' };
  const { label } = targetById(form.target).target;
  return {
    ways: held.length === 0 ? ['beside', 'in place of'] : ['in place of'],
    unless: `A ${label} takes the place of all that stands in a course. Open the fit and choose another format to leave something there.`,
  };
}

async function targetOf(move: WholeMove, courseId: number): Promise<CourseRow> {
  const row = await CourseRow.findOne({ where: { id: courseId, instanceId: move.destinationId } });
  if (!row) throw missing('course at the destination');
  return row;
}

/** Chooses where a move goes: into a course that is there, which is looked at now, or into a new shell. */
export async function goInto(
  services: Services,
  person: Person,
  moveId: number,
  choice: IntoChoice | null,
): Promise<IntoAnswer> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  mustNotBeCalledOff(move);
  if (isDelivered(move) || (await hasBegun(move))) throw begun('Where it goes');
  if (choice === null) {
    await MoveDocument.destroy({ where: { moveId, kind: ['into', 'settled'] } });
    await audit(person, 'goes into a new shell', `move ${moveId}`);
    return intoOf(services, moveId);
  }
  const { looked, id } = await readThere(services, move, choice.courseId);
  mustGoThatWay({ ...looked, way: choice.way });
  const before = await documentIfAny(moveId, 'into');
  // Looked at again, it keeps what was decided.
  const isSame = before?.courseId === choice.courseId && before.way === choice.way;
  const { chosen, rule } = isSame ? before : { chosen: {}, rule: '' };
  const into: Into = { ...looked, id, way: choice.way, chosen, rule };
  mustTakeIt(into.title, into.standing);
  await writeDocument(moveId, 'into', into);
  await MoveDocument.destroy({ where: { moveId, kind: 'settled' } });
  await audit(person, 'goes into a course that is there', `move ${moveId}`, { ...choice, title: into.title });
  return intoOf(services, moveId);
}

/** Decides what becomes of what meets its like in the course that a move goes into. */
export async function meet(
  services: Services,
  person: Person,
  moveId: number,
  { chosen, rule }: MeetRequest,
): Promise<IntoAnswer> {
  mustBe(person, 'administrator');
  const move = await moveById(moveId);
  mustNotBeCalledOff(move);
  if (isDelivered(move) || (await hasBegun(move))) throw begun('What becomes of what is there');
  const into = await readDocument(moveId, 'into');
  const [stray] = [...rule.matchAll(/\{([^{}]*)\}/g)].filter(
    ([, field]) => !(NAMED as readonly string[]).includes(field ?? ''),
  );
  if (stray) {
    throw new Refusal(
      problem(
        'naming-rule',
        `“${stray[0]}” stands for nothing.`,
        {},
        `Known are ${NAMED.map((f) => `{${f}}`).join(', ')}.`,
      ),
    );
  }
  await writeDocument(moveId, 'into', { ...into, chosen, rule: rule.trim() });
  await audit(person, 'decided what meets its like', `move ${moveId}`, { chosen: Object.keys(chosen).length, rule });
  return intoOf(services, moveId);
}

function begun(what: string): Refusal {
  return new Refusal(
    problem('delivery-begun', `The delivery has begun: ${what.toLowerCase()} can not be changed any more.`),
  );
}

/** Whether a delivery of this move is on its way. */
async function hasBegun(move: WholeMove): Promise<boolean> {
  const jobs = await Job.findAll({ where: { moveId: move.id, kind: 'deliver' } });
  return stepOf(move) === 'deliver' && jobs.some(isUnfinished);
}

/** @throws Refusal where the format that the move is carried in can't go that way */
export function mustGoThatWay({ ways, way, unless, title }: Pick<Into, 'ways' | 'way' | 'unless' | 'title'>): void {
  if (ways.includes(way)) return;
  throw new Refusal(problem('way-not-taken', `This can't go ${way} what is in “${title}”. ${unless}`));
}

function mustTakeIt(title: string, { shut, mayChange }: Pick<Standing, 'shut' | 'mayChange'>): void {
  if (!mayChange) {
    throw new Refusal(problem('course-read-only', `“${title}” can only be read with the key that Treenail has.`));
  }
  if (!shut) return;
  throw new Refusal(problem('course-shut', `“${title}” is shut: nothing in it can be changed any more.`));
}

/** The course that a move goes into, and what that does to it. A further part goes where the others went. */
export async function intoOf(services: Services, moveId: number): Promise<IntoAnswer> {
  const move = await moveById(moveId);
  const into = planOf(move).further === null ? await documentIfAny(moveId, 'into') : null;
  if (!into) return { into: null, says: [], meets: [], titles: {}, typed: '' };
  const coming = await courseDecided(moveId);
  const met = await metIn(move, into, coming);
  const { titles } = met.settled;
  return { into, says: saysOf(into, coming, met), meets: met.met, titles, typed: typedOf(into) };
}

/** What has to be typed before learners' work is lost. */
function typedOf({ way, standing, title }: Into): string {
  return way === 'in place of' && standing.work > 0 ? title : '';
}

const STAYS: ReadonlySet<Landing> = new Set(['stays', 'not sent']);

/** What a delivery will do to what stands there, a sentence each. */
function saysOf({ course, standing, way, identifiers, title }: Into, coming: Course, met: Met): string[] {
  const options = { way, identifiers, leftBehind: met.leftBehind, met: met.met, titles: met.settled.titles };
  const { lines, totals }: LandingForecast = landing(course, coming, options);
  const titles = (of: Landing) =>
    lines.flatMap((l) => (l.becomes === of && l.kind !== 'folder' ? [(l.there ?? l.comes)?.title ?? ''] : []));
  const [over, twice] = [titles('overwritten'), titles('double')];
  // What is overwritten does not stay.
  const kept = new Set(lines.flatMap((l) => (STAYS.has(l.becomes) && l.there ? [itemOfKey(l.there.key)] : [])));
  const stays = course.items.filter((i) => kept.has(i.id));
  const done = count(standing.work, 'thing');
  const said = [
    way === 'in place of' && totals.gone > 0
      ? `${heldWords(course)} of “${title}” will be gone${standing.work > 0 ? '' : '; no student work'}. A copy of what is there is kept and read first.`
      : '',
    way === 'in place of' && standing.work > 0
      ? `${done} that learners did there will be gone with it, and no copy can bring that back.`
      : '',
    way !== 'in place of' && stays.length > 0 ? `What is there stays: ${heldWords({ ...course, items: stays })}.` : '',
    course.items.length === 0 ? 'Nothing is in it yet.' : '',
    over.length > 0
      ? `${count(over.length, 'item')} there will be overwritten, since what comes bears the same identifier: ${someOf(over)}. A copy of what is there is kept and read first.`
      : '',
    ...meetingsSay(coming, met, lines),
    twice.length > 0
      ? `${count(twice.length, 'item')} will be there twice, by title or substance: ${someOf(twice)}.`
      : '',
    `Its name, code, section and term stay${standing.tutors + standing.learners > 0 ? `, and so do ${peopleWords(standing)}` : '; nobody is in it'}.`,
  ];
  return said.filter((sentence) => sentence !== '');
}

export function peopleWords({ tutors, learners }: Standing): string {
  const parts = [
    ...(learners > 0 ? [count(learners, 'learner')] : []),
    ...(tutors > 0 ? [count(tutors, 'tutor')] : []),
  ];
  return parts.join(' and ');
}

/**
 * Looks again, right before a delivery: what was decided was decided of what was there then. Where it is another now, that is
 * told, and nothing is done.
 * @throws Refusal with what is there now as its cause
 */
export async function mustBeAsLookedAt(services: Services, move: WholeMove, into: Into): Promise<void> {
  const { side, there } = await thereOf(services, move);
  const { shut, mayChange, turn, work } = await there.standing((await targetOf(move, into.courseId)).remoteId);
  mustTakeIt(into.title, { shut, mayChange });
  mustGoThatWay({ ...into, ...waysOf(move, side, into.standing) });
  if (turn === into.standing.turn && work === into.standing.work) return;
  // Only a course that is another is read whole once more: some platforms take their time over it.
  const now: Into = { ...into, ...(await readThere(services, move, into.courseId)).looked };
  const words = ({ course, standing }: Into) =>
    `${heldWords(course)}, ${count(standing.work, 'thing')} that learners did`;
  const [was, is] = [words(into), words(now)];
  throw new DestinationChanged(
    problem(
      'destination-changed',
      `“${into.title}” was changed since it was looked at${was === is ? '' : `: ${was} then; ${is} now`}. Nothing was sent.`,
    ),
    now,
  );
}

/** That a course is another than it was decided on; `now` is what it is. */
export class DestinationChanged extends Refusal {
  readonly now: Into;

  constructor(told: Problem, now: Into) {
    super(told);
    this.now = now;
  }
}

/** To a person who asks for a delivery, what is there now is shown in place of what they saw. */
export async function mustBeAsSeen(services: Services, move: WholeMove, into: Into): Promise<void> {
  try {
    await mustBeAsLookedAt(services, move, into);
  } catch (error) {
    if (error instanceof DestinationChanged) await writeDocument(move.id, 'into', error.now);
    throw error;
  }
}

/** Two deliveries into one course at once would find each other's things there. */
export async function mustBeFree(move: WholeMove, into: { id: string; title: string }): Promise<void> {
  const jobs = (await Job.findAll({ where: { kind: 'deliver' } })).filter((job) => isUnfinished(job));
  for (const job of jobs) {
    if (job.moveId === null || job.moveId === move.id || job.state === 'failed') continue;
    const other = await moveById(job.moveId);
    const goes = (job.input as { into?: { id: string } | null }).into?.id;
    if (other.destinationId !== move.destinationId || goes !== into.id) continue;
    throw new Refusal(
      problem('destination-busy', `Another delivery (move ${other.id}) is on its way into “${into.title}”.`),
    );
  }
}

/** @throws Refusal where learners' work would be lost and nobody said that they know it */
export function mustBeTyped(into: Into, typed: string): void {
  const asked = typedOf(into);
  if (asked === '' || asked.trim() === typed.trim()) return;
  throw new Refusal(
    problem(
      'not-typed',
      `${count(into.standing.work, 'thing')} that learners did in “${into.title}” would be gone.`,
      {},
      `Type “${asked}” to say that this is meant.`,
    ),
  );
}
