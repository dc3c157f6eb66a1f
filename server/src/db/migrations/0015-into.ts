import type { QueryInterface } from 'sequelize';

/** Deliveries into a course that was there: how, the copy of what stood there, what came by it, and that it was taken back. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`ALTER TABLE deliveries
    ADD COLUMN IF NOT EXISTS way VARCHAR(40) NULL,
    ADD COLUMN IF NOT EXISTS before_copy_id INT NULL,
    ADD COLUMN IF NOT EXISTS brought JSON NULL,
    ADD COLUMN IF NOT EXISTS taken_back_at DATETIME(3) NULL`);
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`ALTER TABLE deliveries DROP COLUMN IF EXISTS way, DROP COLUMN IF EXISTS before_copy_id,
    DROP COLUMN IF EXISTS brought, DROP COLUMN IF EXISTS taken_back_at`);
  await sequelize.query(`DELETE FROM move_documents WHERE kind IN ('into', 'theirs')`);
}
