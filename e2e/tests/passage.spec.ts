import { readFile } from 'node:fs/promises';
import { execFileSync } from 'node:child_process';
import type { Download, Page } from '@playwright/test';
import { sha256 } from './packages';
import { expect, expectAccessible, expectNoSidewaysScroll, signIn, test, type Stack } from './stack';

interface Bundle {
  course: string | null;
  state: string;
}

async function bundlesOf(stack: Stack, course: string): Promise<Bundle[]> {
  const answer = await fetch(`${stack.quernhold}/api/bundles`, {
    headers: { 'X-Quernhold-Token': stack.tokens.quernhold },
  });
  const { bundles } = (await answer.json()) as { bundles: Bundle[] };
  return bundles.filter((b) => b.course === course);
}

async function saved(page: Page, press: () => Promise<void>): Promise<{ name: string; path: string; bytes: Buffer }> {
  const [download] = await Promise.all<[Promise<Download>, Promise<void>]>([page.waitForEvent('download'), press()]);
  const path = await download.path();
  return { name: download.suggestedFilename(), path, bytes: await readFile(path) };
}

const unzip = (...args: string[]) => execFileSync('unzip', args, { encoding: 'utf8', maxBuffer: 64 << 20 });

const totals = (page: Page) => page.locator('tn-totals');
const tideline = (page: Page) => page.getByRole('status', { name: 'Jobs' });

/** One worker dies without a word, and another begins. */
function replaceWorker(stack: Stack): void {
  for (const worker of stack.workers) worker.kill('SIGKILL');
  stack.workers.length = 0;
  stack.startWorker();
}

test.use({ own: 'passage' });
test.describe.configure({ mode: 'serial' });

