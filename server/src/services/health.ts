import { Op, QueryTypes } from 'sequelize';
import type { SystemHealth } from '../contract/index.ts';
import { isMigrated } from '../db/migrate.ts';
import { Job, WorkerRow } from '../db/models/index.ts';

/** A worker that was not heard of for so many of its beats is taken for dead. */
const BEATS = 4;
export const BEAT_MS = 5000;

/** How long the database may take to answer before it is taken for silent. */
const SILENT_MS = 4000;

/** Whether everything that Treenail needs is there. Never throws: that something is missing is an answer. */
export async function healthOfAll(): Promise<SystemHealth> {
  const late = new Promise<SystemHealth>((done) =>
    setTimeout(() => done({ ok: false, database: false, tables: false, workers: 0 }), SILENT_MS).unref(),
  );
  return Promise.race([late, look()]);
}

async function look(): Promise<SystemHealth> {
  try {
    await Job.sequelize?.query('SELECT 1', { type: QueryTypes.SELECT });
  } catch {
    return { ok: false, database: false, tables: false, workers: 0 };
  }
  try {
    if (!Job.sequelize || !(await isMigrated(Job.sequelize))) throw new Error('the tables are of another release');
    const workers = await WorkerRow.count({ where: { seenAt: { [Op.gt]: new Date(Date.now() - BEATS * BEAT_MS) } } });
    return { ok: workers > 0, database: true, tables: true, workers };
  } catch {
    return { ok: false, database: true, tables: false, workers: 0 };
  }
}

/** A worker process says that it is there. */
export async function workerIsHere(name: string): Promise<void> {
  await WorkerRow.upsert({ name, seenAt: new Date() });
}

export async function workerIsGone(name: string): Promise<void> {
  await WorkerRow.destroy({
    where: { [Op.or]: [{ name }, { seenAt: { [Op.lt]: new Date(Date.now() - 86_400_000) } }] },
  });
}
