/** What start and test share: making the machine ready, the private database, child processes. Needs nothing but Node. */
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, openSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { availableParallelism } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

export const ROOT = resolve(dirname(fileURLToPath(import.meta.url)), '..');

export function fail(message) {
  console.error(message);
  process.exit(1);
}

function onPath(program) {
  return spawnSync('sh', ['-c', `command -v ${program}`], { stdio: 'ignore' }).status === 0;
}

/** Installs Debian packages whose program is missing; without the right to, says the one command and stops. */
export function ensureDebian(needs) {
  const missing = needs
    .filter(({ program }) => !onPath(program) && !existsSync(`/usr/sbin/${program}`))
    .map((n) => n.debian);
  if (missing.length === 0) return;
  const command = `apt-get update && apt-get install -y --no-install-recommends ${missing.join(' ')}`;
  if (process.getuid?.() !== 0) fail(`These Debian packages are missing. Run once, as root:\n\n  ${command}\n`);
  console.log(`Installing ${missing.join(', ')}`);
  // A service of its own would take the port and is not wanted: the database here is private.
  const policy = '/usr/sbin/policy-rc.d';
  const ours = !existsSync(policy);
  if (ours) writeFileSync(policy, '#!/bin/sh\nexit 101\n', { mode: 0o755 });
  try {
    execFileSync('sh', ['-c', command], {
      stdio: ['ignore', 'ignore', 'inherit'],
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    });
  } finally {
    if (ours) rmSync(policy);
  }
}

function digest(paths) {
  const hash = createHash('sha256');
  const add = (path) => {
    if (!existsSync(path)) return;
    if (statSync(path).isDirectory()) for (const name of readdirSync(path).sort()) add(join(path, name));
    else hash.update(path.slice(ROOT.length)).update(readFileSync(path));
  };
  paths.forEach((p) => add(join(ROOT, p)));
  return hash.digest('hex');
}

function isCurrent(mark, value) {
  return existsSync(mark) && readFileSync(mark, 'utf8') === value;
}

export function ensureNpm() {
  const mark = join(ROOT, 'node_modules/.treenail-lock');
  const value = digest(['package-lock.json', 'package.json']);
  if (isCurrent(mark, value)) return;
  console.log('Installing npm packages');
  execFileSync('npm', ['ci', '--no-fund', '--loglevel=error'], { cwd: ROOT, stdio: 'inherit' });
  writeFileSync(mark, value);
}

/** Builds the web application if its sources are not those it was built from. Gives the folder to serve. */
export function ensureWeb() {
  const folder = join(ROOT, 'web/dist/browser');
  const mark = join(ROOT, 'web/dist/.built-from');
  const value = digest([
    'web/src',
    'web/angular.json',
    'web/package.json',
    'core/src',
    'server/src/contract',
    'package-lock.json',
  ]);
  if (isCurrent(mark, value) && existsSync(folder)) return folder;
  console.log('Building the web application');
  const built = spawnSync(process.execPath, [join(ROOT, 'node_modules/@angular/cli/bin/ng.js'), 'build'], {
    cwd: join(ROOT, 'web'),
    encoding: 'utf8',
    timeout: 300_000,
  });
  if (built.status !== 0) fail(`${built.stdout}\n${built.stderr}`);
  writeFileSync(mark, value);
  return folder;
}

const SERVED = {
  server: ['main', 'worker', 'runner', 'reader', 'prepare', 'file-worker', 'file-sink-thread'],
  standins: ['quernhold/main', 'oxlea/main', 'tarnhall/main', 'mailbox/main', 'outside/main'],
};

