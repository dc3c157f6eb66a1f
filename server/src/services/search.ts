import { Op, literal } from 'sequelize';
import { KIND_LABELS, courseName } from '@treenail/core';
import type { SearchHit } from '../contract/index.ts';
import { Copy, CourseRow, Instance, KeptItem, Move, isDone } from '../db/models/index.ts';
import { movesBy } from './move-rows.ts';

const EACH = 6;

/** Finds courses, moves, kept copies, and items of the courses that were looked into. */
export async function search(words: string): Promise<SearchHit[]> {
  const query = words.trim();
  if (query.length < 2) return [];
  const like = `%${query.replace(/[\\%_]/g, '\\$&')}%`;
  const named = {
    [Op.or]: [
      { title: { [Op.like]: like } },
      { code: { [Op.like]: like } },
      literal(`CONCAT(code, '-', section) LIKE ${CourseRow.sequelize?.escape(like) ?? "''"}`),
    ],
  };
  const [courses, copies, instances] = await Promise.all([
    CourseRow.findAll({ where: named, limit: EACH }),
    Copy.findAll({
      where: {
        [Op.or]: [{ title: { [Op.like]: like } }, { fileName: { [Op.like]: like } }, { code: { [Op.like]: like } }],
      },
      limit: EACH,
    }),
    Instance.findAll(),
  ]);
  const moves = await Move.findAll({ where: { courseId: { [Op.in]: courses.map((c) => c.id) } }, limit: EACH });
  const instanceName = (id: number) => instances.find((i) => i.id === id)?.name ?? '';
  const found: SearchHit[] = courses.map((c) => ({
    kind: 'course',
    title: `${courseName(c)} ${c.title}`.trim(),
    detail: instanceName(c.instanceId),
    link: `/courses?words=${encodeURIComponent(`${c.code} ${c.title}`)}`,
  }));
  for (const move of moves) {
    const course = courses.find((c) => c.id === move.courseId);
    if (course)
      found.push({
        kind: 'move',
        title: `${courseName(course)} ${course.title}`.trim(),
        detail: `to ${instanceName(move.destinationId)}`,
        link: `/moves/${move.id}`,
      });
  }
  for (const copy of copies)
    found.push({
      kind: 'copy',
      title: copy.fileName,
      detail: `kept ${copy.keptAt.toISOString().slice(0, 10)}`,
      link: `/strongroom?copy=${copy.id}`,
    });
  return [...found, ...(await searchItems(like))];
}

/** Items and questions of kept copies; they are shown in the newest move of the course, or else on the Bench. */
async function searchItems(like: string): Promise<SearchHit[]> {
  const rows = await KeptItem.findAll({ where: { title: { [Op.like]: like } }, order: [['id', 'DESC']], limit: EACH });
  const copies = await Copy.findAll({ where: { id: rows.map((r) => r.copyId), removedAt: null } });
  const moves = await movesBy({ where: { copyId: copies.map((c) => c.id) }, order: [['id', 'ASC']] });
  const copyById = new Map(copies.map((c) => [c.id, c]));
  const moveOf = new Map(moves.filter((m) => isDone(m, 'look')).map((m) => [m.copyId, m.id]));
  return rows.flatMap(({ copyId, item, kind, title }): SearchHit[] => {
    const copy = copyById.get(copyId);
    if (!copy) return [];
    const move = moveOf.get(copyId);
    const label = kind === 'question' ? 'question' : ((KIND_LABELS as Record<string, string>)[kind] ?? kind);
    return [
      {
        kind: 'item',
        title,
        detail: `${label} in ${courseName(copy)} ${copy.title}`,
        link:
          move === undefined
            ? `/bench?copy=${copyId}&item=${encodeURIComponent(item)}`
            : `/moves/${move}/look?item=${encodeURIComponent(item)}`,
      },
    ];
  });
}
