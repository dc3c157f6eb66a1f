import type { QueryInterface } from 'sequelize';

/** What findings that are decided alike have in common bears its name in the database too. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`ALTER TABLE decisions RENAME COLUMN IF EXISTS match_like TO match_group_key`);
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`ALTER TABLE decisions RENAME COLUMN IF EXISTS match_group_key TO match_like`);
}
