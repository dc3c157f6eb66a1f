import { randomBytes } from 'node:crypto';
import type { Sequelize } from 'sequelize';
import { configFromEnvironment } from '../config.ts';
import { bindModels, connect, migrations } from '../db/index.ts';

/** A fresh database on the private server of the test run, with the schema in it. */
export async function testDatabase(): Promise<{ sequelize: Sequelize; drop(): Promise<void> }> {
  const { db } = configFromEnvironment();
  const name = `treenail_${randomBytes(6).toString('hex')}`;
  const maker = connect(db);
  await maker.query(`CREATE DATABASE ${name}`);
  const sequelize = connect({ ...db, name });
  bindModels(sequelize);
  await migrations(sequelize).up();
  return {
    sequelize,
    async drop() {
      await sequelize.close();
      await maker.query(`DROP DATABASE ${name}`);
      await maker.close();
    },
  };
}

/** Waits for what has to come. */
export async function until(test: () => Promise<boolean>): Promise<void> {
  for (const end = Date.now() + 60_000; Date.now() < end;) {
    if (await test()) return;
    await new Promise((done) => setTimeout(done, 20));
  }
  throw new Error('it did not come to that');
}