/** Bundles what runs on the server, each into one file: it starts in half the time and with half the memory. */
export async function ensureServer() {
  const mark = join(ROOT, 'server/dist/.built-from');
  const value = digest(['core/src', 'server/src', 'standins/src', 'package-lock.json']);
  if (isCurrent(mark, value)) return;
  const { build } = await import('esbuild');
  for (const [room, entries] of Object.entries(SERVED)) {
    await build({
      absWorkingDir: join(ROOT, room),
      entryPoints: entries.map((name) => `src/${name}.ts`),
      outdir: 'dist',
      outbase: 'src',
      outExtension: { '.js': '.mjs' },
      bundle: true,
      platform: 'node',
      target: 'node20',
      format: 'esm',
      sourcemap: true,
      packages: 'external',
      alias: {
        '@treenail/core/file-worker': join(ROOT, 'core/src/inspect/file.worker.ts'),
        '@treenail/core/file-sink-thread': join(ROOT, 'core/src/container/file-sink.thread.ts'),
        '@treenail/core/workers': join(ROOT, 'core/src/inspect/node-workers.ts'),
        '@treenail/core/node': join(ROOT, 'core/src/container/node.ts'),
        '@treenail/core': join(ROOT, 'core/src/index.ts'),
      },
      logLevel: 'warning',
    });
  }
  writeBillOfMaterials();
  writeFileSync(mark, value);
}

/** What ships with Treenail, each with its licence (CycloneDX 1.5), beside what is built. */
function writeBillOfMaterials() {
  const told = spawnSync('npm', ['sbom', '--omit', 'dev', '--sbom-format', 'cyclonedx'], {
    cwd: ROOT,
    encoding: 'utf8',
    maxBuffer: 64 << 20,
  });
  if (told.status !== 0) console.error(`The list of what ships could not be made:\n${told.stderr}`);
  else writeFileSync(join(ROOT, 'server/dist/sbom.cdx.json'), told.stdout);
}

/**
 * How Node is told to run what is bundled: its compiler and collector have helpers for four cores by default, which on
 * two only keep each other and the work waiting.
 */
export const NODE_FLAGS = ['--enable-source-maps', `--v8-pool-size=${Math.max(1, availableParallelism() - 1)}`];

/** Children, stopped in reverse order. */
const children = [];

export function run(name, file, env, log) {
  const out = openSync(log, 'a');
  const child = spawn(process.execPath, [...NODE_FLAGS, join(ROOT, file)], {
    cwd: ROOT,
    env: { ...process.env, ...env },
    stdio: ['ignore', out, out],
  });
  children.push({ name, child });
  return child;
}

/** How long is waited before what ended is started again, in ms: longer each time, and shortly again once it has run well. */
const FIRST_PAUSE = 500;
const LONGEST_PAUSE = 60_000;
const RAN_WELL = 5 * 60_000;

/** Runs a program that is meant to run for ever: where it ends without being stopped, it is started again. */
export function supervise(name, file, env, log) {
  let pause = FIRST_PAUSE;
  const begin = () => {
    const began = Date.now();
    const child = run(name, file, env, log);
    child.once('exit', (code, signal) => {
      if (stopped) return;
      if (Date.now() - began > RAN_WELL) pause = FIRST_PAUSE;
      console.error(`The ${name} ended (${signal ?? code}); it is started again in ${pause / 1000} s. Its log: ${log}`);
      setTimeout(() => stopped || begin(), pause);
      pause = Math.min(LONGEST_PAUSE, pause * 2);
    });
    return child;
  };
  return begin();
}

let stopped = false;

export async function stopAll() {
  stopped = true;
  for (const { child } of [...children].reverse()) {
    if (child.exitCode !== null || child.signalCode !== null) continue;
    const ended = new Promise((done) => child.once('exit', done));
    child.kill('SIGTERM');
    const timer = setTimeout(() => child.kill('SIGKILL'), 20_000);
    await ended;
    clearTimeout(timer);
  }
  children.length = 0;
}

export async function until(what, test, ms = 60_000) {
  const end = Date.now() + ms;
  while (Date.now() < end) {
    if (await test()) return;
    await new Promise((done) => setTimeout(done, 100));
  }
  throw new Error(`${what} did not come up`);
}

export const answers = (url) => async () => {
  try {
    return (await fetch(url)).ok;
  } catch {
    return false;
  }
};

export function portIsFree(port) {
  return new Promise((done) => {
    const socket = connect(port, '127.0.0.1');
    socket.once('connect', () => {
      socket.destroy();
      done(false);
    });
    socket.once('error', () => done(true));
  });
}

