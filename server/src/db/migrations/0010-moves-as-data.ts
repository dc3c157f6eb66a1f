import { QueryTypes, type QueryInterface, type Sequelize } from 'sequelize';

/**
 * Steps of a move as rows; what is decided of it in versions, with the package of each; what was brought, as deliveries.
 * They are made of the columns of moves, which then go, all at once: what was killed before that is done once more.
 */
const TABLES = [
  `CREATE TABLE IF NOT EXISTS move_steps (
    move_id INT NOT NULL,
    step VARCHAR(20) NOT NULL,
    state VARCHAR(20) NOT NULL,
    result TEXT NOT NULL,
    decided_by INT NULL,
    changed_at DATETIME(3) NOT NULL,
    PRIMARY KEY (move_id, step),
    FOREIGN KEY (move_id) REFERENCES moves (id) ON DELETE CASCADE
  )`,
  `CREATE TABLE IF NOT EXISTS move_plans (
    id INT AUTO_INCREMENT PRIMARY KEY,
    move_id INT NOT NULL,
    version INT NOT NULL,
    carried_as VARCHAR(40) NULL,
    form_chosen BOOLEAN NOT NULL DEFAULT FALSE,
    tidy_version INT NOT NULL DEFAULT 0,
    worked_version INT NOT NULL DEFAULT 0,
    accepted_at DATETIME(3) NULL,
    accepted_by INT NULL,
    accepted JSON NULL,
    built JSON NULL,
    UNIQUE KEY move_plan_version (move_id, version),
    FOREIGN KEY (move_id) REFERENCES moves (id) ON DELETE CASCADE
  )`,
  `CREATE TABLE IF NOT EXISTS deliveries (
    id INT AUTO_INCREMENT PRIMARY KEY,
    move_id INT NOT NULL,
    plan_version INT NOT NULL,
    request_key VARCHAR(200) NOT NULL,
    asked JSON NOT NULL,
    asked_by INT NULL,
    asked_at DATETIME(3) NOT NULL,
    shell JSON NULL,
    delivered_at DATETIME(3) NULL,
    UNIQUE KEY delivery_request (request_key),
    KEY deliveries_of_move (move_id),
    FOREIGN KEY (move_id) REFERENCES moves (id) ON DELETE CASCADE
  )`,
];

/** Who did this of a move last, by the trail. */
const lastTo = (act: string) =>
  `(SELECT a.user_id FROM audit a WHERE a.subject = CONCAT('move ', m.id) AND a.act = '${act}' ORDER BY a.id DESC LIMIT 1)`;

const line = (step: string) => `COALESCE(JSON_VALUE(m.results, '$."${step}"'), '')`;

/** When each step is done, and who decided it. */
const STEPS: readonly [step: string, done: string, by: string][] = [
  ['fetch', 'm.copy_id IS NOT NULL', 'NULL'],
  ['look', `JSON_EXISTS(m.results, '$.look')`, 'NULL'],
  ['fit', 'm.accepted_at IS NOT NULL', lastTo('fit accepted')],
  ['build', 'm.built IS NOT NULL', 'NULL'],
  ['deliver', 'm.delivered_at IS NOT NULL', lastTo('delivery asked for')],
  ['check', `JSON_EXISTS(m.results, '$.check')`, 'NULL'],
  ['hand-over', 'FALSE', 'NULL'],
];

const FILL = [
  ...STEPS.map(
    ([step, done, by]) => `INSERT IGNORE INTO move_steps (move_id, step, state, result, decided_by, changed_at)
     SELECT m.id, '${step}', IF(${done}, 'done', 'ahead'), REGEXP_REPLACE(${line(step)}, '^accepted; ', ''),
       IF(${done}, ${by}, NULL), COALESCE(m.delivered_at, m.accepted_at, m.created_at)
     FROM moves m WHERE ${done} OR ${line(step)} <> ''`,
  ),
  `INSERT IGNORE INTO move_steps (move_id, step, state, result, decided_by, changed_at)
     SELECT m.id, 'tidy', IF(COALESCE(m.open_findings, 0) > 0, 'open', 'done'), ${line('tidy')}, NULL, m.created_at
     FROM moves m WHERE ${line('tidy')} <> ''`,
  `INSERT IGNORE INTO move_plans
     (move_id, version, carried_as, form_chosen, tidy_version, worked_version, accepted_at, accepted_by, built)
     SELECT m.id, 1, m.carried_as, m.form_chosen, m.tidy_version, m.worked_version, m.accepted_at,
       IF(m.accepted_at IS NULL, NULL, ${lastTo('fit accepted')}), m.built
     FROM moves m`,
  // One that is on its way has a job, of which the newest counts; what was brought long ago may have none any more.
  `INSERT IGNORE INTO deliveries (move_id, plan_version, request_key, asked, asked_by, asked_at, shell, delivered_at)
     SELECT m.id, 1, COALESCE(j.request_key, CONCAT('deliver:move-', m.id)),
       COALESCE(JSON_EXTRACT(j.input, '$.shell'), JSON_OBJECT('title', JSON_VALUE(m.shell, '$.title'))),
       ${lastTo('delivery asked for')}, COALESCE(j.created_at, m.delivered_at, m.created_at), m.shell, m.delivered_at
     FROM moves m
     LEFT JOIN jobs j ON j.id =
       (SELECT MAX(d.id) FROM jobs d WHERE d.move_id = m.id AND d.kind = 'deliver' AND d.state <> 'called off')
     WHERE j.id IS NOT NULL OR m.shell IS NOT NULL OR m.delivered_at IS NOT NULL`,
];

