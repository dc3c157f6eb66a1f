import type { QueryInterface } from 'sequelize';

/** Parts of a course that follow others: how the move stood when one was begun. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query('ALTER TABLE move_plans ADD COLUMN IF NOT EXISTS further JSON NULL');
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query('ALTER TABLE move_plans DROP COLUMN IF EXISTS further');
  await sequelize.query(`DELETE FROM move_documents WHERE kind IN ('sent', 'further')`);
}
