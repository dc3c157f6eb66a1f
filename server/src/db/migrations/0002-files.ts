import type { QueryInterface } from 'sequelize';

/**
 * Courses that are known from files stand in the register under an instance of their own, which no connector speaks to.
 */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(
    `INSERT IGNORE INTO instances (name, platform, base_url, credential, gives, takes, listed_at)
     VALUES ('Files', 'files', '', '', TRUE, FALSE, UTC_TIMESTAMP(3))`,
  );
  await sequelize.query('ALTER TABLE copies MODIFY source_key VARCHAR(190) NOT NULL');
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`DELETE FROM courses WHERE instance_id IN (SELECT id FROM instances WHERE platform = 'files')`);
  await sequelize.query(`DELETE FROM instances WHERE platform = 'files'`);
  await sequelize.query('ALTER TABLE copies MODIFY source_key VARCHAR(120) NOT NULL');
}
