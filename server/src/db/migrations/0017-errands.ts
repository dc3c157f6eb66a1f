import type { QueryInterface } from 'sequelize';

/** Moves that restore a kept copy or give things of it away, files that were given away, and quiet hours of instances. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`ALTER TABLE moves ADD COLUMN IF NOT EXISTS errand JSON NULL`);
  await sequelize.query(`ALTER TABLE instances ADD COLUMN IF NOT EXISTS quiet JSON NULL`);
  await sequelize.query(`CREATE TABLE IF NOT EXISTS given_files (
    id INT NOT NULL AUTO_INCREMENT PRIMARY KEY,
    request_key VARCHAR(120) NOT NULL UNIQUE,
    copy_id INT NOT NULL,
    items JSON NOT NULL,
    words VARCHAR(400) NOT NULL,
    target VARCHAR(60) NOT NULL,
    built JSON NULL,
    losses JSON NULL,
    given_by INT NULL,
    given_at DATETIME(3) NOT NULL,
    INDEX given_files_of (copy_id)
  ) CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci`);
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`DROP TABLE IF EXISTS given_files`);
  await sequelize.query(`ALTER TABLE instances DROP COLUMN IF EXISTS quiet`);
  await sequelize.query(`ALTER TABLE moves DROP COLUMN IF EXISTS errand`);
}
