import { Refusal } from '@treenail/core';
import pino from 'pino';
import { configFromEnvironment } from './config.ts';
import { bindModels, connect } from './db/index.ts';
import { servicesOf } from './services/context.ts';
import { READINGS, readHere, type Reading } from './services/readings.ts';
import { ToReader, type FromReader } from './services/reading-process.ts';

/** The process beside a server that reads packages for people who wait. Without its server it has nothing to do, and ends. */
const config = configFromEnvironment();
const log = pino({ level: config.log, name: 'reader' });
bindModels(connect(config.db));
const read = readHere(servicesOf(config));

process.on('disconnect', () => process.exit(0));
// Its server is told, and says when it is over.
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => undefined);
process.on('message', (message) => void answer(ToReader.parse(message)));

const isReading = (name: string): name is Reading => name in READINGS;

async function answer({ id, name, asked }: ToReader): Promise<void> {
  const say = (message: FromReader) => process.send?.(message);
  try {
    if (!isReading(name)) throw new RangeError(`there is no reading ${name}`);
    // What was asked was checked at the server's door.
    say({ say: 'answer', id, answer: await read(name, ...(asked as never)) });
  } catch (error) {
    if (error instanceof Refusal) say({ say: 'refused', id, problem: error.problem });
    else {
      log.error({ err: error, name }, 'a reading failed');
      say({ say: 'failed', id, why: error instanceof Error ? error.message : String(error) });
    }
  }
}
