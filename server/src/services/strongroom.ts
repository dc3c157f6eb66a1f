import { Refusal, linkedName, problem, toldApart, type SourceFacts } from '@treenail/core';
import * as z from 'zod';
import { Op, QueryTypes, col, where } from 'sequelize';
import type { CopiesAsked, CopiesPage, CopyDetail, CopySummary, Person } from '../contract/index.ts';
import {
  Copy,
  Delivery,
  GivenFile,
  Move,
  MoveDocument,
  MovePlan,
  isBrought,
  needsItsCopy,
} from '../db/models/index.ts';
import type { Services } from './context.ts';
import { audit, mustBe } from './people.ts';
import { movesBy } from './move-rows.ts';
import { databaseOf, idsOf, inOrder, natural, sumsOf, type Listing } from './pages.ts';

/** What a copy holds, beside what the platform that gave it says of the course. */
export function factsOf(copy: Copy): SourceFacts {
  return {
    label: copy.format,
    counted: copy.counted ?? null,
    shown: copy.shown ?? null,
    lacks:
      z
        .array(z.string())
        .nullable()
        .parse(copy.lacks ?? null) ?? [],
    partial: copy.partial,
    ofPlatform: !copy.sourceKey.startsWith('file '),
    linked: copy.linked
      ? {
          came: copy.linked.came.map(({ address, size }) => ({ address, size })),
          missing: copy.linked.missing,
          unread: copy.linked.unread.length,
        }
      : null,
  };
}

export function asCopySummary(copy: Copy, moveId: number | null): CopySummary {
  return {
    id: copy.id,
    form: copy.form,
    partial: copy.partial,
    personal: copy.personal,
    fileName: copy.fileName,
    code: copy.code,
    section: copy.section,
    term: copy.term,
    title: copy.title,
    from: copy.instanceName,
    format: copy.format,
    size: copy.size,
    sha256: copy.sha256,
    items: copy.items,
    keptAt: copy.keptAt.toISOString(),
    moveId,
    courseId: copy.courseId,
    facts: factsOf(copy),
    damagedAt: copy.damagedAt?.toISOString() ?? null,
    removed: copy.removedAt ? { at: copy.removedAt.toISOString(), why: copy.removedWhy ?? '' } : null,
  };
}

const LISTING: Listing = {
  from: 'copies k',
  id: 'k.id',
  searched: [
    'k.code',
    'k.section',
    `CONCAT(k.code, '-', k.section)`,
    'k.title',
    'k.term',
    'k.instance_name',
    'k.file_name',
    'k.format',
  ],
  sorts: {
    course: natural('k.code', 'k.section', 'k.title'),
    term: natural('k.term'),
    kept: ['k.kept_at'],
    from: ['k.instance_name'],
    form: ['k.form', 'k.format'],
    file: natural('k.file_name'),
    size: ['k.size'],
    holds: ['COALESCE(k.shown, k.items)'],
  },
  mayLack: [],
  order: '-kept',
};

/** A page of what is kept, and how much is held in all. */
export async function listCopies(asked: CopiesAsked): Promise<CopiesPage> {
  const database = databaseOf(Copy);
  const [ids, { total }, [held], [bytes]] = await Promise.all([
    idsOf(database, LISTING, asked, []),
    sumsOf(database, LISTING, asked.words, [], {}),
    database.query<{ kept: number; courses: number | string | null }>(
      // A course that is in the register no more is counted by each of its copies. All that is counted stands in the index.
      `SELECT COUNT(*) AS kept, COUNT(DISTINCT course_id) + SUM(course_id IS NULL) AS courses
       FROM copies FORCE INDEX (copies_newest) WHERE removed_at IS NULL`,
      { type: QueryTypes.SELECT },
    ),
    // What two copies share is held once.
    database.query<{ bytes: number | string | null }>(
      `SELECT SUM(size) AS bytes FROM (SELECT MAX(size) AS size FROM copies WHERE removed_at IS NULL GROUP BY sha256) AS held`,
      { type: QueryTypes.SELECT },
    ),
  ]);
  const [copies, moves] = await Promise.all([
    Copy.findAll({ where: { id: ids } }),
    Move.findAll({ attributes: ['id', 'copyId'], where: { copyId: ids } }),
  ]);
  // The newest move that began with it.
  const moveOf = new Map(moves.map((m) => [m.copyId, m.id]));
  return {
    rows: inOrder(ids, copies).map((copy) => asCopySummary(copy, moveOf.get(copy.id) ?? null)),
    total,
    sums: { kept: held?.kept ?? 0, courses: Number(held?.courses ?? 0), bytes: Number(bytes?.bytes ?? 0) },
  };
}

export async function copyDetail(id: number): Promise<CopyDetail> {
  const copy = await copyById(id);
  const { courseId } = copy;
  const others =
    courseId === null ? 0 : await Copy.count({ where: { courseId, removedAt: null, id: { [Op.ne]: copy.id } } });
  const deliveries = await Delivery.findAll({ where: { beforeCopyId: id, takenBackAt: null } });
  const delivery = deliveries.find(needsItsCopy) ?? null;
  const before = delivery && { moveId: delivery.moveId, title: delivery.shell?.title ?? copy.title };
  return { ...asCopySummary(copy, null), others, before };
}

