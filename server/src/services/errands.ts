import {
  FORMATS,
  KIND_LABELS,
  Refusal,
  count,
  courseName,
  declaredLosses,
  itemKey,
  keepsMore,
  leftBehindBy,
  problem,
  profileOn,
  readCourse,
  selectionOf,
  someOf,
  targetById,
  type Course,
  type CourseLink,
} from '@treenail/core';
import { Op } from 'sequelize';
import type { ContentsAnswer, Errand, Given, NewErrand, NewGivenFile, Person } from '../contract/index.ts';
import {
  Copy,
  CourseRow,
  GivenFile,
  Instance,
  Job,
  Move,
  User,
  isCurrent,
  type WholeMove,
} from '../db/models/index.ts';
import { enqueue } from '../jobs/queue.ts';
import { PlatformTrouble } from '../platforms/http.ts';
import { carryAs, formsOf } from './carrying.ts';
import type { Services } from './context.ts';
import { leftOutOf } from './decided.ts';
import { documentIfAny, readDocument } from './documents.ts';
import { connectorOf } from './instances.ts';
import { goInto, thereOf } from './into.ts';
import { carriedAs, stepOf } from './move-steps.ts';
import { acceptFit, moveById, startMove } from './moves.ts';
import { movesBy } from './move-rows.ts';
import { withPackage } from './packages.ts';
import { audit, mustBe, personById } from './people.ts';
import { copyWithBytes } from './strongroom.ts';
import { choose } from './tidy.ts';

/** Kept copies restored, whole or in part, and things of them given to somebody: moves that go by themselves to the delivery, and files. */

/** What a kept copy holds, and where it can go back to. */
export async function contentsOf(services: Services, copyId: number): Promise<ContentsAnswer> {
  const copy = await copyWithBytes(copyId);
  const course = await courseIn(services, copy);
  return { course, back: await backOf(services, copy), targets: targetsOf(course) };
}

/** What was looked into before is not read once more. */
async function courseIn(services: Services, copy: Copy): Promise<Course> {
  const moves = await Move.findAll({ where: { copyId: copy.id }, attributes: ['id'], order: [['id', 'DESC']] });
  for (const { id } of moves) {
    const look = await documentIfAny(id, 'look');
    if (look) return look.course;
  }
  return withPackage(services, copy.sha256, async (pkg, described) => (await readCourse(pkg, described)).course);
}

/** The course that a copy is of, where something can be brought into it. */
async function backOf(services: Services, { courseId }: Copy): Promise<ContentsAnswer['back']> {
  const row = courseId === null ? null : await CourseRow.findByPk(courseId);
  const instance = row && (await Instance.findByPk(row.instanceId));
  if (!row || !instance?.takes) return null;
  if (!connectorOf(services.config.secret, instance).destination?.there) return null;
  return { courseId: row.id, instanceId: instance.id, instance: instance.name, title: row.title };
}

function targetsOf(course: Course): ContentsAnswer['targets'] {
  const targets = FORMATS.filter((f) => f.accepts?.(course) !== false).flatMap((f) => f.targets);
  // What goes on in the form that it came in loses nothing.
  const isOwn = (target: (typeof targets)[number]) => Number(target.passthrough?.(course.origin) === 'everything');
  return [...targets].sort((a, b) => isOwn(b) - isOwn(a)).map(({ id, label }) => ({ id, label }));
}

/** Begins a move that restores a copy, or gives things of it into a course. */
export async function startErrand(
  person: Person,
  copyId: number,
  { act, items, destinationId, into, key }: NewErrand,
): Promise<number> {
  mustBe(person, 'administrator');
  const copy = await copyWithBytes(copyId);
  if (copy.courseId === null) {
    throw new Refusal(
      problem(
        'not-found',
        'Its course is not in the register any more.',
        {},
        'Refresh the register, or keep the file anew.',
      ),
    );
  }
  const errand: Errand = { act, items, into, ready: false, trouble: '' };
  const asked = { courseId: copy.courseId, destinationId, copyId, another: key };
  const { moveId, fresh } = await startMove(person, asked, errand);
  if (fresh)
    await audit(person, act === 'restore' ? 'restore asked for' : 'giving asked for', `copy ${copyId}`, {
      moveId,
      items,
      into,
    });
  return moveId;
}

/**
 * Goes on with a move that does an errand, after any of its jobs: what was asked for is chosen, the course that it goes into
 * looked at, and the fit accepted where nothing is lost. Where something is, or something is in the way, a person goes on.
 */