export function secretIn(folder) {
  const path = join(folder, 'secret');
  if (!existsSync(path)) writeFileSync(path, randomBytes(32).toString('hex'), { mode: 0o600 });
  return readFileSync(path, 'utf8').trim();
}

const asRoot = process.getuid?.() === 0 ? ['--user=root'] : [];

/** Starts a MariaDB of our own on loopback, made on first use. `quick` trades durability for speed: tests only. */
export async function startDatabase(folder, port, { quick = false } = {}) {
  mkdirSync(join(folder, 'tmp'), { recursive: true });
  const data = join(folder, 'data');
  const password = createHash('sha256')
    .update(`database ${secretIn(dirname(folder))}`)
    .digest('hex')
    .slice(0, 32);
  const socket = join(folder, 's.sock').length < 100 ? join(folder, 's.sock') : `/tmp/treenail-${port}.sock`;
  if (!existsSync(join(data, 'mysql'))) {
    const made = spawnSync(
      'mariadb-install-db',
      [
        '--no-defaults',
        ...asRoot,
        `--datadir=${data}`,
        '--auth-root-authentication-method=normal',
        '--skip-test-db',
        '--skip-name-resolve',
      ],
      { encoding: 'utf8' },
    );
    if (made.status !== 0) throw new Error(`The database could not be made:\n${made.stdout}${made.stderr}`);
  }
  const out = openSync(join(folder, 'mariadbd.log'), 'a');
  const mariadbd = existsSync('/usr/sbin/mariadbd') ? '/usr/sbin/mariadbd' : 'mariadbd';
  const child = spawn(
    mariadbd,
    [
      '--no-defaults',
      ...asRoot,
      `--datadir=${data}`,
      `--tmpdir=${join(folder, 'tmp')}`,
      `--socket=${socket}`,
      `--pid-file=${join(folder, 'pid')}`,
      '--bind-address=127.0.0.1',
      `--port=${port}`,
      '--skip-networking=0',
      '--skip-name-resolve',
      '--character-set-server=utf8mb4',
      '--collation-server=utf8mb4_unicode_ci',
      '--max-allowed-packet=256M',
      ...(quick ? ['--innodb-flush-log-at-trx-commit=2'] : []),
    ],
    // A group of its own: Ctrl-C reaches it only through us, after those who use it have stopped.
    { stdio: ['ignore', out, out], detached: true },
  );
  children.push({ name: 'database', child });
  const sql = (text, pass) =>
    spawnSync('mariadb', ['--no-defaults', '-uroot', ...(pass === '' ? [] : [`-p${pass}`]), '-S', socket], {
      input: text,
      encoding: 'utf8',
    });
  await until('the database', () => {
    if (child.exitCode !== null) throw new Error(`The database did not start: see ${join(folder, 'mariadbd.log')}`);
    return sql('SELECT 1', '').status === 0 || sql('SELECT 1', password).status === 0;
  });
  if (sql('SELECT 1', '').status === 0) {
    const made = sql(
      `CREATE DATABASE IF NOT EXISTS treenail; CREATE USER IF NOT EXISTS 'treenail'@'127.0.0.1' IDENTIFIED BY '${password}'; GRANT ALL ON \`treenail%\`.* TO 'treenail'@'127.0.0.1'; ALTER USER 'root'@'localhost' IDENTIFIED BY '${password}'; ALTER USER IF EXISTS 'root'@'127.0.0.1' IDENTIFIED BY '${password}'; ALTER USER IF EXISTS 'root'@'::1' IDENTIFIED BY '${password}';`,
      '',
    );
    if (made.status !== 0) throw new Error(made.stderr);
  }
  return {
    DB_HOST: '127.0.0.1',
    DB_PORT: String(port),
    DB_NAME: 'treenail',
    DB_USER: 'treenail',
    DB_PASSWORD: password,
  };
}

/** Ends a database that `startDatabase` began, by a signal that it can not handle. */
export async function crashDatabase(folder) {
  const pid = Number(readFileSync(join(folder, 'pid'), 'utf8'));
  process.kill(pid, 'SIGKILL');
  await until('the end of the database', async () => {
    try {
      process.kill(pid, 0);
      return false;
    } catch {
      return true;
    }
  });
}