export async function copyById(id: number): Promise<Copy> {
  const copy = await Copy.findByPk(id);
  if (!copy) throw new Refusal(problem('not-found', 'There is no such kept copy.', {}, 'Go back to the strongroom.'));
  return copy;
}

/**
 * Removes a kept copy: its bytes go, unless something else is kept as the same bytes. That it was kept, and why it was
 * removed, stays.
 * @throws Refusal `copy-needed` while a move that is not over stands on it
 */
export async function removeCopy(services: Services, person: Person, id: number, reason: string): Promise<void> {
  mustBe(person, 'administrator');
  const copy = await copyById(id);
  if (copy.removedAt) return;
  const needed = (await movesBy({ where: { copyId: id, calledOffAt: null } })).find((move) => !isBrought(move));
  if (needed) {
    throw new Refusal(problem('copy-needed', `Move ${needed.id} stands on this copy and is not over.`));
  }
  await copy.update({ removedAt: new Date(), removedWhy: reason });
  await audit(person, 'copy removed', `copy ${id}`, { reason, fileName: copy.fileName, sha256: copy.sha256 });
  await letGoOf(services, copy.sha256);
  for (const { sha256 } of copy.linked?.came ?? []) await letGoOf(services, sha256);
}

/** A file that came along with a copy because its texts link to it. @throws Refusal `not-found` */
export async function linkedFile(
  copyId: number,
  place: number,
): Promise<{ sha256: string; size: number; fileName: string }> {
  const file = (await copyWithBytes(copyId)).linked?.came[place];
  if (!file) throw new Refusal(problem('not-found', 'There is no such file.', {}, 'Go back to the strongroom.'));
  const { sha256, size, address } = file;
  return { sha256, size, fileName: linkedName(address) };
}

/** Removes bytes that nothing which is kept is made of. */
export async function letGoOf({ store }: Services, sha256: string): Promise<void> {
  if (!(await isHeld(sha256))) await store.remove(sha256);
}

/** Whether anything that is kept is these bytes. */
async function isHeld(sha256: string): Promise<boolean> {
  const copies = await Copy.count({ where: { sha256, removedAt: null } });
  if (copies > 0) return true;
  // Both are JSON: a SHA-256 in them is nothing else.
  const named = (column: string) => where(col(column), { [Op.like]: `%${sha256}%` });
  const beside = await Copy.count({ where: { [Op.and]: [named('linked'), { removedAt: null }] } });
  if (beside > 0) return true;
  const supplied = await MoveDocument.count({ where: { [Op.and]: [named('content'), { kind: 'supplies' }] } });
  if (supplied > 0) return true;
  const packages = { where: { built: { [Op.not]: null } }, attributes: ['built'] };
  const built = [
    ...(await MovePlan.findAll(packages)),
    ...(await Delivery.findAll(packages)),
    ...(await GivenFile.findAll(packages)),
  ];
  return built.some((m) => m.built?.sha256 === sha256);
}

/** Writes down that kept bytes are damaged, so that everybody who looks at the copy is told. */
export async function markDamaged(sha256: string): Promise<void> {
  const [marked] = await Copy.update({ damagedAt: new Date() }, { where: { sha256, damagedAt: null } });
  if (marked > 0) await audit(null, 'copy found damaged', `blob ${sha256}`);
}

/** The same bytes were put once more, and are sound. */
export async function markSound(sha256: string): Promise<void> {
  await Copy.update({ damagedAt: null }, { where: { sha256 } });
}

/** A copy whose bytes can be given out. @throws Refusal `copy-removed` */
export async function copyWithBytes(id: number): Promise<Copy> {
  const copy = await copyById(id);
  if (!copy.removedAt) return copy;
  throw new Refusal(
    problem(
      'copy-removed',
      `This copy was removed on ${copy.removedAt.toISOString().slice(0, 10)}: ${copy.removedWhy ?? ''}`,
    ),
  );
}

/** A name that no other kept file bears, and that tells what the file is. */
export async function nameOfItsOwn(
  name: string,
  marks: { partial?: boolean; personal?: boolean; to?: string },
): Promise<string> {
  const facts = [
    marks.partial ? 'part' : '',
    marks.personal ? 'with-personal-data' : '',
    marks.to ? `for-${marks.to}` : '',
  ];
  const stem = name.replace(/\.[^.]*$/, '');
  const alike = await Copy.findAll({
    where: { fileName: { [Op.like]: `${stem.replace(/[\\%_]/g, '\\$&')}%` } },
    attributes: ['fileName'],
  });
  const taken = new Set(alike.map((c) => c.fileName));
  return toldApart(name, facts.filter(Boolean), (told) => taken.has(told));
}
