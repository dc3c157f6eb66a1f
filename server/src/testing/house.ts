import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import type { Sequelize } from 'sequelize';
import { configFromEnvironment } from '../config.ts';
import type { Person } from '../contract/index.ts';
import { User, type Instance } from '../db/models/index.ts';
import { handlersOf } from '../handlers/index.ts';
import { Worker } from '../jobs/worker.ts';
import { servicesOf, type Services } from '../services/context.ts';
import { addInstance } from '../services/instances.ts';
import { heldBy, patienceMs } from '../services/pauses.ts';
import { addPerson } from '../services/people.ts';
import { testDatabase } from './database.ts';
import { scriptedPlatform, type ScriptedPlatform } from './platform.ts';

/** A house of its own for the specs of a service: database, services, an administrator, and one address for all its platforms. */
export interface House {
  sequelize: Sequelize;
  services: Services;
  person: Person;
  platform: ScriptedPlatform;
  /** Where packages may be written before the store takes them. */
  folder: string;
  addInstance(name: string, platform: string): Promise<Instance>;
  /** From then on jobs are done, until it is stopped. */
  startWorker(): Worker;
  close(): Promise<void>;
}

export async function testHouse(): Promise<House> {
  const { sequelize, ...database } = await testDatabase();
  const platform = await scriptedPlatform();
  const folder = await mkdtemp(join(tmpdir(), 'treenail-'));
  const config = {
    ...configFromEnvironment(),
    blobs: join(folder, 'blobs'),
    scratch: join(folder, 'scratch'),
    pollMs: 50,
    smtp: null,
  };
  const services = servicesOf(config);
  await addPerson('Ada', 'ada@marrowick.example', 'administrator', 'right');
  const { id, name, email } = await User.findOne({ where: { email: 'ada@marrowick.example' }, rejectOnEmpty: true });
  const workers: Worker[] = [];
  return {
    sequelize,
    services,
    person: { id, name, email, role: 'administrator' },
    platform,
    folder,
    addInstance: (called, of) =>
      addInstance(config.secret, { name: called, platform: of, baseUrl: platform.baseUrl, credential: 't' }),
    startWorker() {
      const log = pino({ level: 'silent' });
      const worker = new Worker({
        sequelize,
        handlers: handlersOf(services),
        leaseMs: 5000,
        restMs: 20,
        log,
        heldBy,
        patienceMs,
      });
      worker.start();
      workers.push(worker);
      return worker;
    },
    async close() {
      for (const worker of workers) await worker.stop();
      await database.drop();
      await rm(folder, { recursive: true, force: true });
      await platform.close();
    },
  };
}
