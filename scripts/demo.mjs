/** Brings up the whole of Treenail with its demo: database, stand-ins, server, workers. Used by start and by the tests. */
import { randomBytes } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { spawnSync } from 'node:child_process';
import {
  ROOT,
  answers,
  crashDatabase,
  ensureServer,
  portIsFree,
  run,
  secretIn,
  startDatabase,
  supervise,
  until,
} from './machine.mjs';

export const PEOPLE = [
  { name: 'Isla Renn', email: 'admin@marrowick.example', role: 'administrator', password: 'peg-and-wedge' },
  { name: 'Tam Orrick', email: 'instructor@marrowick.example', role: 'instructor', password: 'clench-and-rove' },
];

/** Days on which the college is closed in its terms. */
const CLOSED = [
  { on: '2027-03-26', name: 'Good Friday' },
  { on: '2027-03-29', name: 'Easter Monday' },
  { on: '2027-05-03', name: 'Early May holiday' },
  { on: '2027-05-31', name: 'Late May holiday' },
];

const TERMS = [
  {
    name: 'Autumn 2026',
    from: '2026-09-14',
    to: '2026-12-18',
    breaks: [{ name: 'Reading week', from: '2026-10-26', to: '2026-10-30' }],
  },
  {
    name: 'Spring 2027',
    from: '2027-01-11',
    to: '2027-04-09',
    breaks: [{ name: 'Break', from: '2027-02-15', to: '2027-02-19' }],
  },
  { name: 'Summer 2027', from: '2027-04-26', to: '2027-07-09', breaks: [] },
];

/** Ports count up from one: server, database, then the stand-ins. */
export function portsFrom(port) {
  const standins = Object.fromEntries(STANDINS.map(({ id }, i) => [id, port + 2 + i]));
  const more = port + 2 + STANDINS.length;
  return {
    server: port,
    database: port + 1,
    ...standins,
    mailbox: more,
    smtp: more + 1,
    outside: more + 2,
    play: more + 3,
  };
}

/** The simulated platforms: what each is a stand-in of, and what its people call it. */
const STANDINS = [
  {
    id: 'quernhold',
    platform: 'quernhold',
    name: 'Marrowick Live',
    cutOff: { at: '2027-01-29T17:00:00Z', why: 'Quernhold is switched off' },
  },
  { id: 'tarnhall', platform: 'tarnhall', name: 'Marrowick New' },
  {
    id: 'oxlea',
    platform: 'oxlea',
    name: 'Fenwright',
    cutOff: { at: '2026-12-18T17:00:00Z', why: 'the accounts at Fenwright are closed' },
  },
  { id: 'rehearsal', platform: 'quernhold', name: 'Marrowick Rehearsal', settings: { STANDIN_COURSES: 'rehearsal' } },
  { id: 'trial', platform: 'tarnhall', name: 'Marrowick Trial' },
];

