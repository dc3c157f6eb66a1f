import { QueryTypes, type QueryInterface, type Sequelize } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import * as m0001 from './migrations/0001-begin.ts';
import * as m0002 from './migrations/0002-files.ts';
import * as m0003 from './migrations/0003-platforms.ts';
import * as m0004 from './migrations/0004-mail.ts';
import * as m0005 from './migrations/0005-descriptions.ts';
import * as m0006 from './migrations/0006-carried-as.ts';
import * as m0007 from './migrations/0007-tidy.ts';
import * as m0008 from './migrations/0008-whole-course.ts';
import * as m0009 from './migrations/0009-linked-files.ts';
import * as m0010 from './migrations/0010-moves-as-data.ts';
import * as m0011 from './migrations/0011-group-key.ts';
import * as m0012 from './migrations/0012-lists.ts';
import * as m0013 from './migrations/0013-re-date.ts';
import * as m0014 from './migrations/0014-further.ts';
import * as m0015 from './migrations/0015-into.ts';
import * as m0016 from './migrations/0016-settled.ts';
import * as m0017 from './migrations/0017-errands.ts';

/**
 * In order, each of steps that can be run again: one that was killed in its middle is run once more. A list rather than a
 * folder read at run time, so that a bundle holds them too.
 */
const MIGRATIONS: Record<string, { up(q: QueryInterface): Promise<void>; down(q: QueryInterface): Promise<void> }> = {
  '0001-begin': m0001,
  '0002-files': m0002,
  '0003-platforms': m0003,
  '0004-mail': m0004,
  '0005-descriptions': m0005,
  '0006-carried-as': m0006,
  '0007-tidy': m0007,
  '0008-whole-course': m0008,
  '0009-linked-files': m0009,
  '0010-moves-as-data': m0010,
  '0011-group-key': m0011,
  '0012-lists': m0012,
  '0013-re-date': m0013,
  '0014-further': m0014,
  '0015-into': m0015,
  '0016-settled': m0016,
  '0017-errands': m0017,
};

export function migrations(sequelize: Sequelize): Umzug<QueryInterface> {
  return new Umzug<QueryInterface>({
    migrations: Object.entries(MIGRATIONS).map(([name, m]) => ({
      name,
      up: ({ context }) => m.up(context),
      down: ({ context }) => m.down(context),
    })),
    context: sequelize.getQueryInterface(),
    storage: new SequelizeStorage({ sequelize }),
    logger: undefined,
  });
}

/** How long one that migrates waits for another, in seconds. */
const PATIENCE = 600;

/**
 * Brings the database up to date. Of several that begin at once one does it, and the others find it done: they wait for a
 * lock of the database, which goes with the connection that holds it, so that one that is killed holds up nobody.
 * @throws Error where another is at it for more than ten minutes
 */
export async function migrate(sequelize: Sequelize): Promise<void> {
  await sequelize.transaction(async (transaction) => {
    const [row] = await sequelize.query<{ held: number | null }>(
      `SELECT GET_LOCK(CONCAT('migrate ', DATABASE()), :PATIENCE) AS held`,
      { transaction, type: QueryTypes.SELECT, replacements: { PATIENCE } },
    );
    if (row?.held !== 1) throw new Error('another process has been migrating this database for too long');
    try {
      await migrations(sequelize).up();
    } finally {
      await sequelize.query(`SELECT RELEASE_LOCK(CONCAT('migrate ', DATABASE()))`, {
        transaction,
        type: QueryTypes.SELECT,
      });
    }
  });
}

/** Whether the tables are those of this release: every migration of it was done. */
export async function isMigrated(sequelize: Sequelize): Promise<boolean> {
  const done = await sequelize.query<{ name: string }>('SELECT name FROM sequelize_meta', { type: QueryTypes.SELECT });
  const names = new Set(done.map(({ name }) => name));
  return Object.keys(MIGRATIONS).every((name) => names.has(name));
}
