import pino from 'pino';
import { configFromEnvironment } from './config.ts';
import { Job, bindModels, connect } from './db/index.ts';
import { handlersOf } from './handlers/index.ts';
import { ToProcess, type FromProcess } from './jobs/process.ts';
import { CalledOff, Performer } from './jobs/perform.ts';
import { servicesOf } from './services/context.ts';
import { patienceMs } from './services/pauses.ts';

/** The process beside a worker that does its jobs, one at a time. Without its worker it has nothing to do, and ends. */
const config = configFromEnvironment();
const log = pino({ level: config.log, name: 'runner' });
const sequelize = connect(config.db);
bindModels(sequelize);
const performer = new Performer({ handlers: handlersOf(servicesOf(config)), log, patienceMs });
let stopping: AbortController | null = null;

process.on('disconnect', () => process.exit(0));
// Its worker is told, and says what is to be done.
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => undefined);

process.on('message', (message) => {
  const order = ToProcess.parse(message);
  if (order.say === 'stop') stopping?.abort(order.calledOff ? new CalledOff() : new Error('the worker is stopping'));
  else void perform(order.job);
});

async function perform(id: number): Promise<void> {
  stopping = new AbortController();
  const job = await Job.findByPk(id, { rejectOnEmpty: true });
  const change = await performer.perform(job, stopping.signal);
  process.send?.({ job: id, change } satisfies FromProcess);
}