const COLUMNS = [
  'carried_as',
  'form_chosen',
  'open_findings',
  'accepted_at',
  'built',
  'shell',
  'delivered_at',
  'results',
  'tidy_version',
  'worked_version',
];

async function hasColumns(sequelize: Sequelize): Promise<boolean> {
  const rows = await sequelize.query(
    `SELECT 1 FROM information_schema.columns
     WHERE table_schema = DATABASE() AND table_name = 'moves' AND column_name = 'results'`,
    { type: QueryTypes.SELECT },
  );
  return rows.length > 0;
}

export async function up({ sequelize }: QueryInterface): Promise<void> {
  for (const statement of TABLES) await sequelize.query(statement);
  if (!(await hasColumns(sequelize))) return;
  for (const statement of FILL) await sequelize.query(statement);
  await sequelize.query(`ALTER TABLE moves ${COLUMNS.map((name) => `DROP COLUMN IF EXISTS ${name}`).join(', ')}`);
}

const DOWN = [
  `ALTER TABLE moves
     ADD COLUMN IF NOT EXISTS carried_as VARCHAR(40) NULL,
     ADD COLUMN IF NOT EXISTS form_chosen BOOLEAN NOT NULL DEFAULT FALSE,
     ADD COLUMN IF NOT EXISTS open_findings INT NULL,
     ADD COLUMN IF NOT EXISTS accepted_at DATETIME(3) NULL,
     ADD COLUMN IF NOT EXISTS built JSON NULL,
     ADD COLUMN IF NOT EXISTS shell JSON NULL,
     ADD COLUMN IF NOT EXISTS delivered_at DATETIME(3) NULL,
     ADD COLUMN IF NOT EXISTS results JSON NULL,
     ADD COLUMN IF NOT EXISTS tidy_version INT NOT NULL DEFAULT 0,
     ADD COLUMN IF NOT EXISTS worked_version INT NOT NULL DEFAULT 0`,
  `UPDATE moves m
     JOIN move_plans p ON p.move_id = m.id AND p.version = (SELECT MAX(q.version) FROM move_plans q WHERE q.move_id = m.id)
     SET m.carried_as = p.carried_as, m.form_chosen = p.form_chosen, m.accepted_at = p.accepted_at, m.built = p.built,
       m.tidy_version = p.tidy_version, m.worked_version = p.worked_version`,
  `UPDATE moves m
     JOIN deliveries d ON d.id = (SELECT MAX(e.id) FROM deliveries e WHERE e.move_id = m.id)
     SET m.shell = d.shell, m.delivered_at = d.delivered_at`,
  `UPDATE moves m SET results = COALESCE(
     (SELECT JSON_OBJECTAGG(s.step, IF(s.step = 'fit' AND s.state = 'done', CONCAT('accepted; ', s.result), s.result))
      FROM move_steps s WHERE s.move_id = m.id), '{}')`,
  `UPDATE moves m SET open_findings = (SELECT IF(s.state = 'open', 1, 0) FROM move_steps s
     WHERE s.move_id = m.id AND s.step = 'tidy')`,
  `DROP TABLE IF EXISTS deliveries`,
  `DROP TABLE IF EXISTS move_plans`,
  `DROP TABLE IF EXISTS move_steps`,
];

export async function down({ sequelize }: QueryInterface): Promise<void> {
  for (const statement of DOWN) await sequelize.query(statement);
}
