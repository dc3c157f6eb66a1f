/**
 * npm run screenshots: brings up a fresh demo, walks one course through its move, and writes docs/screenshots.
 *   npm run screenshots -- /tmp/elsewhere    writes there, also at 1600x1000
 */
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { chromium } from '@playwright/test';
import { PEOPLE, bringUp } from './demo.mjs';
import { ROOT, ensureWeb, stopAll } from './machine.mjs';
import { makePast } from './past.mjs';

const elsewhere = process.argv[2];
const folder = resolve(elsewhere ?? join(ROOT, 'docs/screenshots'));
mkdirSync(folder, { recursive: true });
const data = mkdtempSync(join(tmpdir(), 'treenail-shots-'));
const up = await bringUp({
  data,
  port: 4820,
  web: ensureWeb(),
  fresh: true,
  quick: true,
  pace: 4000,
  poll: 300,
  log: 'warn',
});
await makePast(up, PEOPLE[0]);
const browser = await chromium.launch({ executablePath: process.env.CHROME_BIN ?? '/usr/bin/chromium' });
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });
  const shot = async (name) => {
    await page.evaluate(() => document.fonts.ready);
    await page.screenshot({ path: join(folder, `${name}.png`) });
    if (!elsewhere) return;
    await page.setViewportSize({ width: 1600, height: 1000 });
    await page.screenshot({ path: join(folder, `${name}-wide.png`) });
    await page.setViewportSize({ width: 1280, height: 800 });
  };
  const go = (path) => page.goto(`${up.address}/${path}`);
  const link = (name) => page.getByRole('link', { name });
  const button = (name) => page.getByRole('button', { name });
  const [admin] = PEOPLE;

  await go('');
  await page.getByLabel('Mail address').fill(admin.email);
  await shot('sign-in');
  await page.getByLabel('Password').fill(admin.password);
  await button('Sign in').click();
  await page.getByRole('navigation', { name: 'Sections' }).waitFor();
  let move = '';
  let other = '';
  for (const course of ['MET 115-01', 'BTB 210-01']) {
    await go(`courses?words=${encodeURIComponent(course)}`);
    other = move;
    await page.getByRole('row', { name: course }).getByRole('button', { name: 'Move…' }).click();
    await button('Start by fetching').click();
    await page.waitForURL(/moves\/\d+/);
    move = /moves\/\d+/.exec(page.url())?.[0] ?? '';
  }
  await page.getByText(/other jobs? ahead in its queue/).waitFor();
  await shot('fetch');
  await link(/Dry fit.*reworked/s).waitFor({ timeout: 120_000 });
  await go('courses');
  await page.getByRole('row', { name: 'BTB 210' }).first().waitFor();
  await shot('courses');
  await go(`${move}/look`);
  await button('Parts of a clinker hull').first().click();
  await page.frameLocator('iframe').getByRole('heading').first().waitFor();
  await shot('look');
  await page.getByRole('radio', { name: 'what is in it' }).click();
  await shot('inventory');
  await go(`${move}/tidy`);
  await page
    .getByRole('region', { name: 'Findings' })
    .getByRole('button', { name: /test of names/ })
    .click();
  await page.getByLabel('What it would change').getByText('after', { exact: true }).waitFor();
  await shot('tidy');
  await go(`${move}/re-date`);
  await button('Put new dates into the texts').click();
  await page.locator('tn-date-strips .dot').first().waitFor();
  await shot('dates');
  await button('Use these dates').click();
  await link(/Re-date.*into Spring 2027/s).waitFor();
  await go(`${move}/fit`);
  await button('Parts of a clinker hull').first().click();
  await page.locator('tn-both iframe').nth(1).waitFor();
  await shot('fit');
  await button('Accept the fit, build the package').click();
  await link('Go to the delivery').waitFor();
  await link('Go to the delivery').click();
  await button(/^Deliver into/).click();
  await page.getByText('The crate was read:').first().waitFor({ timeout: 120_000 });
  await shot('deliver');
  await link('See the check').waitFor({ timeout: 120_000 });
  await link('See the check').click();
  await page.locator('tn-joint svg g').nth(10).waitFor();
  await page
    .getByRole('list', { name: 'As it was' })
    .getByRole('button', { name: 'Parts of a clinker hull' })
    .first()
    .click();
  await page.locator('tn-both iframe').nth(1).waitFor();
  await shot('check');
  await page.emulateMedia({ colorScheme: 'dark' });
  await shot('dark');
  await page.emulateMedia({ colorScheme: 'light' });
  await go(`${other}/fit`);
  await button('Accept the fit, build the package').click();
  await link('Go to the delivery').click();
  await button('Into a course that is there…').click();
  await page.getByRole('radio', { name: /MET 115-T1/ }).check();
  await page.getByRole('radio', { name: /^Into what/ }).check();
  await button('Go into what is there').click();
  await page.locator('tn-three-outlines li').first().waitFor();
  await page.locator('tn-meetings tbody tr').first().waitFor();
  await shot('into');
  await go('platforms');
  await page.getByText('Marrowick Live').first().waitFor();
  await page.getByText('Term calendar').waitFor();
  await shot('platforms');
  for (const [path, name] of [
    [`${move}/hand-over`, 'hand-over'],
    ['strongroom', 'strongroom'],
    ['moves', 'moves'],
    ['reports', 'reports'],
  ]) {
    await go(path);
    await page
      .getByText(/BTB 210|Chartwork/)
      .first()
      .waitFor();
    await shot(name);
  }
  const kept = await page.request.get(`${up.address}/api/${move}/package`);
  const asked = async (path) => (await page.request.get(`${up.address}/api/${path}`)).json();
  const seen = async (path, is) => {
    for (;;) {
      const found = (await asked(`${path}?limit=1000`)).rows.find(is);
      if (found) return found;
      await new Promise((done) => setTimeout(done, 300));
    }
  };
  // What was delivered is fetched as the new platform's own archive, and that archive described.
  await page.request.post(`${up.address}/api/courses/refresh`);
  const there = await seen('courses', (c) => c.instance.name === 'Marrowick New' && /Wooden/.test(c.title));
  const options = { form: 'archive', parts: null, copyLinked: true, personal: false, reason: '', removeAfter: false };
  await page.request.post(`${up.address}/api/fetches`, { data: { courseIds: [there.id], options } });
  const crate = await seen(
    'copies',
    (c) => c.form === 'archive' && c.from === there.instance.name && /Wooden/.test(c.title),
  );
  await go(`bench/describe?copy=${crate.id}`);
  await page.getByText(crate.fileName).waitFor();
  await button('Begin with…').click();
  await page.getByRole('menuitem', { name: /^Example: Tarnhall/ }).click();
  await page.getByRole('region', { name: 'Outline that results' }).getByText('assignment').first().waitFor();
  await page.getByRole('radio', { name: /Records found/ }).click();
  await shot('describe');
  await go('bench');
  if (elsewhere) await shot('bench-empty');
  await page.getByLabel('Choose packages').setInputFiles({
    name: 'wooden-boat-repair.imscc',
    mimeType: 'application/octet-stream',
    buffer: await kept.body(),
  });
  await button('Names of the parts').first().click();
  await page.frameLocator('iframe').getByText('right', { exact: true }).first().waitFor();
  await page.getByRole('progressbar').waitFor({ state: 'detached' });
  await shot('bench');
} finally {
  await browser.close();
  await stopAll();
  rmSync(data, { recursive: true, force: true });
}
