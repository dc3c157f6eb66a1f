import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { performance } from 'node:perf_hooks';
import { chromium, type CDPSession, type Page } from '@playwright/test';
import { QueryTypes, Sequelize } from 'sequelize';
import { PEOPLE, bringUp } from '../../scripts/demo.mjs';
import { ensureWeb, stopAll } from '../../scripts/machine.mjs';

/**
 * Lists of an institution of some size: 20,000 courses, 50,000 kept copies, 5,000 moves. How long the first rows take in a
 * browser that has the application already, beside an empty answer of the same server; how long pages take that are
 * sorted and filtered; and how many frames a second are drawn while a list is scrolled. Last, how long the first screen
 * takes from a cold cache, and what it weighs.
 */
const COURSES = 20_000;
const COPIES = 50_000;
const MOVES = 5000;

const median = (numbers: readonly number[]) => [...numbers].sort((a, b) => a - b)[Math.floor(numbers.length / 2)] ?? 0;

async function fill(database: Sequelize): Promise<void> {
  const one = async (sql: string) => {
    const [row] = await database.query<{ id: number }>(sql, { type: QueryTypes.SELECT });
    if (!row) throw new Error(`nothing: ${sql}`);
    return row.id;
  };
  const live = await one(`SELECT id FROM instances WHERE platform = 'quernhold' LIMIT 1`);
  const to = await one(`SELECT id FROM instances WHERE platform = 'tarnhall' LIMIT 1`);
  const person = await one('SELECT id FROM users LIMIT 1');
  const series = (many: number) => `(SELECT seq AS n FROM seq_1_to_${many}) s`;
  const code = `CONCAT(ELT(1 + n % 7, 'BTB', 'EST', 'NAV', 'RIG', 'CON', 'MET', 'FSH'), ' ', 100 + n % 400)`;
  const title = `CONCAT(ELT(1 + n % 5, 'Knots and Splices', 'Tidal Streams', 'Boat Repair', 'Shore Ecology', 'Chartwork'), ' ', n)`;
  const time = `'2026-01-01' + INTERVAL (n * 7919) % 460000 MINUTE`;
  const all = [
    `INSERT INTO courses (instance_id, remote_id, code, section, term, title, owner, size, changed_at)
     SELECT ${live}, CONCAT('made-', n), ${code}, n % 9, 'Autumn 2026', ${title}, CONCAT('owner', n % 800, '@marrowick.example'), n * 977, ${time} FROM ${series(COURSES)}`,
    `INSERT INTO copies (course_id, file_name, code, section, term, title, instance_name, format, size, sha256, items, kept_at, source_key)
     SELECT (SELECT MIN(id) FROM courses WHERE remote_id LIKE 'made-%') + n % ${COURSES - 2000}, CONCAT('kept-', n, '.zip'), ${code}, n % 9, 'Autumn 2026', ${title}, 'Marrowick Live', 'quernhold', n * 1009, SHA2(n % 30000, 256), n % 300, ${time}, CONCAT('made ', n) FROM ${series(COPIES)}`,
    `INSERT INTO moves (course_id, destination_id, created_by, created_at) SELECT (SELECT MIN(id) FROM courses WHERE remote_id LIKE 'made-%') + n, ${to}, ${person}, ${time} FROM ${series(MOVES)}`,
    `INSERT INTO move_plans (move_id, version, form_chosen, tidy_version, worked_version) SELECT m.id, 1, 0, 0, 0 FROM moves m WHERE NOT EXISTS (SELECT 1 FROM move_plans p WHERE p.move_id = m.id)`,
    ...['fetch', 'look', 'fit', 'build', 'deliver'].map(
      (step, i) =>
        `INSERT IGNORE INTO move_steps (move_id, step, state, result, changed_at) SELECT id, '${step}', 'done', CONCAT(id % 90, ' items'), created_at FROM moves WHERE id % 7 > ${i}`,
    ),
    ...['fetch', 'look', 'build'].map(
      (kind) =>
        `INSERT INTO jobs (kind, request_key, move_id, course, input, state, words, done, total, unit, attempts, run_after, created_at, changed_at)
         SELECT '${kind}', CONCAT('${kind}:made-', id), id, 'made', '{}', 'done', '', 0, 0, '', 1, created_at, created_at, created_at FROM moves`,
    ),
  ];
  for (const sql of all) await database.query(sql);
  await database.query('ANALYZE TABLE courses, copies, moves, move_steps, jobs', { type: QueryTypes.SELECT });
}

/** Pixels a second: a quick turn of the wheel. */
const SPEED = 3000;
const WAY = 9000;

