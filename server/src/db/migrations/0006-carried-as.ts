import type { QueryInterface } from 'sequelize';

/** The format that a move is carried in, where a person chose one. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query('ALTER TABLE moves ADD COLUMN IF NOT EXISTS carried_as VARCHAR(40) NULL');
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query('ALTER TABLE moves DROP COLUMN IF EXISTS carried_as');
}
