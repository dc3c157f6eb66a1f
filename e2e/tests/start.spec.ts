import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtemp, readFile, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { portIsFree } from '../../scripts/machine.mjs';
import { expect, test } from '@playwright/test';

const ROOT = resolve(import.meta.dirname, '../..');
const PORT = Number(process.env['TREENAIL_E2E_PORT']) + 30;

/** What a test leaves running when it fails holds ports that others need. */
const begun: ChildProcess[] = [];
test.afterEach(async () => {
  for (const child of begun.splice(0)) {
    if (child.exitCode !== null || child.signalCode !== null) continue;
    const ended = new Promise((done) => child.once('exit', done));
    child.kill('SIGTERM');
    await ended;
  }
});

/** `npm start`, as it is called in a shell, on ports and data of its own. */
function start(data: string, args: string[] = [], env: NodeJS.ProcessEnv = {}) {
  const child = spawn(process.execPath, ['scripts/start.mjs', ...args], {
    cwd: ROOT,
    env: {
      ...process.env,
      TREENAIL_PORT: String(PORT),
      TREENAIL_DATA: data,
      TREENAIL_PACE_MS: '200',
      TREENAIL_PAST: 'no',
      ...env,
    },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  begun.push(child);
  let said = '';
  const ended = new Promise<number | null>((done) => child.once('exit', done));
  const up = new Promise<void>((done) => {
    for (const stream of [child.stdout, child.stderr]) {
      stream.on('data', (part: Buffer) => {
        said += part.toString();
        if (said.includes('Ctrl-C stops everything')) done();
      });
    }
  });
  return { child, ended, up: () => Promise.race([up, ended.then((code) => fail(code, said))]), said: () => said };
}

function fail(code: number | null, said: string): never {
  throw new Error(`it ended with ${code}:\n${said}`);
}

/** Processes of the server's parts that work on these data. */
async function running(data: string, part: string): Promise<number[]> {
  const found: number[] = [];
  for (const pid of (await readdir('/proc')).filter((name) => /^\d+$/.test(name))) {
    const [command, environment] = await Promise.all(
      ['cmdline', 'environ'].map((what) => readFile(`/proc/${pid}/${what}`, 'utf8').catch(() => '')),
    );
    if (command?.includes(`server/dist/${part}.mjs`) && environment?.includes(`TREENAIL_DATA=${data}`))
      found.push(Number(pid));
  }
  return found;
}

async function interrupt({ child, ended }: { child: ChildProcess; ended: Promise<number | null> }) {
  child.kill('SIGINT');
  expect(await ended).toBe(0);
  for (let i = 0; i < 4; i++) expect(await portIsFree(PORT + i)).toBe(true);
}

test('npm start brings everything up, keeps the data, begins anew when asked, with a past, and stops cleanly', async () => {
  test.setTimeout(480_000);
  const data = await mkdtemp(join(tmpdir(), 'treenail-start-'));
  const address = `http://127.0.0.1:${PORT}`;
  try {
    const first = start(data);
    await first.up();
    expect(first.said()).toContain(`Treenail is at ${address}`);
    expect(first.said()).toContain('peg-and-wedge');
    const page = await fetch(address);
    expect(await page.text()).toContain('<tn-root');
    const secret = await readFile(join(data, 'secret'), 'utf8');
    await interrupt(first);

    const second = start(data);
    await second.up();
    expect(await readFile(join(data, 'secret'), 'utf8')).toBe(secret);
    const taken = start(data);
    expect(await taken.ended).toBe(1);
    expect(taken.said()).toContain(`Port ${PORT} (server) is taken`);
    expect((await fetch(`${address}/api/health`)).ok).toBe(true);
    // Whoever ends by a mischance is begun again.
    for (const part of ['worker', 'main']) {
      const before = await running(data, part);
      expect(before.length).toBeGreaterThan(0);
      process.kill(before[0] ?? 0, 'SIGKILL');
      await expect
        .poll(async () => (await running(data, part)).filter((pid) => !before.includes(pid)).length, {
          timeout: 30_000,
        })
        .toBe(1);
    }
    expect(second.said()).toMatch(/The worker ended \(SIGKILL\); it is started again in \d/);
    await expect
      .poll(async () => (await fetch(`${address}/api/health`).catch(() => null))?.ok ?? false, { timeout: 30_000 })
      .toBe(true);
    await interrupt(second);

    const fresh = start(data, ['--fresh'], { TREENAIL_PAST: '', TREENAIL_PACE_MS: '5000' });
    // The address is told before the demo has its past.
    await fresh.up();
    expect(await readFile(join(data, 'secret'), 'utf8')).not.toBe(secret);
    await expectMiddleOfWork(address, fresh);
    await interrupt(fresh);
  } finally {
    await rm(data, { recursive: true, force: true });
  }
});

/** A demo that begins anew is soon in the middle of its work. */
async function expectMiddleOfWork(address: string, demo: { said: () => string }): Promise<void> {
  // Done or refused: the folder's own name must not be taken for either.
  const told = /The demo has its past, after \d+ s|The demo's past could not be made/;
  await expect.poll(() => demo.said(), { timeout: 300_000 }).toMatch(told);
  expect(demo.said()).not.toContain('could not be made');
  const signedIn = await fetch(`${address}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email: 'admin@marrowick.example', password: 'peg-and-wedge' }),
  });
  const cookie = signedIn.headers.getSetCookie().join('; ');
  const ask = async <T>(path: string) =>
    (await (await fetch(`${address}/api${path}`, { headers: { cookie } })).json()) as T;
  const { rows: moves } = await ask<{
    rows: { at: string; calledOffAt: string | null; steps: { state: string }[] }[];
  }>('/moves');
  expect(new Set(moves.map((m) => m.at))).toEqual(new Set(['fetch', 'fit', 'deliver', 'hand-over']));
  expect(moves.filter((m) => m.steps.some((s) => s.state === 'failed'))).toHaveLength(1);
  expect(moves.filter((m) => m.calledOffAt !== null)).toHaveLength(1);
  const { rows: copies } = await ask<{ rows: { term: string }[] }>('/copies?limit=1000');
  expect(copies.length).toBeGreaterThan(60);
  expect(copies.filter((c) => c.term === 'Spring 2026').length).toBeGreaterThan(15);
  expect(await ask<unknown[]>('/reports')).toHaveLength(3);
  expect(await ask<unknown[]>('/filters')).toHaveLength(1);
  expect(await ask<unknown[]>('/mend-rules')).toHaveLength(1);
}

test('npm start says what it does not understand', async () => {
  const odd = start('/nowhere', ['--frsh']);
  expect(await odd.ended).toBe(1);
  expect(odd.said()).toContain('Not understood: --frsh. Known: --fresh');
});
