import type { QueryInterface } from 'sequelize';

const INDEXES = [
  // The newest whole copy of each course, and all that are kept of one.
  ['copies', 'copies_newest', 'course_id, partial, removed_at, kept_at'],
  ['copies', 'copies_kept', 'kept_at'],
  // Which bytes are held, and how much they take.
  ['copies', 'copies_bytes', 'removed_at, sha256, size'],
  ['courses', 'courses_named', 'code, section'],
  // The newest job of a kind that a move has.
  ['jobs', 'jobs_of_move', 'move_id, kind'],
] as const;

/** What lists are told in pages by. */
export async function up({ sequelize }: QueryInterface): Promise<void> {
  for (const [table, name, columns] of INDEXES) {
    await sequelize.query(`ALTER TABLE ${table} ADD INDEX IF NOT EXISTS ${name} (${columns})`);
  }
}

export async function down({ sequelize }: QueryInterface): Promise<void> {
  // The foreign keys lean on them, and need others in their place.
  await sequelize.query('ALTER TABLE copies ADD INDEX IF NOT EXISTS course_id (course_id)');
  await sequelize.query('ALTER TABLE jobs ADD INDEX IF NOT EXISTS move_id (move_id)');
  for (const [table, name] of INDEXES) await sequelize.query(`ALTER TABLE ${table} DROP INDEX IF EXISTS ${name}`);
}
