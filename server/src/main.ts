import pino from 'pino';
import { createApp } from './api/app.ts';
import { createPlayApp } from './api/play.ts';
import { configFromEnvironment, playsApart } from './config.ts';
import { bindModels, connect } from './db/index.ts';
import { servicesOf } from './services/context.ts';
import { readHere } from './services/readings.ts';
import { ReadingProcess, readBeside } from './services/reading-process.ts';
import { refreshRegister } from './services/register.ts';

/** The HTTP server. Holds nothing of its own: any number can run beside one another. */
const config = configFromEnvironment();
const log = pino({ level: config.log, name: 'server' });
const sequelize = connect(config.db);
bindModels(sequelize);
const services = servicesOf(config);
/** Only what is bundled has the script of the process that reads; elsewhere it is done here. */
const script = import.meta.url.endsWith('.ts') ? null : new URL('./reader.mjs', import.meta.url);
const readers =
  script === null ? null : ([new ReadingProcess({ script, log }), new ReadingProcess({ script, log })] as const);
const { app, events, sweepUploads } = createApp(services, log, readers ? readBeside(readers) : readHere(services));
const server = app.listen(config.port, '127.0.0.1', (error?: Error) => {
  if (error) {
    log.fatal({ err: error }, 'can not listen');
    process.exit(1);
  }
  log.info({ port: config.port }, 'listening');
});
const apart = playsApart(config);
if (config.playPort !== 0 && !apart)
  log.error('learning objects are not played: TREENAIL_PLAY_ADDRESS needs a host of its own');
const player =
  config.playPort === 0 || !apart
    ? null
    : createPlayApp(services, log).listen(config.playPort, '127.0.0.1', (error?: Error) => {
        if (error) log.error({ err: error }, 'learning objects can not be played');
      });
const FRESH_MS = 5 * 60_000;
const keepFresh = () => {
  refreshRegister(FRESH_MS).catch((error: unknown) => log.warn({ err: error }, 'could not ask for a fresh register'));
};
keepFresh();
const timer = setInterval(keepFresh, FRESH_MS);
const sweeping = setInterval(() => {
  sweepUploads().catch((error: unknown) => log.warn({ err: error }, 'could not sweep the uploads'));
}, 3_600_000);

for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.once(signal, () => {
    clearInterval(timer);
    clearInterval(sweeping);
    events.close();
    readers?.forEach((reader) => reader.close());
    player?.closeAllConnections();
    player?.close();
    server.closeAllConnections();
    server.close(() => void sequelize.close().then(() => process.exit(0)));
  });
}
