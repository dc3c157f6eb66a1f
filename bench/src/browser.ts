import { mkdtemp, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { PEOPLE, bringUp } from '../../scripts/demo.mjs';
import { ensureWeb, stopAll } from '../../scripts/machine.mjs';
import { writeCartridge } from './cartridge.ts';

/** How long it takes from choosing a 500 MB cartridge with 10,000 items on the Bench to its outline on the screen. */
const folder = await mkdtemp(join(tmpdir(), 'treenail-browser-'));
try {
  const file = join(folder, 'measured.imscc');
  await writeCartridge(file, { items: 10_000, bytes: 500e6 });
  const data = join(folder, 'data');
  const up = await bringUp({ data, port: 4880, web: ensureWeb(), fresh: true, quick: true, log: 'warn' });
  const browser = await chromium.launch({ executablePath: process.env['CHROME_BIN'] ?? '/usr/bin/chromium' });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const [admin] = PEOPLE;
  await page.goto(up.address);
  await page.getByLabel('Mail address').fill(admin?.email ?? '');
  await page.getByLabel('Password').fill(admin?.password ?? '');
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.getByRole('link', { name: 'Bench' }).click();
  await page.getByText('Drop packages').waitFor();
  const seconds: number[] = [];
  for (let run = 0; run < 3; run++) {
    await page.reload();
    await page.getByText('Drop packages').waitFor();
    const began = Date.now();
    await page.getByLabel('Choose packages').setInputFiles(file);
    await page.getByRole('region', { name: 'Outline' }).getByText('Week 1', { exact: true }).waitFor();
    seconds.push((Date.now() - began) / 1000);
  }
  const frames = await page.getByRole('region', { name: 'Outline' }).evaluate(async (list) => {
    let count = 0;
    const began = performance.now();
    while (performance.now() - began < 2000) {
      list.scrollTop += 400;
      await new Promise((next) => requestAnimationFrame(next));
      count++;
    }
    return count / 2;
  });
  const size = Math.round((await stat(file)).size / 1e6);
  console.log(`Outline of ${size} MB, 10,000 items, in the browser: ${seconds.join(', ')} s (to reach: 2 s)`);
  console.log(`Scrolling it: ${frames.toFixed(0)} frames a second`);
  await browser.close();
} finally {
  await stopAll();
  await rm(folder, { recursive: true, force: true });
}
