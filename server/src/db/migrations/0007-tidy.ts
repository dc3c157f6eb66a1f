import type { QueryInterface } from 'sequelize';

/** What people decide on findings, rules they keep of it, and what outside addresses answered. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query(`CREATE TABLE IF NOT EXISTS decisions (
    id INT AUTO_INCREMENT PRIMARY KEY,
    move_id INT NOT NULL,
    match_kind VARCHAR(60) NOT NULL,
    match_like TEXT NULL,
    match_key TEXT NULL,
    mend VARCHAR(60) NOT NULL,
    params JSON NOT NULL,
    reason VARCHAR(300) NOT NULL,
    decided_by INT NULL,
    decided_at DATETIME(3) NOT NULL,
    INDEX decisions_of_move (move_id),
    FOREIGN KEY (move_id) REFERENCES moves (id) ON DELETE CASCADE
  )`);
  await sequelize.query(`CREATE TABLE IF NOT EXISTS mend_rules (
    id INT AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(80) NOT NULL UNIQUE,
    content JSON NOT NULL,
    made_by INT NULL,
    made_at DATETIME(3) NOT NULL
  )`);
  await sequelize.query(`CREATE TABLE IF NOT EXISTS outside_answers (
    address_hash CHAR(64) PRIMARY KEY,
    address TEXT NOT NULL,
    state VARCHAR(20) NOT NULL,
    moved_to TEXT NULL,
    words VARCHAR(300) NOT NULL,
    asked_at DATETIME(3) NOT NULL
  )`);
  await sequelize.query('ALTER TABLE moves ADD COLUMN IF NOT EXISTS tidy_version INT NOT NULL DEFAULT 0');
  await sequelize.query('ALTER TABLE moves ADD COLUMN IF NOT EXISTS worked_version INT NOT NULL DEFAULT 0');
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  await sequelize.query('ALTER TABLE moves DROP COLUMN IF EXISTS worked_version');
  await sequelize.query('ALTER TABLE moves DROP COLUMN IF EXISTS tidy_version');
  for (const table of ['outside_answers', 'mend_rules', 'decisions'])
    await sequelize.query(`DROP TABLE IF EXISTS ${table}`);
}
