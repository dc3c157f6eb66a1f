import { holdsQuestions, readable, type Course } from '@treenail/core';
import { Op } from 'sequelize';
import { Copy, KeptItem } from '../db/models/index.ts';

/** Letters of a title that are looked through. */
const MOST = 300;

/** Items that are looked through of one course. */
const MOST_ITEMS = 50_000;

/**
 * Writes down what the finder finds of a copy: the titles of its items and of their questions, or how these begin. Of each
 * course one copy is looked through, the one that was written down last.
 */
export async function indexItems(copy: Copy, course: Course): Promise<void> {
  const rows = [...titlesOf(course)]
    .filter(({ title }) => title !== '')
    .slice(0, MOST_ITEMS)
    .map(({ item, kind, title }) => ({
      copyId: copy.id,
      item: item.slice(0, MOST),
      kind,
      title: title.slice(0, MOST),
    }));
  const older =
    copy.courseId === null
      ? []
      : await Copy.findAll({ where: { courseId: copy.courseId, id: { [Op.ne]: copy.id } }, attributes: ['id'] });
  await KeptItem.destroy({ where: { copyId: [copy.id, ...older.map((c) => c.id)] } });
  for (let at = 0; at < rows.length; at += 5000) await KeptItem.bulkCreate(rows.slice(at, at + 5000));
}

function* titlesOf({ items }: Course): Generator<{ item: string; kind: string; title: string }> {
  for (const item of items) {
    yield { item: item.id, kind: item.kind, title: item.title.trim() };
    if (!holdsQuestions(item)) continue;
    for (const question of item.questions)
      yield { item: item.id, kind: 'question', title: (question.title || readable(question.prompt)).trim() };
  }
}
