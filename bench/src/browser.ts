import { mkdtemp, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Locator } from '@playwright/test';
import { PEOPLE, bringUp } from '../../scripts/demo.mjs';
import { ensureWeb, stopAll } from '../../scripts/machine.mjs';
import { writeCartridge } from './cartridge.ts';

/** Frames a second while a list is scrolled by 400 pixels a frame; back to its start where it ends. */
function framesOf(list: Locator): Promise<number> {
  return list.evaluate(async (element) => {
    let count = 0;
    const began = performance.now();
    while (performance.now() - began < 3000) {
      const end = element.scrollTop + element.clientHeight >= element.scrollHeight - 1;
      element.scrollTop = end ? 0 : element.scrollTop + 400;
      await new Promise((next) => requestAnimationFrame(next));
      count++;
    }
    return (count * 1000) / (performance.now() - began);
  });
}

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
    // From the moment the browser has the file: handing it over is the driver's own time.
    await page.evaluate(() => {
      addEventListener('change', () => performance.mark('chosen'), { capture: true, once: true });
      const seen = new MutationObserver(() => {
        if (!document.querySelector('[aria-label="Outline"]')?.textContent?.includes('Week 1')) return;
        seen.disconnect();
        requestAnimationFrame(() => performance.mark('shown'));
      });
      seen.observe(document.body, { childList: true, subtree: true, characterData: true });
    });
    await page.getByLabel('Choose packages').setInputFiles(file);
    await page.waitForFunction(() => performance.getEntriesByName('shown').length > 0);
    const took = await page.evaluate(() => performance.measure('outline', 'chosen', 'shown').duration);
    seconds.push(Math.round(took) / 1000);
  }
  const outline = await framesOf(page.getByRole('region', { name: 'Outline' }));
  // While files are still being read the list is scrolled too; its findings come once all were.
  const chip = page.getByRole('button', { name: /^tidy, \d+ findings/ });
  const began = Date.now();
  await chip.click({ timeout: 300_000 });
  const known = (Date.now() - began) / 1000;
  const findings = await framesOf(page.getByRole('region', { name: 'Findings' }));
  const many = await page.getByText(/^\d[\d ]* findings shown/).innerText();
  const size = Math.round((await stat(file)).size / 1e6);
  console.log(`Outline of ${size} MB, 10,000 items, in the browser: ${seconds.join(', ')} s (to reach: 2 s)`);
  console.log(`Scrolling it: ${outline.toFixed(0)} frames a second (to reach: 50)`);
  console.log(`Every file read and its findings known: ${known.toFixed(0)} s later`);
  console.log(`Scrolling ${many}: ${findings.toFixed(0)} frames a second (to reach: 50)`);
  await browser.close();
} finally {
  await stopAll();
  await rm(folder, { recursive: true, force: true });
}
