import type { QueryInterface } from 'sequelize';

/** Health, cut-off dates and versioned profiles of instances; fetches that belong to no move; settings of the house. */
const UP = [
  `ALTER TABLE instances
     ADD COLUMN IF NOT EXISTS health JSON NULL,
     ADD COLUMN IF NOT EXISTS cut_off DATETIME(3) NULL,
     ADD COLUMN IF NOT EXISTS cut_off_why VARCHAR(200) NULL`,
  `ALTER TABLE courses ADD COLUMN IF NOT EXISTS parts INT NULL`,
  `ALTER TABLE copies
     ADD COLUMN IF NOT EXISTS form VARCHAR(20) NOT NULL DEFAULT 'standard',
     ADD COLUMN IF NOT EXISTS partial BOOLEAN NOT NULL DEFAULT FALSE,
     ADD COLUMN IF NOT EXISTS personal BOOLEAN NOT NULL DEFAULT FALSE`,
  `ALTER TABLE jobs
     ADD COLUMN IF NOT EXISTS course_id INT NULL,
     ADD COLUMN IF NOT EXISTS asked_by INT NULL,
     ADD KEY IF NOT EXISTS course_id (course_id)`,
  `CREATE TABLE IF NOT EXISTS profiles (
    id INT AUTO_INCREMENT PRIMARY KEY,
    instance_id INT NOT NULL,
    version INT NOT NULL,
    content JSON NOT NULL,
    changed_by INT NULL,
    changed_at DATETIME(3) NOT NULL,
    note VARCHAR(300) NOT NULL,
    UNIQUE KEY (instance_id, version),
    FOREIGN KEY (instance_id) REFERENCES instances(id) ON DELETE CASCADE
  )`,
  `CREATE TABLE IF NOT EXISTS house (
    name VARCHAR(60) PRIMARY KEY,
    value JSON NOT NULL
  )`,
  `CREATE TABLE IF NOT EXISTS saved_filters (
    id INT AUTO_INCREMENT PRIMARY KEY,
    user_id INT NOT NULL,
    name VARCHAR(80) NOT NULL,
    filter JSON NOT NULL,
    UNIQUE KEY (user_id, name),
    FOREIGN KEY (user_id) REFERENCES users(id) ON DELETE CASCADE
  )`,
];

const DOWN = [
  'DROP TABLE IF EXISTS saved_filters',
  'DROP TABLE IF EXISTS house',
  'DROP TABLE IF EXISTS profiles',
  `ALTER TABLE jobs DROP KEY IF EXISTS course_id, DROP COLUMN IF EXISTS course_id, DROP COLUMN IF EXISTS asked_by`,
  'ALTER TABLE copies DROP COLUMN IF EXISTS form, DROP COLUMN IF EXISTS partial, DROP COLUMN IF EXISTS personal',
  'ALTER TABLE courses DROP COLUMN IF EXISTS parts',
  'ALTER TABLE instances DROP COLUMN IF EXISTS health, DROP COLUMN IF EXISTS cut_off, DROP COLUMN IF EXISTS cut_off_why',
];

export async function up({ sequelize }: QueryInterface): Promise<void> {
  for (const statement of UP) await sequelize.query(statement);
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  for (const statement of DOWN) await sequelize.query(statement);
}