/** Frames that were drawn a second while a list was scrolled as a mouse scrolls it, and rows that were still to come then. */
async function scrolled(page: Page, wire: CDPSession): Promise<{ frames: number; coming: number }> {
  let drawn = 0;
  const counting = ({ value }: { value: object[] }) => {
    drawn += value.filter((event) => 'name' in event && event.name === 'Display::DrawAndSwap').length;
  };
  wire.on('Tracing.dataCollected', counting);
  const traceConfig = { includedCategories: ['viz'] };
  await wire.send('Tracing.start', { transferMode: 'ReportEvents', traceConfig });
  const began = performance.now();
  const gesture = { x: 300, y: 420, xDistance: 0, yDistance: -WAY, speed: SPEED };
  await wire.send('Input.synthesizeScrollGesture', { ...gesture, gestureSourceType: 'mouse' });
  const seconds = (performance.now() - began) / 1000;
  const coming = await page.locator('.coming').count();
  const complete = new Promise((done) => wire.once('Tracing.tracingComplete', done));
  await wire.send('Tracing.end');
  await complete;
  wire.off('Tracing.dataCollected', counting);
  return { frames: drawn / seconds, coming };
}

/** Milliseconds from a click to the first rows, within the application, once the screen before is at rest. */
async function arrived(page: Page, path: string): Promise<number> {
  await page.locator('nav a[href="/platforms"]').first().click();
  await page.waitForURL(/platforms/);
  await page.waitForTimeout(1500);
  return page.evaluate(async (to) => {
    const began = performance.now();
    document.querySelector<HTMLAnchorElement>(`nav a[href="${to}"]`)?.click();
    while (!document.querySelector('tn-list tr[data-key]')) await new Promise((next) => requestAnimationFrame(next));
    return performance.now() - began;
  }, path);
}

const folder = await mkdtemp(join(tmpdir(), 'treenail-lists-'));
const browser = await chromium.launch({
  executablePath: process.env['CHROME_BIN'] ?? '/usr/bin/chromium',
  args: ['--no-sandbox'],
});
try {
  const up = await bringUp({
    data: folder,
    port: 4900,
    web: ensureWeb(),
    fresh: true,
    quick: false,
    pace: 1000,
    poll: 5000,
    log: 'error',
    workers: 1,
  });
  const { DB_HOST, DB_PORT, DB_NAME, DB_USER, DB_PASSWORD } = up.environment;
  const database = new Sequelize(DB_NAME, DB_USER, DB_PASSWORD, {
    dialect: 'mariadb',
    host: DB_HOST,
    port: Number(DB_PORT),
    logging: false,
  });
  await fill(database);
  const [admin] = PEOPLE;
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const first = async (path: string, row: string) => {
    const began = performance.now();
    await page.goto(`${up.address}${path}`);
    await page.locator(row).first().waitFor();
    return performance.now() - began;
  };
  let bytes = 0;
  const wire = await page.context().newCDPSession(page);
  await wire.send('Network.enable');
  wire.on('Network.loadingFinished', ({ encodedDataLength }) => (bytes += encodedDataLength));
  console.log(
    `first screen, cold cache: ${Math.round(await first('/', 'form'))} ms, ${Math.round(bytes / 1000)} kB over the wire`,
  );
  await page.getByLabel('Mail address').fill(admin?.email ?? '');
  await page.getByLabel('Password').fill(admin?.password ?? '');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.locator('tr[data-key]').first().waitFor();

  const timed = async (path: string, many = 9) => {
    const times: number[] = [];
    for (let i = 0; i < many; i++) {
      const began = performance.now();
      const answer = await page.request.get(`${up.address}/api${path}`);
      if (!answer.ok()) throw new Error(`${path}: ${answer.status()}`);
      times.push(performance.now() - began);
    }
    return median(times);
  };
  const health = await timed('/health');
  console.log(`an empty answer: ${health.toFixed(1)} ms`);
  for (const path of [
    '/register',
    '/courses',
    '/courses?sort=-copy',
    '/courses?sort=title&offset=15000',
    '/courses?words=boat%20repair%20nav',
    '/courses?lacks=no%20copy&sort=-size',
    '/copies?sort=-kept',
    '/copies?sort=file&offset=40000',
    '/copies?words=tidal%2012',
    '/moves',
    '/moves?sort=at',
    '/moves?sort=result&offset=2000',
    '/moves?words=deliver%20chartwork',
  ]) {
    console.log(`${path.padEnd(44)} ${(await timed(path)).toFixed(0).padStart(5)} ms`);
  }
  for (const path of ['/courses', '/strongroom', '/moves']) {
    await first(path, 'tr[data-key]');
    const times: number[] = [];
    for (let i = 0; i < 5; i++) times.push(await arrived(page, path));
    const { frames, coming } = await scrolled(page, wire);
    console.log(
      `${path.padEnd(12)} first rows ${median(times).toFixed(0)} ms; scrolled at ${SPEED} px/s ${frames.toFixed(0)} frames a second, ${coming} cells still to come at the end`,
    );
  }
  await database.close();
} finally {
  await browser.close();
  await stopAll();
  await rm(folder, { recursive: true, force: true });
}
