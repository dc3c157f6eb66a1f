import type { QueryInterface } from 'sequelize';

/** Health, cut-off dates and versioned profiles of instances; fetches that belong to no move; settings of the house. */
const UP = [
  `ALTER TABLE instances
     ADD COLUMN health JSON NULL,
     ADD COLUMN cut_off DATETIME(3) NULL,
     ADD COLUMN cut_off_why VARCHAR(200) NULL`,
  `ALTER TABLE courses ADD COLUMN parts INT NULL`,
  `ALTER TABLE copies
     ADD COLUMN form VARCHAR(20) NOT NULL DEFAULT 'standard',
     ADD COLUMN partial BOOLEAN NOT NULL DEFAULT FALSE,
     ADD COLUMN personal BOOLEAN NOT NULL DEFAULT FALSE`,
  `ALTER TABLE jobs ADD COLUMN course_id INT NULL, ADD COLUMN asked_by INT NULL, ADD KEY (course_id)`,
  `CREATE TABLE profiles (
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
  `CREATE TABLE house (
    name VARCHAR(60) PRIMARY KEY,
    value JSON NOT NULL
  )`,
  `CREATE TABLE saved_filters (
    id INT AUTO_INCREMENT PRIMARY KEY,
    user_id INT NOT NULL,
    name VARCHAR(80) NOT NULL,
    filter JSON NOT NULL,
    UNIQUE KEY (user_id, name),
    FOREIGN KEY (user_id) REFERENCES users(id) ON DELETE CASCADE
  )`,
];

const DOWN = [
  'DROP TABLE saved_filters',
  'DROP TABLE house',
  'DROP TABLE profiles',
  'ALTER TABLE jobs DROP KEY course_id, DROP COLUMN course_id, DROP COLUMN asked_by',
  'ALTER TABLE copies DROP COLUMN form, DROP COLUMN partial, DROP COLUMN personal',
  'ALTER TABLE courses DROP COLUMN parts',
  'ALTER TABLE instances DROP COLUMN health, DROP COLUMN cut_off, DROP COLUMN cut_off_why',
];

export async function up({ sequelize }: QueryInterface): Promise<void> {
  for (const statement of UP) await sequelize.query(statement);
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  for (const statement of DOWN) await sequelize.query(statement);
}
