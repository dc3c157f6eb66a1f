import type { QueryInterface } from 'sequelize';

/** Deliveries that bring another package than was built of the plan, since something was decided of what meets its like there. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`ALTER TABLE deliveries ADD COLUMN IF NOT EXISTS built JSON NULL`);
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`ALTER TABLE deliveries DROP COLUMN IF EXISTS built`);
  await sequelize.query(`DELETE FROM move_documents WHERE kind = 'settled'`);
}
