import pino from 'pino';
import { configFromEnvironment } from './config.ts';
import { bindModels, connect } from './db/index.ts';
import { handlersOf } from './jobs/handlers/index.ts';
import { Worker } from './jobs/worker.ts';
import { heldBy, patienceMs } from './services/pauses.ts';
import { tellByMail } from './services/mail.ts';
import { servicesOf } from './services/context.ts';

/** A worker process: two jobs at a time, since most of them wait for disks and platforms. */
const config = configFromEnvironment();
const log = pino({ level: config.log, name: 'worker' });
const sequelize = connect(config.db);
bindModels(sequelize);
const workers = [1, 2].map(
  () =>
    new Worker({
      sequelize,
      handlers: handlersOf(servicesOf(config)),
      leaseMs: config.leaseMs,
      restMs: Math.min(500, config.pollMs),
      log,
      onOver: (job) => tellByMail(config, job),
      patienceMs,
      heldBy,
    }),
);
for (const worker of workers) worker.start();
log.info('working');

for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.once(signal, () => {
    void Promise.all(workers.map((w) => w.stop()))
      .then(() => sequelize.close())
      .then(() => process.exit(0));
  });
}
