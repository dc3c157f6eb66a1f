import { readFile } from 'node:fs/promises';
import { execFileSync } from 'node:child_process';
import type { Download, Page } from '@playwright/test';
import { sha256 } from './packages';
import { expect, expectAccessible, expectNoSidewaysScroll, signIn, test, type Stack, choose } from './stack';

interface Moved {
  course: { id: number };
}

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
    await expect(size).toHaveAttribute('aria-sort', 'descending');
    await expect(codes.first()).toHaveText('BTB 210-01');
    await size.getByRole('button').click();
    await expect(size).toHaveAttribute('aria-sort', 'ascending');
    await expect(codes.first()).not.toHaveText('BTB 210-01');
    const list = page.locator('tn-list cdk-virtual-scroll-viewport');
    await list.evaluate((rows) => (rows.scrollTop = rows.scrollHeight));
    await expect(codes.last()).toHaveText('BTB 210-01');
    await page.getByLabel('Filter the courses').fill('saltmarsh');
    await expect(page.locator('tbody tr')).toHaveCount(1);
    await page.getByLabel('Filter the courses').fill('');
    await choose(page, 'Narrow to an instance', 'on Marrowick New');
    await expect(page.locator('tbody tr')).toHaveCount(1);
    await choose(page, 'Narrow to an instance', 'on any instance');
    await page.keyboard.press('Escape');
    await page.locator('h1').click();
    await page.keyboard.press('/');
    await expect(page.getByLabel('Filter the courses')).toBeFocused();
    await page.keyboard.press('Escape');
    await page.keyboard.press('g');
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
    expect(await bundlesOf(stack, 'c101')).toHaveLength(0);
    const asked = await page.request.get(`${stack.address}/api/moves/1`);
    const move = (await asked.json()) as { course: { id: number }; to: { id: number } };
    const again = await page.request.post(`${stack.address}/api/moves`, {
      data: { courseId: move.course.id, destinationId: move.to.id },
    });
    expect(again.status()).toBe(200);
    expect(((await again.json()) as { id: number }).id).toBe(1);
    expect(await bundlesOf(stack, 'c101')).toHaveLength(0);
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
    await expect(page.getByRole('option', { name: /20\s*pages/ })).toBeVisible();
    await outline.getByRole('button', { name: 'Parts of a clinker hull' }).click();
    const frame = preview.frameLocator('iframe');
    await expect(frame.getByRole('heading', { name: 'Parts of a clinker hull' })).toBeVisible();
    await expect(frame.locator('img').first()).toHaveAttribute('src', /^data:image\/png/);
    const found = page.getByRole('region', { name: 'Found' });
    await page.getByLabel('Search titles and texts').fill('whippings');
    await found.getByRole('button', { name: /^Knots and whippings test\s*quiz/ }).click();
    await expect(frame.getByText('right', { exact: true }).first()).toBeVisible();
    await page.getByLabel('Search titles and texts').fill('survey sheet');
    await found.getByRole('button', { name: 'Survey sheet' }).click();
    await expect(preview.locator('pre')).toContainText('\t');
    await expectAccessible(page);
  });

  test('what the platform counts is what was read, and people are led to Tidy before the fit', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack, '/moves/1');
    await expect(page.getByRole('region', { name: 'Findings' })).toBeVisible();
    await expect(page.getByRole('link', { name: /Tidy.*open/s })).toBeVisible();
    await page.goto(`${stack.address}/moves/1/fetch`);
    await expect(page.getByText('Quernhold archive 4, the platform’s own archive')).toBeVisible();
    await expect(page.getByText('all 42 items that the platform counts').first()).toBeVisible();
    // What a move left at the source is removed, as by a fetch.
    expect(await bundlesOf(stack, 'c101')).toHaveLength(0);
  });

  test('the dry fit names every item, and what will be lost of it', async ({ page, stack }) => {
    await signIn(page, stack, '/moves/1/fit');
    await expect(page.getByText('64 items and 9 folders')).toBeVisible();
    await expect(totals(page).getByText(/34\s*whole/)).toBeVisible();
    await expect(totals(page).getByText(/18\s*reworked/)).toBeVisible();
    await expect(totals(page).getByText(/21\s*left behind/)).toBeVisible();
    await expect(page.getByText(/findings not decided on yet/)).toBeVisible();
    await page.getByRole('radio', { name: 'not whole' }).click();
    const was = page.getByRole('list', { name: 'As it was' });
    await was.getByRole('button', { name: 'Fastening calculator' }).click();
    await expect(page.getByText('parameters sent to the tool').last()).toBeVisible();
    await expectAccessible(page);
    await expectNoSidewaysScroll(page);
  });

  test('the fit can be opened again once it is accepted, and then builds anew', async ({ page, stack }) => {
    await signIn(page, stack, '/moves/1/fit');
    await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
    await page.getByRole('link', { name: 'Go to the delivery' }).waitFor();
    await page.goto(`${stack.address}/moves/1/fit`);
    await page.getByRole('button', { name: 'Open the fit again' }).click();
    await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
    await page.getByRole('link', { name: 'Go to the delivery' }).waitFor();
    await expect(page.getByText(/^Tarnhall crate, made of Quernhold archive 4/)).toBeVisible();
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
    await expect(page.getByText('The crate was read:').first()).toBeVisible({ timeout: 90_000 });
    await expect(page.getByRole('link', { name: 'See the check' })).toBeVisible({ timeout: 90_000 });
    const spaces = await fetch(`${stack.tarnhall}/api/spaces`, {
      headers: { Authorization: `Key ${stack.tokens.tarnhall}` },
    });
    const list = ((await spaces.json()) as { spaces: { code: string }[] }).spaces;
    expect(list.filter((s) => s.code === 'BTB 210')).toHaveLength(1);
    // Asked for once more, it is refused with a sentence, and nothing is sent.
    const shell = { section: '01', term: 'Autumn 2026', title: 'Wooden Boat Repair' };
    const again = await page.request.post(`${stack.address}/api/moves/1/deliver`, { data: shell });
    expect([again.status(), ((await again.json()) as { code: string }).code]).toEqual([422, 'delivered-already']);
    // The platform's own people see it too.
    await page.goto(stack.tarnhall);
    await page.getByRole('link', { name: 'Wooden Boat Repair' }).click();
    await expect(page.getByRole('heading', { name: 'Week 3: Ropework' })).toHaveCount(1);
  });

  test('the check draws a peg line for every item of both sides', async ({ page, stack }) => {
    await signIn(page, stack, '/moves/1/check');
    await expect(totals(page).getByText(/34\s*whole/)).toBeVisible();
    const pegs = page.locator('tn-joint svg g');
    expect(await pegs.count()).toBeGreaterThan(20);
    const answer = await page.request.get(`${stack.address}/api/moves/1/check`);
    const { comparison } = (await answer.json()) as { comparison: { lines: { source: string | null }[] } };
    // 64 items and 9 folders were sent.
    expect(comparison.lines.filter((l) => l.source !== null)).toHaveLength(73);
    await expectAccessible(page);
    // Both versions of a page, as it was sent and as the platform has it.
    await page
      .getByRole('list', { name: 'As it was' })
      .getByRole('button', { name: 'Parts of a clinker hull' })
      .first()
      .click();
    for (const name of ['As it was', 'As it is']) {
      const side = page.getByRole('region', { name, exact: true });
      await expect(side.frameLocator('iframe').locator('body')).toContainText(/hull/i);
    }
    await expect(page.getByText(/the same words|where the words differ/)).toBeVisible();
    await page.getByRole('button', { name: 'Over the whole window' }).click();
    await expectAccessible(page);
    await page.keyboard.press('Escape');
    // From line to line that is not whole.
    const title = page.locator('tn-both h3');
    const first = await title.innerText();
    await page.keyboard.press(']');
    await expect(title).not.toHaveText(first);
    const lower = page.getByRole('separator', { name: 'How high the lower part is' });
    await lower.press('ArrowUp');
    await expect(lower).toHaveAttribute('aria-valuenow', '55');
    await page.reload();
    await expect(lower).toHaveAttribute('aria-valuenow', '55');
  });

  test('the transfer report has a line for all that is not whole, as a page and as CSV, with values to enter again', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack, '/moves/1/hand-over');
    const csv = await saved(page, () => page.getByRole('link', { name: 'Download as CSV' }).click());
    const lines = csv.bytes.toString('utf8').trimEnd().split('\r\n');
    // Those left behind and reworked, and what nobody sent, below the header.
    expect(lines.filter((l) => /,(left behind|reworked),/.test(l))).toHaveLength(18 + 21);
    expect(lines[0]).toContain('Folder,Item,Kind,Arrived as,Outcome,Foretold');
    expect(lines.some((l) => /due (Mon|Tue|Wed|Thu|Fri|Sat|Sun) \d+ \w+ 2026 \d\d:\d\d/.test(l))).toBe(true);
    const rows = page.locator('tn-report-view tbody tr');
    const shown = await rows.count();
    expect(shown).toBeLessThan(lines.length - 1);
    await page.locator('tn-report-view tbody button').first().click();
    await expect.poll(() => rows.count()).toBeGreaterThan(shown);
    await expect(page.getByRole('region', { name: 'Findings left open' })).toBeVisible();
    await expectAccessible(page);
  });

  test('a course goes a second time, to a place that says what is there already, and can be called off', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack);
    await page.getByRole('row', { name: COURSE }).first().getByRole('button', { name: 'Move…' }).click();
    await page.getByRole('radio', { name: 'A copy that is kept' }).check();
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Start with the copy' }).click();
    // Another move; a number may be left out where two asked at once.
    await expect(page).toHaveURL(/\/moves\/(?!1\b)\d+/);
    await page.getByRole('link', { name: /Dry fit.*reworked/s }).click({ timeout: 90_000 });
    await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
    await page.getByRole('link', { name: 'Go to the delivery' }).click({ timeout: 90_000 });
    await expect(page.getByText('Marrowick New has 1 course of this code already')).toBeVisible();
    await expect(page.getByRole('link', { name: 'brought by move 1' })).toBeVisible();
    await page.getByRole('button', { name: 'Call the move off' }).click();
    await expect(page.getByText(/This move was called off/)).toBeVisible();
    await page.getByRole('button', { name: 'Put the move away' }).click();
    await page.goto(`${stack.address}/moves`);
    await expect(page.locator('tbody tr')).toHaveCount(1);
    await page.getByRole('checkbox', { name: 'show 1 put away' }).check();
    await expect(page.locator('tbody tr')).toHaveCount(2);
    await expectAccessible(page);
  });

  test('files that did not change go from a cartridge into the next as the bytes that were fetched', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack);
    const { id: courseId } = ((await (await page.request.get(`${stack.address}/api/moves/1`)).json()) as Moved).course;
    // Nothing is mended by itself then: no page is written anew.
    const options = {
      form: 'standard',
      parts: null,
      copyLinked: false,
      personal: false,
      reason: '',
      removeAfter: true,
    };
    await page.request.post(`${stack.address}/api/fetches`, { data: { courseIds: [courseId], options } });
    const copies = async () =>
      (
        (await (await page.request.get(`${stack.address}/api/copies`)).json()) as {
          rows: { id: number; form: string }[];
        }
      ).rows;
    await expect.poll(async () => (await copies()).some((c) => c.form === 'standard'), { timeout: 90_000 }).toBe(true);
    const copy = (await copies()).find((c) => c.form === 'standard');
    await page.goto(`${stack.address}/strongroom?copy=${copy?.id ?? 0}`);
    // What such a package lacks is said wherever it is met.
    await expect(page.getByText(/leaves out due dates, conditions/)).toBeVisible();
    const kept = await saved(page, () => page.getByRole('link', { name: 'Download', exact: true }).click());
    // The strongroom gives back what it was given, byte for byte.
    const hash = await page
      .getByRole('definition')
      .filter({ hasText: /^[0-9a-f ]{71}$/ })
      .innerText();
    expect(sha256(kept.bytes)).toBe(hash.replaceAll(/\s/g, ''));
    expect(kept.name).toMatch(/^BTB210-01_2026-Autumn_Wooden-Boat-Repair_\d{4}-\d\d-\d\d\.imscc$/);
    await page.getByRole('button', { name: 'Move from this copy…' }).click();
    await expect(page.getByText(/A Common Cartridge 1.1 leaves out due dates/)).toBeVisible();
    await page.getByRole('button', { name: /Start .*with the copy/ }).click();
    await page.getByRole('link', { name: /Dry fit.*reworked/s }).click({ timeout: 90_000 });
    // The fit begins with what the package is known to lack.
    await expect(page.getByText(/A Common Cartridge 1.1 leaves out due dates/)).toBeVisible();
    await page.getByRole('radio', { name: /Common Cartridge 1\.3/ }).click();
    await expect(page.getByRole('radio', { name: /Common Cartridge 1\.3/ })).toBeChecked();
    await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
    const built = await saved(page, () => page.getByRole('link', { name: 'Download the package' }).click());
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

  test('a course of an author’s library goes whole by the default: what the platform counts is foretold, delivered, checked and reported', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack, '/courses?words=TID');
    await page.getByRole('row', { name: 'TID 200-A' }).getByRole('button', { name: 'Move…' }).click();
    await page.getByRole('button', { name: 'Start by fetching' }).click();
    await page.waitForURL(/moves\/\d+/);
    const id = /moves\/(\d+)/.exec(page.url())?.[1] ?? '';
    await page.getByRole('link', { name: /Dry fit.*reworked/s }).click({ timeout: 120_000 });
    const ask = async <T>(path: string): Promise<T> =>
      (await (await page.request.get(`${stack.address}/api/moves/${id}${path}`)).json()) as T;
    const { copy } = await ask<{ copy: { facts: { counted: number; shown: number }; form: string } }>('');
    expect([copy.form, copy.facts.counted, copy.facts.shown]).toEqual(['archive', 25, 25]);
    interface Lines {
      lines: { kind: string; outcome: string; source: string | null; title: string }[];
    }
    const fit = await ask<{ forecast: Lines; missing: string[] }>('/fit');
    const items = ({ lines }: Lines) => lines.filter((l) => l.kind !== 'folder' && l.source !== null);
    expect(items(fit.forecast)).toHaveLength(25);
    expect(fit.missing).toEqual([]);
    expect(items(fit.forecast).filter((l) => l.kind === 'quiz')).toHaveLength(3);
    expect(items(fit.forecast).filter((l) => l.outcome === 'left behind')).toEqual([]);
    await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
    await page.getByRole('link', { name: 'Go to the delivery' }).click({ timeout: 90_000 });
    await page.getByRole('button', { name: /^Deliver into/ }).click();
    await page.getByRole('link', { name: 'See the check' }).click({ timeout: 120_000 });
    await expect(totals(page).getByText(/0\s*left behind/)).toBeVisible();
    const { comparison } = await ask<{ comparison: Lines }>('/check');
    expect(items(comparison)).toHaveLength(25);
    const report = (await (await page.request.get(`${stack.address}/api/reports/${id}`)).json()) as Lines & {
      totals: Record<string, number>;
    };
    const folders = fit.forecast.lines.length - 25;
    expect((report.totals['whole'] ?? 0) + (report.totals['reworked'] ?? 0)).toBe(25 + folders);
    expect(report.totals['left behind']).toBe(0);
  });

  test('an instructor reads the reports of own courses and nothing else', async ({ page, stack }) => {
    await signIn(page, stack, '/', 'instructor');
    await expect(page).toHaveURL(/\/reports/);
    await expect(page.getByRole('navigation', { name: 'Sections' }).getByRole('link')).toHaveText(['Reports']);
    await page.getByRole('link', { name: /Wooden Boat Repair/ }).click();
    await expect(totals(page).getByText(/34\s*whole/)).toBeVisible();
    await expectAccessible(page);
    await page.goto(`${stack.address}/courses`);
    await expect(page).toHaveURL(/\/reports/);
    expect((await page.request.get(`${stack.address}/api/courses`)).status()).toBe(403);
  });

  test('no screen is wider than a small window, whatever jobs are told along its foot', async ({ page, stack }) => {
    await page.setViewportSize({ width: 800, height: 700 });
    await signIn(page, stack);
    for (const path of ['courses', 'moves', 'moves/1/fit', 'bench', 'strongroom', 'platforms', 'reports']) {
      await page.goto(`${stack.address}/${path}`);
      await expect(page.getByRole('heading').first()).toBeVisible();
      await expectNoSidewaysScroll(page);
      expect(await page.locator('main').evaluate((main) => main.scrollWidth - main.clientWidth)).toBe(0);
    }
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
