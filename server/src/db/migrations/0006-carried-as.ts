import type { QueryInterface } from 'sequelize';

/** The format that a move is carried in, where a person chose one. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query('ALTER TABLE moves ADD COLUMN carried_as VARCHAR(40) NULL');
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query('ALTER TABLE moves DROP COLUMN carried_as');
}
