import { readFile } from 'node:fs/promises';
import * as z from 'zod';
import type { Page } from '@playwright/test';
import { expect, expectAccessible, expectNoSidewaysScroll, signIn, test, type Stack } from './stack';

const Check = z.object({
  arrived: z.object({
    items: z.array(z.object({ title: z.string(), settings: z.record(z.string(), z.unknown()) })),
  }),
  comparison: z.object({ lines: z.array(z.object({ outcome: z.string(), predicted: z.string().nullable() })) }),
});

/** Where it comes from: it may have been brought elsewhere already. */
const COURSE = /NAV 101-02.*Marrowick Live/s;
const answer = (page: Page) => page.locator('.answer p');
const rows = (page: Page) => page.locator('tn-redate-view tbody tr');

test.describe.serial('The dates of a course on its way', () => {
  let id = '';
  const open = async (page: Page, stack: Stack, step: string) => {
    await signIn(page, stack, `/moves/${id}/${step}`);
  };

  test('are all known when it was looked into, and go as they are unless a person says otherwise', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack, '/courses');
    await page.getByRole('row', { name: COURSE }).getByRole('button', { name: 'Move…' }).click();
    await page.getByRole('combobox', { name: 'Destination' }).click();
    await page.getByRole('option', { name: 'Marrowick Rehearsal' }).click();
    await page.getByRole('button', { name: 'Start by fetching' }).click();
    await page.waitForURL(/moves\/\d+/);
    id = /moves\/(\d+)/.exec(page.url())?.[1] ?? '';
    await page.getByRole('link', { name: /Re-date.*25 dates, as they were/s }).click({ timeout: 120_000 });
    await expect(answer(page)).toContainText('25 dates go into Spring 2027: 24 on the same weekday');
    await expect(answer(page)).toContainText('4 dates to look at');
    await page.getByRole('radio', { name: /in texts\s*3/ }).click();
    await expect(rows(page)).toHaveCount(3);
    await expect(rows(page).filter({ hasText: '“27/11”' })).toContainText('“26/3”');
    await expectAccessible(page);
    await expectNoSidewaysScroll(page);
    await page.goto(`${stack.address}/moves/${id}/fit`);
    await expect(page.getByText('Dates: 25 dates, as they were.')).toBeVisible();
  });

  test('are moved on the strip and in the list, and what is being decided outlives a reload', async ({
    page,
    stack,
  }) => {
    await open(page, stack, 're-date');
    const dot = page.getByRole('slider', { name: /^Tidal height exercise, due/ });
    await expect(dot).toHaveAttribute('aria-valuetext', 'Mon 8 Feb 2027');
    // By the mouse first, then by the keyboard to the day.
    const box = await dot.boundingBox();
    if (!box) throw new Error('the dot is not drawn');
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + 30, y + 3, { steps: 5 });
    await page.mouse.move(x + 43, y + 3, { steps: 5 });
    await page.mouse.up();
    const row = rows(page).filter({ hasText: 'Tidal height exercise' });
    await expect(row).toContainText('By hand');
    await expect(row).not.toContainText('Mon 8 Feb 2027');
    await row.getByRole('button', { name: 'By the rule' }).click();
    await expect(row).toContainText('Mon 8 Feb 2027');
    await dot.focus();
    await page.keyboard.press('ArrowRight');
    await expect(row).toContainText('Tue 9 Feb 2027');
    await page.reload();
    await expect(row).toContainText('Tue 9 Feb 2027');
    // Set to a day on which the house is closed, it is said so.
    await row.getByRole('button', { name: 'Set' }).click();
    const dialog = page.getByRole('dialog');
    await expectAccessible(page);
    await dialog.getByRole('textbox').fill('26 Mar 2027 12:00');
    await dialog.getByRole('button', { name: 'Set it' }).click();
    await expect(row).toContainText('Good Friday: closed');
  });

  test('are taken away as a table, changed there, and brought back; a table with mistakes changes nothing', async ({
    page,
    stack,
  }) => {
    await open(page, stack, 're-date');
    const take = async (item: RegExp) => {
      await page.getByRole('button', { name: 'As a file' }).click();
      const [download] = await Promise.all([
        page.waitForEvent('download'),
        page.getByRole('menuitem', { name: item }).click(),
      ]);
      return readFile(await download.path(), 'utf8');
    };
    const calendar = await take(/as a calendar/);
    expect(calendar).toContain('SUMMARY:Tidal height exercise: due');
    const csv = await take(/Take the dates as CSV/);
    expect(csv).toContain('Tidal height exercise');
    const line = csv.split('\r\n').find((one) => one.includes('Tidal height exercise'));
    const bring = async (text: string) => {
      await page.getByLabel('A table of dates').setInputFiles({
        name: 'dates.csv',
        mimeType: 'text/csv',
        buffer: Buffer.from(text),
      });
    };
    const [key] = (line ?? '').split(',');
    await bring(`Key,As it will be\n${key},31 Feb 2027\nitem:nobody due,2027-02-01`);
    await expect(page.getByRole('alert')).toContainText('Nothing was taken from dates.csv.');
    await expect(page.getByRole('alert')).toContainText('Line 2: “Tidal height exercise”: there is no day 31 Feb 2027');
    await expect(page.getByRole('alert')).toContainText('Line 3: There is no date “item:nobody due”');
    await bring(`Key,As it will be\n${key},2027-02-10 18:00`);
    await expect(rows(page).filter({ hasText: 'Tidal height exercise' })).toContainText('Wed 10 Feb 2027 18:00');
    await expect(page.getByRole('alert')).toHaveCount(0);
    await page.getByRole('button', { name: 'Put new dates into the texts' }).click();
    await expect(answer(page)).toContainText('1 date to look at');
    await page.getByRole('button', { name: 'Use these dates' }).click();
    await page.getByRole('link', { name: /Re-date.*25 dates into Spring 2027, 1 to look at/s }).waitFor();
  });

  test('go on into the fit and to the destination, and are found there at the check', async ({ page, stack }) => {
    await signIn(page, stack);
    await page.goto(`${stack.address}/moves/${id}/fit`);
    await expect(page.getByText(/Dates: 25 dates into Spring 2027/)).toBeVisible();
    await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
    await page.getByRole('link', { name: 'Go to the delivery' }).click({ timeout: 120_000 });
    await page.getByRole('button', { name: /^Deliver into/ }).click();
    await page.getByRole('link', { name: 'See the check' }).click({ timeout: 120_000 });
    const ask = () => page.request.get(`${stack.address}/api/moves/${id}/check`);
    await expect.poll(async () => (await ask()).ok(), { timeout: 120_000 }).toBe(true);
    const { arrived, comparison } = Check.parse(await (await ask()).json());
    expect(comparison.lines.filter((l) => l.predicted !== null && l.predicted !== l.outcome)).toEqual([]);
    const due = arrived.items.find((i) => i.title === 'Tidal height exercise')?.settings['due'];
    expect(due).toEqual({ is: 'instant', at: '2027-02-10T18:00:00Z', zone: 'UTC' });
    await page
      .getByRole('list', { name: 'As it was' })
      .getByRole('button', { name: 'What you will be able to do' })
      .first()
      .click();
    const there = page.getByRole('region', { name: 'As it is', exact: true }).frameLocator('iframe').locator('body');
    await expect(there).toContainText('The lamp-signal evening is on Thursday 11 February');
    await expect(there).toContainText('due 26/3 before noon');
  });
});