test.describe('One course goes from one platform to another', () => {
  const COURSE = 'BTB 210-01';

  test('the register shows the courses of all instances, and can be sorted, filtered and searched', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack);
    await expect(page.getByRole('heading', { level: 1 })).toContainText('44 courses on 5 instances');
    const codes = page.locator('tbody tr td:nth-child(2)');
    const size = page.getByRole('columnheader', { name: 'Size' });
    await size.getByRole('button').click();
    await expect(size).toHaveAttribute('aria-sort', /ascending|descending/);
    const bySize = await codes.allInnerTexts();
    await size.getByRole('button').click();
    // Courses of one size keep the order of their codes.
    await expect(codes.last()).toHaveText(bySize[0] ?? '');
    await page.getByLabel('Filter the courses').fill('saltmarsh');
    await expect(page.locator('tbody tr')).toHaveCount(1);
    await page.getByLabel('Filter the courses').fill('');
    await page.getByLabel('Narrow to an instance').selectOption({ label: 'on Marrowick New' });
    await expect(page.locator('tbody tr')).toHaveCount(1);
    await page.getByLabel('Narrow to an instance').selectOption({ label: 'on any instance' });
    await page.keyboard.press('Escape');
    await page.locator('h1').click();
    await page.keyboard.press('/');
    await page.keyboard.type('boat rep');
    await expect(page.getByRole('option', { name: /Wooden Boat Repair/ })).toBeVisible();
    await page.keyboard.press('Escape');
    await expectAccessible(page);
  });

  test('a fetch waits in the queue, outlives a reload and the death of its worker, and is asked for once', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack);
    await page.getByRole('row', { name: COURSE }).getByRole('button', { name: 'Move…' }).click();
    await expectAccessible(page);
    // Twice, as people do.
    await page.getByRole('button', { name: 'Start by fetching' }).dblclick();
    await expect(page).toHaveURL(/\/moves\/\d+/);
    await expect(page.getByText('2 other jobs ahead in its queue')).toBeVisible();
    await expect(tideline(page)).toContainText('2 ahead');
    await page.goto(`${stack.address}/strongroom`);
    await expect(tideline(page)).toContainText(COURSE);
    replaceWorker(stack);
    await page.goto(`${stack.address}/moves`);
    // It goes on from there; how far the platform's queue has got meanwhile is the platform's affair.
    await expect(tideline(page)).toContainText(/1 ahead|being built|downloading|look/);
    await page.getByRole('link', { name: /Wooden Boat Repair/ }).click();
    await expect(page).toHaveURL(/\/moves\/\d+/);
    await page.reload();
    await expect(page.getByRole('link', { name: /Dry fit.*reworked/s })).toBeVisible({ timeout: 90_000 });
    expect(await bundlesOf(stack, 'c101')).toHaveLength(1);
    const asked = await page.request.get(`${stack.address}/api/moves/1`);
    const move = (await asked.json()) as { course: { id: number }; to: { id: number } };
    const again = await page.request.post(`${stack.address}/api/moves`, {
      data: { courseId: move.course.id, destinationId: move.to.id },
    });
    expect(again.status()).toBe(200);
    expect(await bundlesOf(stack, 'c101')).toHaveLength(1);
  });

  test('inside, the outline is as its author built it, and a page, a question and a file can be read', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack, '/moves/1/look');
    const outline = page.getByRole('region', { name: 'Outline' });
    const preview = page.getByRole('region', { name: 'Preview' });
    await expect(outline).toContainText('Week 1: Reading the boat');
    await expect(page.getByText(/9 folders in 3 levels, 45 files/)).toBeVisible();
    await expect(page.getByRole('button', { name: /20\s*pages/ })).toBeVisible();
    await outline.getByRole('button', { name: 'Parts of a clinker hull' }).click();
    const frame = preview.frameLocator('iframe');
    await expect(frame.getByRole('heading', { name: 'Parts of a clinker hull' })).toBeVisible();
    await expect(frame.locator('img').first()).toHaveAttribute('src', /^data:image\/png/);
    const found = page.getByRole('region', { name: 'Found' });
    await page.getByLabel('Search titles and texts').fill('whippings');
    await found.getByRole('button', { name: 'Knots and whippings test' }).click();
    await expect(frame.getByText('right', { exact: true }).first()).toBeVisible();
    await page.getByLabel('Search titles and texts').fill('survey sheet');
    await found.getByRole('button', { name: 'Survey sheet' }).click();
    await expect(preview.locator('pre')).toContainText('\t');
    await expectAccessible(page);
  });

  test('the dry fit names every item, and what will be lost of it', async ({ page, stack }) => {
    await signIn(page, stack, '/moves/1/fit');
    await expect(page.getByText('43 items and 9 folders')).toBeVisible();
    await expect(totals(page).getByText(/37\s*whole/)).toBeVisible();
    await expect(totals(page).getByText(/14\s*reworked/)).toBeVisible();
    await expect(totals(page).getByText(/1\s*left behind/)).toBeVisible();
    await page.getByRole('button', { name: 'not whole' }).click();
    const was = page.getByRole('list', { name: 'As it was' });
    await was.getByRole('button', { name: 'Fastening calculator' }).click();
    await expect(page.getByText('parameters sent to the tool').last()).toBeVisible();
    await expectAccessible(page);
    await expectNoSidewaysScroll(page);
  });

  test('the package that is built is a cartridge 1.3 whose unchanged files are the bytes that were fetched', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack, '/moves/1/fit');
    await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
    await page.getByRole('link', { name: 'Go to the delivery' }).waitFor();
    const built = await saved(page, () => page.getByRole('link', { name: 'Download the package' }).click());
    await page.goto(`${stack.address}/strongroom`);
    await page.getByRole('row', { name: COURSE }).click();
    const kept = await saved(page, () => page.getByRole('link', { name: 'Download', exact: true }).click());
    // The strongroom gives back what it was given, byte for byte.
    const shown = (
      await page
        .getByRole('definition')
        .filter({ hasText: /^[0-9a-f ]{71}$/ })
        .innerText()
    ).replaceAll(/\s/g, '');
    expect(sha256(kept.bytes)).toBe(shown);
    expect(kept.name).toMatch(/^BTB210-01_2026-Autumn_Wooden-Boat-Repair_\d{4}-\d\d-\d\d\.imscc$/);
    expect(unzip('-p', built.path, 'imsmanifest.xml')).toContain('<schemaversion>1.3.0</schemaversion>');
    expect(unzip('-p', kept.path, 'imsmanifest.xml')).toContain('<schemaversion>1.1.0</schemaversion>');
    expect(unzip('-tq', built.path)).toContain('No errors detected');
    // Name, compressed size and checksum of every page, picture and document.
    const content = (path: string) =>
      unzip('-v', path)
        .split('\n')
        .filter((line) => / content\//.test(line))
        .map((line) => line.trim().split(/\s+/))
        .map((c) => [c.slice(7).join(' '), c[2], c[6]].join(' '))
        .sort();
    expect(content(built.path).length).toBeGreaterThan(30);
    expect(content(built.path)).toEqual(content(kept.path));
  });

  test('the delivery goes on though its worker dies, and the platform is asked for one import', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack, '/moves/1/deliver');
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Deliver into BTB 210-01' }).click();
    await expect(tideline(page)).toContainText(/unpacking at Marrowick New/, { timeout: 90_000 });
    replaceWorker(stack);
    await expect(page.getByText('A folder below the first level became a heading.').first()).toBeVisible({
      timeout: 90_000,
    });
    await expect(page.getByRole('link', { name: 'See the check' })).toBeVisible({ timeout: 90_000 });
    const spaces = await fetch(`${stack.tarnhall}/api/spaces`, {
      headers: { Authorization: `Key ${stack.tokens.tarnhall}` },
    });
    const list = ((await spaces.json()) as { spaces: { code: string }[] }).spaces;
    expect(list.filter((s) => s.code === 'BTB 210')).toHaveLength(1);
    // The platform's own people see it too.
    await page.goto(stack.tarnhall);
    await page.getByRole('link', { name: 'Wooden Boat Repair' }).click();
    await expect(page.getByRole('heading', { name: 'Week 3: Ropework' })).toBeVisible();
    await expect(page.getByRole('heading', { name: 'Week 3: Ropework' })).toHaveCount(1);
  });

  test('the check finds what the platform said nothing of, and draws a peg line for every item', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack, '/moves/1/check');
    await expect(totals(page).getByText(/35\s*whole/)).toBeVisible();
    await expect(totals(page).getByText(/2\s*extra/)).toBeVisible();
    await expect(page.getByText('foretold whole').first()).toBeVisible();
    const pegs = page.locator('tn-joint svg g');
    expect(await pegs.count()).toBeGreaterThan(20);
    await page.getByRole('button', { name: /otherwise than foretold/ }).click();
    const titles = await page.getByRole('list', { name: 'As it was' }).locator('.title:not(.folder)').allInnerTexts();
    expect(titles).toContain('Knots and bends, the sheet');
    // Every item of both sides has its peg: 43 items and 9 folders were sent, 2 came that nobody sent.
    const answer = await page.request.get(`${stack.address}/api/moves/1/check`);
    const { comparison } = (await answer.json()) as { comparison: { lines: { source: string | null }[] } };
    expect(comparison.lines.filter((l) => l.source !== null)).toHaveLength(52);
    expect(comparison.lines.filter((l) => l.source === null)).toHaveLength(2);
    await expectAccessible(page);
  });

  test('the transfer report has a line for all that is not whole, as a page and as CSV', async ({ page, stack }) => {
    await signIn(page, stack, '/moves/1/hand-over');
    await expect(page.locator('tn-report-view tbody tr')).toHaveCount(19);
    const csv = await saved(page, () => page.getByRole('link', { name: 'Download as CSV' }).click());
    const lines = csv.bytes.toString('utf8').trimEnd().split('\r\n');
    expect(lines).toHaveLength(20);
    expect(lines[0]).toContain('Folder,Item,Kind,Arrived as,Outcome,Foretold');
    expect(lines.find((l) => l.includes('Knots and bends'))).toContain('left behind,whole');
    await expectAccessible(page);
  });

  test('an instructor reads the reports of own courses and nothing else', async ({ page, stack }) => {
    await signIn(page, stack, '/', 'instructor');
    await expect(page).toHaveURL(/\/reports/);
    await expect(page.getByRole('navigation', { name: 'Sections' }).getByRole('link')).toHaveText(['Reports']);
    await page.getByRole('link', { name: /Wooden Boat Repair/ }).click();
    await expect(totals(page).getByText(/35\s*whole/)).toBeVisible();
    await expectAccessible(page);
    await page.goto(`${stack.address}/courses`);
    await expect(page).toHaveURL(/\/reports/);
    expect((await page.request.get(`${stack.address}/api/courses`)).status()).toBe(403);
  });

  for (const scheme of ['light', 'dark'] as const) {
    test(`every screen can be read in the ${scheme} scheme`, async ({ page, stack }) => {
      await page.emulateMedia({ colorScheme: scheme });
      await page.goto(stack.address);
      await expect(page.getByRole('button', { name: 'Sign in' })).toBeVisible();
      await expectAccessible(page);
      await signIn(page, stack);
      for (const path of ['courses', 'moves', 'moves/1/fetch', 'moves/1/build', 'bench', 'strongroom', 'reports']) {
        await page.goto(`${stack.address}/${path}`);
        await expect(page.getByRole('heading').first()).toBeVisible();
        await expectAccessible(page);
        await expectNoSidewaysScroll(page);
      }
    });
  }
});
