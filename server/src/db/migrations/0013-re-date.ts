import type { QueryInterface } from 'sequelize';

/** Moves from before there was a step for dates: theirs went, or go, as they were. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(
    `INSERT IGNORE INTO move_steps (move_id, step, state, result, decided_by, changed_at)
     SELECT l.move_id, 're-date', IF(f.state = 'done', 'done', 'open'), 'dates as they were', NULL, l.changed_at
     FROM move_steps l LEFT JOIN move_steps f ON f.move_id = l.move_id AND f.step = 'fit'
     WHERE l.step = 'look' AND l.state = 'done'`,
  );
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`DELETE FROM move_steps WHERE step = 're-date'`);
  await sequelize.query(`DELETE FROM move_documents WHERE kind IN ('dates', 'redate')`);
}
