/** Brings up the whole of Treenail with its demo: database, stand-ins, server, workers. Used by start and by the tests. */
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { spawnSync } from 'node:child_process';
import { ROOT, answers, ensureServer, portIsFree, run, secretIn, startDatabase, until } from './machine.mjs';

export const PEOPLE = [
  { name: 'Isla Renn', email: 'admin@marrowick.example', role: 'administrator', password: 'peg-and-wedge' },
  { name: 'Tam Orrick', email: 'instructor@marrowick.example', role: 'instructor', password: 'clench-and-rove' },
];

/** Ports count up from one: server, database, then the stand-ins. */
export function portsFrom(port) {
  return { server: port, database: port + 1, quernhold: port + 2, tarnhall: port + 3 };
}

export async function bringUp({
  data,
  port,
  web,
  fresh = false,
  quick = false,
  pace = 5000,
  poll = 1000,
  lease = 15_000,
  workers = 1,
  log = 'info',
}) {
  const ports = portsFrom(port);
  for (const [what, number] of Object.entries(ports)) {
    if (!(await portIsFree(number)))
      throw new Error(`Port ${number} (${what}) is taken. Stop what holds it, or set TREENAIL_PORT.`);
  }
  if (fresh) rmSync(data, { recursive: true, force: true });
  for (const folder of ['', 'logs', 'quernhold', 'tarnhall', 'database'])
    mkdirSync(join(data, folder), { recursive: true });
  await ensureServer();
  const database = await startDatabase(join(data, 'database'), ports.database, { quick });
  const logTo = (name) => join(data, 'logs', `${name}.log`);
  const tokens = tokensIn(data);
  const standin = { STANDIN_PACE_MS: String(pace), NODE_ENV: 'production' };
  run(
    'quernhold',
    'standins/dist/quernhold/main.mjs',
    {
      ...standin,
      STANDIN_PORT: String(ports.quernhold),
      STANDIN_FOLDER: join(data, 'quernhold'),
      STANDIN_TOKEN: tokens.quernhold,
    },
    logTo('quernhold'),
  );
  run(
    'tarnhall',
    'standins/dist/tarnhall/main.mjs',
    {
      ...standin,
      STANDIN_PORT: String(ports.tarnhall),
      STANDIN_FOLDER: join(data, 'tarnhall'),
      STANDIN_TOKEN: tokens.tarnhall,
    },
    logTo('tarnhall'),
  );
  const at = (n) => `http://127.0.0.1:${n}`;
  const environment = {
    ...database,
    NODE_ENV: 'production',
    TREENAIL_PORT: String(ports.server),
    TREENAIL_DATA: data,
    TREENAIL_SECRET: secretIn(data),
    TREENAIL_POLL_MS: String(poll),
    TREENAIL_LEASE_MS: String(lease),
    TREENAIL_LOG: log,
    ...(web ? { TREENAIL_WEB: web } : {}),
    TREENAIL_DEMO: JSON.stringify({
      people: PEOPLE,
      instances: [
        { name: 'Marrowick Live', platform: 'quernhold', baseUrl: at(ports.quernhold), credential: tokens.quernhold },
        { name: 'Marrowick New', platform: 'tarnhall', baseUrl: at(ports.tarnhall), credential: tokens.tarnhall },
      ],
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
  await until('Quernhold', answers(at(ports.quernhold)), 120_000);
  await until('Tarnhall', answers(at(ports.tarnhall)));
  run('server', 'server/dist/main.mjs', environment, logTo('server'));
  const working = [];
  const startWorker = () => {
    const worker = run('worker', 'server/dist/worker.mjs', environment, logTo('worker'));
    working.push(worker);
    return worker;
  };
  for (let i = 0; i < workers; i++) startWorker();
  await until('the server', answers(`${at(ports.server)}/api/health`));
  return {
    address: at(ports.server),
    quernhold: at(ports.quernhold),
    tarnhall: at(ports.tarnhall),
    environment,
    tokens,
    workers: working,
    startWorker,
  };
}

function tokensIn(data) {
  const path = join(data, 'tokens.json');
  if (!existsSync(path)) {
    const token = () => randomBytes(16).toString('hex');
    writeFileSync(path, JSON.stringify({ quernhold: token(), tarnhall: token() }), { mode: 0o600 });
  }
  return JSON.parse(readFileSync(path, 'utf8'));
}
