import type { QueryInterface } from 'sequelize';

/** What each person wants to be told by mail. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query('ALTER TABLE users ADD COLUMN IF NOT EXISTS mail JSON NULL');
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query('ALTER TABLE users DROP COLUMN IF EXISTS mail');
}