export async function doErrand(services: Services, moveId: number): Promise<void> {
  const move = await moveById(moveId);
  const { errand } = move;
  if (!errand || errand.ready || move.calledOffAt !== null || stepOf(move) !== 'fit') return;
  const person = await personById(move.createdBy);
  if (errand.items !== null && !(await documentIfAny(moveId, 'selection'))) {
    await chooseAsked(services, person, move, errand.items);
    // The working copy follows in a job, and what comes next after that.
    return;
  }
  if (!isCurrent(move)) return;
  const trouble = errand.trouble || (await whyNot(() => goAsAsked(services, person, move, errand)));
  await move.update({ errand: { ...errand, ready: true, trouble } });
}

/** What stands in the way of something, in words; '' where nothing does. */
async function whyNot(work: () => Promise<void>): Promise<string> {
  try {
    await work();
    return '';
  } catch (error) {
    if (error instanceof Refusal) return `${error.problem.message} ${error.problem.action}`.trim();
    if (error instanceof PlatformTrouble) return `The destination could not be looked at: ${error.message}.`;
    throw error;
  }
}

async function chooseAsked(
  services: Services,
  person: Person,
  move: WholeMove,
  items: readonly string[],
): Promise<void> {
  const { course } = await readDocument(move.id, 'look');
  const wanted = new Set(items);
  const leftOut = course.items.flatMap((i) => (wanted.has(i.id) ? [] : [i.id]));
  if (leftOut.length === course.items.length && move.errand) {
    const trouble = 'Nothing of what was chosen is in the copy any more: choose anew what goes.';
    await move.update({ errand: { ...move.errand, ready: true, trouble } });
    return;
  }
  await choose(services, person, move.id, { leftOut, hiddenUntil: null });
}

async function goAsAsked(services: Services, person: Person, move: WholeMove, errand: Errand): Promise<void> {
  await goWhereAsked(services, person, move, errand);
  await mustLeadSomewhere(move.id);
  const { totals } = await readDocument(move.id, 'forecast');
  const isWhole = (totals.reworked ?? 0) + (totals['left behind'] ?? 0) === 0;
  if (isWhole) await acceptFit(person, move.id);
}

/** @throws Refusal where what was chosen refers to what does not go: a person has to see that before it goes by itself */
async function mustLeadSomewhere(moveId: number): Promise<void> {
  const [{ course }, { links }, leftOut] = await Promise.all([
    readDocument(moveId, 'look'),
    readDocument(moveId, 'links'),
    leftOutOf(moveId),
  ]);
  const { dangling } = selectionOf(course, new Set(leftOut), links);
  if (dangling.length === 0) return;
  const titles = new Map(course.items.map((i) => [i.id, i.title]));
  const [first] = dangling;
  const words = first ? `“${titles.get(first.item) ?? first.item}” ${first.words}` : '';
  throw new Refusal(
    problem(
      'references-left',
      `${count(dangling.length, 'reference')} of what goes will lead nowhere, since what they lead to does not go: ${words}${dangling.length > 1 ? ' …' : ''}.`,
    ),
  );
}

/** The course that it goes into is looked at now; in a format that leaves there what is to stay. */
async function goWhereAsked(services: Services, person: Person, move: WholeMove, { into }: Errand): Promise<void> {
  if (into === null) return;
  const { side, there } = await thereOf(services, move);
  const row = await CourseRow.findByPk(into.courseId, { rejectOnEmpty: true });
  const isEmpty = (await there.standing(row.remoteId)).held.length === 0;
  if (into.way !== 'in place of' && !isEmpty && carriedAs(move, side).more === 'instead') {
    const stay = new Set(side.takes.filter((t) => t.more !== 'instead').map((t) => t.target));
    const [best] = (await formsOf(services, move.id))
      .filter((form) => stay.has(form.target))
      .sort((a, b) => keepsMore(b.totals, a.totals));
    if (best) await carryAs(services, person, move.id, best.target);
  }
  await goInto(services, person, move.id, into);
}

const jobKey = (givenId: number) => `give:${givenId}`;

