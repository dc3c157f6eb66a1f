import type { QueryInterface } from 'sequelize';

/** Files of a shared repository that came along with a copy, because its pages link to them. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`ALTER TABLE copies ADD COLUMN IF NOT EXISTS linked JSON NULL`);
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`ALTER TABLE copies DROP COLUMN IF EXISTS linked`);
}