export async function bringUp({
  data,
  port,
  web,
  fresh = false,
  quick = false,
  pace = 5000,
  poll = 1000,
  lease = 15_000,
  hang = 20 * 60_000,
  mailAfter = 60_000,
  padding = 0,
  /** Whether the destination has courses with people in them, as a registrar and a trial left them. */
  trials = true,
  /** How much of their length the films of courses have. */
  films = 1,
  workers = 1,
  /** Where the stand-ins' courses lie once they are drawn, so that the next to begin anew need not draw them; '' where nowhere. */
  drawn = '',
  /** Whether a server or worker that ends is started again. */
  supervised = false,
  log = 'info',
}) {
  const ports = portsFrom(port);
  for (const [what, number] of Object.entries(ports)) {
    if (!(await portIsFree(number)))
      throw new Error(`Port ${number} (${what}) is taken. Stop what holds it, or set TREENAIL_PORT.`);
  }
  if (fresh) rmSync(data, { recursive: true, force: true });
  for (const folder of ['', 'logs', 'database', 'mailbox', ...STANDINS.map((s) => s.id)])
    mkdirSync(join(data, folder), { recursive: true });
  if (fresh && drawn !== '' && existsSync(drawn)) cpSync(drawn, data, { recursive: true });
  await ensureServer();
  const database = await startDatabase(join(data, 'database'), ports.database, { quick });
  const logTo = (name) => join(data, 'logs', `${name}.log`);
  const tokens = tokensIn(data);
  for (const { id, platform, name, settings = {} } of STANDINS) {
    run(
      id,
      `standins/dist/${platform}/main.mjs`,
      {
        NODE_ENV: 'production',
        STANDIN_PACE_MS: String(pace),
        STANDIN_SMTP: `smtp://127.0.0.1:${ports.smtp}`,
        STANDIN_NAME: name,
        STANDIN_PADDING_BYTES: String(padding),
        STANDIN_FILMS: String(films),
        STANDIN_TRIALS: trials ? 'yes' : 'no',
        STANDIN_PORT: String(ports[id]),
        STANDIN_FOLDER: join(data, id),
        STANDIN_TOKEN: tokens[id],
        ...settings,
      },
      logTo(id),
    );
  }
  run(
    'mailbox',
    'standins/dist/mailbox/main.mjs',
    {
      NODE_ENV: 'production',
      STANDIN_PORT: String(ports.mailbox),
      STANDIN_SMTP_PORT: String(ports.smtp),
      STANDIN_FOLDER: join(data, 'mailbox'),
      STANDIN_TOKEN: 'none',
    },
    logTo('mailbox'),
  );
  run(
    'outside',
    'standins/dist/outside/main.mjs',
    { NODE_ENV: 'production', STANDIN_PORT: String(ports.outside), STANDIN_FOLDER: data, STANDIN_TOKEN: 'none' },
    logTo('outside'),
  );
  const at = (n) => `http://127.0.0.1:${n}`;
  const environment = {
    ...database,
    NODE_ENV: 'production',
    TREENAIL_PORT: String(ports.server),
    TREENAIL_DATA: data,
    TREENAIL_SECRET: secretIn(data),
    TREENAIL_POLL_MS: String(poll),
    // The demo's platforms are on this machine.
    TREENAIL_HOME_NETS: '127.0.0.0/8',
    TREENAIL_LEASE_MS: String(lease),
    TREENAIL_HANG_MS: String(hang),
    TREENAIL_SMTP: `smtp://127.0.0.1:${ports.smtp}`,
    TREENAIL_ADDRESS: at(ports.server),
    TREENAIL_PLAY_PORT: String(ports.play),
    TREENAIL_EXAMPLES_AT: at(ports.outside),
    TREENAIL_MAIL_AFTER_MS: String(mailAfter),
    TREENAIL_LOG: log,
    TREENAIL_ZONE: 'Europe/London',
    ...(web ? { TREENAIL_WEB: web } : {}),
    TREENAIL_DEMO: JSON.stringify({
      people: PEOPLE,
      terms: TERMS,
      closed: CLOSED,
      noPersons: ['Marrowick College'],
      instances: STANDINS.map(({ id, platform, name, cutOff }) => ({
        ...(cutOff ? { cutOff } : {}),
        name,
        platform,
        baseUrl: at(ports[id]),
        credential: tokens[id],
      })),
    }),
  };
  const prepared = spawnSync(process.execPath, [join(ROOT, 'server/dist/prepare.mjs')], {
    cwd: ROOT,
    env: { ...process.env, ...environment },
    encoding: 'utf8',
  });
  if (prepared.status !== 0)
    throw new Error(`The database could not be prepared:\n${prepared.stdout}${prepared.stderr}`);
  // The first start draws and writes the demo's courses.
  await until('the mailbox', answers(at(ports.mailbox)));
  await until('the outside', answers(at(ports.outside)));
  for (const { id, name } of STANDINS) await until(name, answers(at(ports[id])), 180_000);
  if (drawn !== '' && !existsSync(drawn)) {
    // Tarnhall draws nothing.
    for (const { id } of STANDINS.filter((s) => s.platform !== 'tarnhall'))
      cpSync(join(data, id), join(`${drawn}.part`, id), { recursive: true });
    renameSync(`${drawn}.part`, drawn);
  }
  const start = supervised ? supervise : run;
  let server = start('server', 'server/dist/main.mjs', environment, logTo('server'));
  const working = [];
  const startWorker = () => {
    const worker = start('worker', 'server/dist/worker.mjs', environment, logTo('worker'));
    working.push(worker);
    return worker;
  };
  for (let i = 0; i < workers; i++) startWorker();
  await until('the server', answers(`${at(ports.server)}/api/health`));
  return {
    address: at(ports.server),
    quernhold: at(ports.quernhold),
    tarnhall: at(ports.tarnhall),
    oxlea: at(ports.oxlea),
    mailbox: at(ports.mailbox),
    /** Where learning objects are played: another host, so that no cookie of Treenail's goes there. */
    play: `http://localhost:${ports.play}`,
    standins: STANDINS.map(({ id }) => at(ports[id])),
    environment,
    tokens,
    workers: working,
    /** Ends the database without warning, as a crash would, and brings it up again on the same data. */
    async restartDatabase() {
      await crashDatabase(join(data, 'database'));
      await startDatabase(join(data, 'database'), ports.database, { quick });
    },
    /** Ends the server as a new release would; workers go on. */
    async stopServer() {
      const ended = new Promise((done) => server.once('exit', done));
      server.kill('SIGTERM');
      await ended;
    },
    async startServer() {
      server = run('server', 'server/dist/main.mjs', environment, logTo('server'));
      await until('the server', answers(`${at(ports.server)}/api/health`));
    },
    startWorker,
  };
}

/** @returns {{ quernhold: string, tarnhall: string, oxlea: string, [id: string]: string }} */
function tokensIn(data) {
  const path = join(data, 'tokens.json');
  const known = existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')) : {};
  const all = Object.fromEntries(STANDINS.map(({ id }) => [id, known[id] ?? randomBytes(16).toString('hex')]));
  writeFileSync(path, JSON.stringify(all), { mode: 0o600 });
  return all;
}
