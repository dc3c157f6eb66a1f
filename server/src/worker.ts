import { hostname } from 'node:os';
import pino from 'pino';
import { configFromEnvironment } from './config.ts';
import { bindModels, connect } from './db/index.ts';
import { handlersOf } from './handlers/index.ts';
import { JobProcess } from './jobs/process.ts';
import { Worker } from './jobs/worker.ts';
import { heldBy, patienceMs } from './services/pauses.ts';
import { tellByMail } from './services/mail.ts';
import { servicesOf } from './services/context.ts';
import { BEAT_MS, workerIsGone, workerIsHere } from './services/health.ts';
import { sweepLeftovers } from './services/leftovers.ts';

/** A worker process: two jobs at a time, since most of them wait for disks and platforms. */
const config = configFromEnvironment();
const log = pino({ level: config.log, name: 'worker' });
const sequelize = connect(config.db);
bindModels(sequelize);
/** Only what is bundled has the script of the process that does the work; elsewhere it is done here. */
const script = import.meta.url.endsWith('.ts') ? null : new URL('./runner.mjs', import.meta.url);
const apart = script === null ? [] : [1, 2].map(() => new JobProcess({ script, log, limitMs: config.jobMs }));
const workers = [0, 1].map(
  (i) =>
    new Worker({
      sequelize,
      handlers: handlersOf(servicesOf(config)),
      leaseMs: config.leaseMs,
      restMs: Math.min(500, config.pollMs),
      log,
      onOver: (job) => tellByMail(config, job),
      patienceMs,
      heldBy,
      ...(apart[i] ? { perform: apart[i].perform } : {}),
    }),
);
for (const worker of workers) worker.start();
const name = `${hostname()}-${process.pid}`;
const here = () =>
  workerIsHere(name).catch((error: unknown) => log.warn({ err: error }, 'could not say that it is here'));
void here();
const beat = setInterval(() => void here(), BEAT_MS);
const sweep = () => sweepLeftovers(config).catch((error: unknown) => log.warn({ err: error }, 'could not sweep'));
void sweep();
const sweeping = setInterval(() => void sweep(), 3_600_000);
log.info('working');

for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.once(signal, () => {
    clearInterval(beat);
    clearInterval(sweeping);
    void Promise.all(workers.map((w) => w.stop()))
      .then(() => Promise.all(apart.map((one) => one.close())))
      .then(() => workerIsGone(name).catch(() => undefined))
      .then(() => sequelize.close())
      .then(() => process.exit(0));
  });
}
