import type { QueryInterface } from 'sequelize';

/**
 * What a platform counts beside what was read; moves that are called off or put away; copies that were removed; jobs that
 * are called off, and since when they are in trouble; instances that are paused, and how long they are waited for.
 */
const UP = [
  `ALTER TABLE copies
     ADD COLUMN IF NOT EXISTS counted INT NULL,
     ADD COLUMN IF NOT EXISTS shown INT NULL,
     ADD COLUMN IF NOT EXISTS lacks JSON NULL,
     ADD COLUMN IF NOT EXISTS removed_at DATETIME(3) NULL,
     ADD COLUMN IF NOT EXISTS removed_why VARCHAR(300) NULL,
     ADD COLUMN IF NOT EXISTS damaged_at DATETIME(3) NULL`,
  `ALTER TABLE moves
     ADD COLUMN IF NOT EXISTS form_chosen BOOLEAN NOT NULL DEFAULT FALSE,
     ADD COLUMN IF NOT EXISTS called_off_at DATETIME(3) NULL,
     ADD COLUMN IF NOT EXISTS put_away_at DATETIME(3) NULL,
     ADD COLUMN IF NOT EXISTS open_findings INT NULL`,
  // Whoever was moving before chose the form by hand, or took the one that came first.
  `UPDATE moves SET form_chosen = TRUE WHERE carried_as IS NOT NULL`,
  `ALTER TABLE jobs
     MODIFY state VARCHAR(20) NOT NULL,
     ADD COLUMN IF NOT EXISTS lost INT NOT NULL DEFAULT 0,
     ADD COLUMN IF NOT EXISTS troubled_since DATETIME(3) NULL,
     ADD COLUMN IF NOT EXISTS call_off BOOLEAN NOT NULL DEFAULT FALSE,
     ADD COLUMN IF NOT EXISTS batch CHAR(36) NULL,
     ADD KEY IF NOT EXISTS jobs_of_batch (batch)`,
  `ALTER TABLE instances
     ADD COLUMN IF NOT EXISTS paused_at DATETIME(3) NULL,
     ADD COLUMN IF NOT EXISTS patience_minutes INT NULL`,
  `CREATE TABLE IF NOT EXISTS kept_items (
    id INT AUTO_INCREMENT PRIMARY KEY,
    copy_id INT NOT NULL,
    item VARCHAR(300) NOT NULL,
    kind VARCHAR(40) NOT NULL,
    title VARCHAR(300) NOT NULL,
    KEY kept_items_of_copy (copy_id),
    FOREIGN KEY (copy_id) REFERENCES copies (id) ON DELETE CASCADE
  )`,
  `CREATE TABLE IF NOT EXISTS workers (name VARCHAR(80) PRIMARY KEY, seen_at DATETIME(3) NOT NULL)`,
];

const DOWN = [
  `DROP TABLE IF EXISTS kept_items`,
  `DROP TABLE IF EXISTS workers`,
  `ALTER TABLE instances DROP COLUMN IF EXISTS paused_at, DROP COLUMN IF EXISTS patience_minutes`,
  `UPDATE jobs SET state = 'failed' WHERE state = 'called off'`,
  `ALTER TABLE jobs MODIFY state ENUM('queued','running','waiting','done','failed') NOT NULL`,
  `ALTER TABLE jobs
     DROP KEY IF EXISTS jobs_of_batch, DROP COLUMN IF EXISTS batch,
     DROP COLUMN IF EXISTS lost, DROP COLUMN IF EXISTS troubled_since, DROP COLUMN IF EXISTS call_off`,
  `ALTER TABLE moves
     DROP COLUMN IF EXISTS form_chosen, DROP COLUMN IF EXISTS called_off_at,
     DROP COLUMN IF EXISTS put_away_at, DROP COLUMN IF EXISTS open_findings`,
  `ALTER TABLE copies
     DROP COLUMN IF EXISTS counted, DROP COLUMN IF EXISTS shown, DROP COLUMN IF EXISTS lacks,
     DROP COLUMN IF EXISTS removed_at, DROP COLUMN IF EXISTS removed_why, DROP COLUMN IF EXISTS damaged_at`,
];

export async function up({ sequelize }: QueryInterface): Promise<void> {
  for (const statement of UP) await sequelize.query(statement);
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  for (const statement of DOWN) await sequelize.query(statement);
}