/** Has a file made of things of a copy, with what these need. */
export async function giveFile(
  services: Services,
  person: Person,
  copyId: number,
  { items, target, key }: NewGivenFile,
): Promise<Given[]> {
  mustBe(person, 'administrator');
  const copy = await copyWithBytes(copyId);
  const course = await courseIn(services, copy);
  const known = course.items.filter((i) => items.includes(i.id));
  if (known.length === 0) throw new Refusal(problem('part-empty', 'Nothing of what was chosen is in this copy.'));
  if (!targetsOf(course).some((t) => t.id === target)) {
    throw new Refusal(problem('format-not-taken', 'This course can not be written in that format.'));
  }
  mustHold(
    course,
    known.map((i) => i.id),
    target,
  );
  const [row, fresh] = await GivenFile.findOrCreate({
    where: { requestKey: key },
    defaults: {
      requestKey: key,
      copyId,
      items: known.map((i) => i.id),
      words: wordsOf(
        course,
        known.map((i) => i.id),
      ),
      target,
      givenBy: person.id,
      givenAt: new Date(),
    },
  });
  if (fresh) await audit(person, 'file to give asked for', `copy ${copyId}`, { items, target });
  await enqueue({
    kind: 'give',
    key: jobKey(row.id),
    course: courseName(copy),
    moveId: null,
    courseId: copy.courseId,
    askedBy: person.id,
    input: { round: 0, givenId: row.id },
    of: row.words,
  });
  return givenOf(copyId);
}

/** @throws Refusal where a format holds nothing of what was asked for: a file without it is no gift */
function mustHold(course: Course, asked: readonly string[], targetId: string): void {
  const { target } = targetById(targetId);
  const behind = leftBehindBy(declaredLosses(course, profileOn(course, target)));
  if (asked.some((id) => !behind.has(itemKey(id)))) return;
  throw new Refusal(
    problem('format-not-taken', `A ${target.label} has no place for what was chosen.`, {}, 'Choose another format.'),
  );
}

/** What is asked for, in words that a person knows it by. */
function wordsOf({ items }: Course, asked: readonly string[]): string {
  const chosen = items.filter((i) => asked.includes(i.id));
  const [only] = chosen;
  if (chosen.length === 1 && only) return `${KIND_LABELS[only.kind]} “${only.title}”`.slice(0, 390);
  return `${count(chosen.length, 'item')}: ${someOf(chosen.map((i) => i.title))}`.slice(0, 390);
}

/** Identifiers of what does not go: nothing that what was asked for needs. */
export function leftOutBy(course: Course, links: readonly CourseLink[], items: readonly string[]): string[] {
  const wanted = new Set(items);
  const out = new Set(course.items.flatMap((i) => (wanted.has(i.id) ? [] : [i.id])));
  for (const { item } of selectionOf(course, out, links).pulledIn) out.delete(item);
  return [...out];
}

/** What was restored and given of a copy, the newest first. */
export async function givenOf(copyId: number): Promise<Given[]> {
  const [files, moves] = await Promise.all([
    GivenFile.findAll({ where: { copyId } }),
    movesBy({ where: { copyId, errand: { [Op.not]: null } } }),
  ]);
  const [users, instances, jobs] = await Promise.all([
    User.findAll({ where: { id: [...files.flatMap((f) => f.givenBy ?? []), ...moves.map((m) => m.createdBy)] } }),
    Instance.findAll({ where: { id: moves.map((m) => m.destinationId) } }),
    Job.findAll({ where: { requestKey: files.map((f) => jobKey(f.id)) } }),
  ]);
  const troubleOf = (id: number) => jobs.find((j) => j.requestKey === jobKey(id))?.problem?.message ?? '';
  const by = (id: number | null) => users.find((u) => u.id === id)?.name ?? null;
  const told = [
    ...files.map(({ id, words, givenBy, givenAt, built, losses }): Given => ({
      id,
      words,
      by: by(givenBy),
      at: givenAt.toISOString(),
      file: built ? { fileName: built.fileName, format: built.format, size: built.size, losses: losses ?? [] } : null,
      isMade: built !== null,
      trouble: built ? '' : troubleOf(id),
      move: null,
    })),
    ...(await Promise.all(moves.flatMap((move) => (move.errand ? [asGiven(move, move.errand)] : [])))),
  ];
  return told.sort((a, b) => b.at.localeCompare(a.at));

  async function asGiven(move: WholeMove, { act, items }: Errand): Promise<Given> {
    const look = items === null ? null : await documentIfAny(move.id, 'look');
    return {
      id: move.id,
      words: items === null ? 'all of it' : look ? wordsOf(look.course, items) : count(items.length, 'item'),
      by: by(move.createdBy),
      at: move.createdAt.toISOString(),
      file: null,
      isMade: true,
      trouble: '',
      move: { id: move.id, act, to: instances.find((i) => i.id === move.destinationId)?.name ?? '' },
    };
  }
}

/** A file that was made to be given. @throws Refusal `not-found` */
export async function givenFile(
  id: number,
): Promise<{ sha256: string; size: number; fileName: string; copyId: number }> {
  const row = await GivenFile.findByPk(id);
  if (!row?.built) throw new Refusal(problem('not-found', 'There is no such file.', {}, 'Go back to the strongroom.'));
  return { ...row.built, copyId: row.copyId };
}
