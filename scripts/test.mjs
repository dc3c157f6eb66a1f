/**
 * npm test: makes the machine ready and runs every test there is. Ends with a line `N passed, N failed`.
 *   npm test -- e2e core    only these stages
 */
import { spawn } from 'node:child_process';
import { mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT, ensureDebian, ensureNpm, ensureWeb, fail, secretIn, startDatabase, stopAll } from './machine.mjs';

const DATA = join(ROOT, '.test-data');
/** Beside the ports of `npm start`, so that tests run while a demo does. */
const PORT = Number(process.env.TREENAIL_TEST_PORT ?? 4760);

const node = (args, cwd = '', env = {}) => ({ program: process.execPath, args, cwd: join(ROOT, cwd), env });
const bin = (path, ...args) => [join(ROOT, 'node_modules', path), ...args];
const jasmine = (room, env) =>
  node(['--import', 'tsx', ...bin('jasmine/bin/jasmine.js', '--config=jasmine.json')], room, env);
const tsc = (config) => node(bin('typescript/bin/tsc', '-p', config));

/** A check without a count of its own counts as one. */
const ONE = (code) => (code === 0 ? [1, 0] : [0, 1]);
const counted = (pattern, read) => (code, output) => {
  const found = [...output.matchAll(pattern)].at(-1);
  if (!found) return [0, 1];
  const [passed, failed] = read(found.slice(1).map((n) => Number(n ?? 0)));
  // A runner that ends badly though its specs passed has failed all the same.
  return code !== 0 && failed === 0 ? [passed, 1] : [passed, failed];
};
const JASMINE = counted(/(\d+) specs?, (\d+) failures?/g, ([all, bad]) => [all - bad, bad]);
const KARMA = (code, output) => {
  const sum = (word) => Number(new RegExp(`(\\d+) ${word}`).exec(output.slice(output.lastIndexOf('TOTAL')))?.[1] ?? 0);
  const [passed, failed] = [sum('SUCCESS'), sum('FAILED')];
  return code !== 0 && failed === 0 ? [passed, 1] : [passed, failed];
};
const PLAYWRIGHT = (code, output) => {
  const sum = (word) => Number(new RegExp(`^\\s*(\\d+) ${word}`, 'm').exec(output)?.[1] ?? 0);
  const [passed, failed] = [sum('passed'), sum('failed') + sum('did not run') + sum('interrupted')];
  return code !== 0 && failed === 0 ? [passed, 1] : [passed, failed];
};

const STAGES = {
  types: {
    // One program for all of them: what they share is read once.
    run: () => [tsc('tsconfig.check.json')],
    count: ONE,
  },
  style: { run: () => [node(bin('prettier/bin/prettier.cjs', '--check', '.', '--log-level', 'warn'))], count: ONE },
  lint: {
    run: () => [node(bin('eslint/bin/eslint.js', '.')), node(['scripts/lint/raw-controls.spec.mjs'])],
    count: ONE,
  },
  core: { run: () => [jasmine('core')], count: JASMINE },
  standins: { run: () => [jasmine('standins')], count: JASMINE },
  server: {
    run: async () => {
      const folder = join(DATA, 'specs');
      mkdirSync(folder, { recursive: true });
      const database = await startDatabase(join(folder, 'database'), PORT + 20, { quick: true });
      return [
        jasmine('server', {
          ...database,
          TREENAIL_DATA: folder,
          TREENAIL_SECRET: secretIn(folder),
          TREENAIL_LOG: 'silent',
          // The platforms of specs are on this machine.
          TREENAIL_HOME_NETS: '127.0.0.0/8',
        }),
      ];
    },
    count: JASMINE,
  },
  web: { run: () => [node(bin('@angular/cli/bin/ng.js', 'test'), 'web')], count: KARMA },
  e2e: {
    run: () => [
      node(bin('@playwright/test/cli.js', 'test'), 'e2e', {
        TREENAIL_E2E_WEB: ensureWeb(),
        TREENAIL_E2E_DATA: join(DATA, 'e2e'),
        TREENAIL_E2E_PORT: String(PORT),
      }),
    ],
    count: PLAYWRIGHT,
  },
};

function execute({ program, args, cwd, env }) {
  return new Promise((done, failed) => {
    const child = spawn(program, args, {
      cwd,
      env: { ...process.env, ...env },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    const parts = [];
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (part) => parts.push(part));
    child.once('error', failed);
    child.on('close', (code) => done({ code: code ?? 1, output: Buffer.concat(parts).toString('utf8') }));
  });
}

const results = new Map();

async function runStage(name) {
  const stage = STAGES[name];
  const began = Date.now();
  let passed = 0;
  let failed = 0;
  let output = '';
  try {
    for (const command of await stage.run()) {
      const ended = await execute(command);
      const [good, bad] = stage.count(ended.code, ended.output);
      passed += good;
      failed += bad;
      if (bad > 0) output += ended.output;
    }
  } catch (error) {
    failed++;
    output += String(error.stack ?? error);
  }
  results.set(name, { passed, failed });
  if (failed > 0)
    console.log(`\n--- ${name} ---\n${output.replace(/\u001b\[[\d;]*[A-Za-z]/g, '')}\n--- end of ${name} ---`);
  console.log(
    `${name.padEnd(10)} ${String(passed).padStart(4)} passed, ${failed} failed, ${Math.round((Date.now() - began) / 1000)} s`,
  );
}

const asked = process.argv.slice(2);
const strange = asked.filter((name) => !(name in STAGES));
if (strange.length > 0) fail(`Not understood: ${strange.join(' ')}. Known: ${Object.keys(STAGES).join(' ')}`);
const wanted = (names) => names.filter((name) => asked.length === 0 || asked.includes(name));

for (const signal of ['SIGINT', 'SIGTERM']) {
  process.once(signal, () => void stopAll().then(() => process.exit(1)));
}

ensureDebian([
  { program: 'mariadbd', debian: 'mariadb-server' },
  { program: 'chromium', debian: 'chromium' },
  // The zips that Treenail writes are judged by another hand.
  { program: 'unzip', debian: 'unzip' },
]);
ensureNpm();
rmSync(DATA, { recursive: true, force: true });

const began = Date.now();
// Two cores: what mostly reads the sources runs beside the specs; the browser then has the machine for itself.
const lane = async (names) => {
  for (const name of names) await runStage(name);
};
await Promise.all([lane(wanted(['lint', 'types', 'style', 'standins'])), lane(wanted(['core', 'server', 'web']))]);
await lane(wanted(['e2e']));
await stopAll();

const total = (key) => [...results.values()].reduce((sum, r) => sum + r[key], 0);
console.log(`\nAll in ${Math.round((Date.now() - began) / 1000)} s`);
console.log(`${total('passed')} passed, ${total('failed')} failed`);
process.exit(total('failed') === 0 ? 0 : 1);
