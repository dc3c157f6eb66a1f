import { Op, literal } from 'sequelize';
import { KIND_LABELS, courseName } from '@treenail/core';
import type { Found } from '../api/contract.ts';
import { Copy, CourseRow, Instance, Move, MoveDocument } from '../db/models.ts';
import { LookAnswer } from '../api/contract.ts';

const EACH = 6;

/** Finds courses, moves, kept copies, and items of the courses that were looked into. */
export async function search(words: string): Promise<Found[]> {
  const asked = words.trim();
  if (asked.length < 2) return [];
  const like = `%${asked.replace(/[\\%_]/g, '\\$&')}%`;
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
  const found: Found[] = courses.map((c) => ({
    kind: 'course',
    title: `${courseName(c)} ${c.title}`.trim(),
    detail: instanceName(c.instanceId),
    link: `/courses?find=${encodeURIComponent(`${c.code} ${c.title}`)}`,
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
  return [...found, ...(await searchItems(asked, like))];
}

async function searchItems(asked: string, like: string): Promise<Found[]> {
  const documents = await MoveDocument.findAll({
    where: { kind: 'look', content: { [Op.like]: like } } as never,
    order: [['writtenAt', 'DESC']],
    limit: 5,
  });
  const wanted = asked.toLowerCase();
  const found: Found[] = [];
  for (const { moveId, content } of documents) {
    const { course } = LookAnswer.parse(content);
    for (const item of course.items) {
      if (found.length >= EACH) return found;
      if (!item.title.toLowerCase().includes(wanted)) continue;
      found.push({
        kind: 'item',
        title: item.title,
        detail: `${KIND_LABELS[item.kind]} in ${course.title}`,
        link: `/moves/${moveId}/look?item=${encodeURIComponent(item.id)}`,
      });
    }
  }
  return found;
}
