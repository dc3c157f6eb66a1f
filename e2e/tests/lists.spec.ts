import { readFile } from 'node:fs/promises';
import type { Page } from '@playwright/test';
import { expect, expectAccessible, signIn, test, type Stack } from './stack';

/** How many courses are of conservation: other files may have delivered one of them somewhere. */
async function theirs(page: Page, { address }: Stack): Promise<number> {
  const answer = await page.request.get(`${address}/api/courses?words=conservation`);
  const { rows } = (await answer.json()) as { rows: unknown[] };
  expect(rows.length).toBeGreaterThan(2);
  return rows.length;
}

/** One component makes every list: what is true of the register is true of all. */
test.describe('A list', () => {
  test('is filtered, gone through and chosen from by keys, and its address shows the same to another', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack, '/courses');
    const rows = page.locator('tn-list tbody tr');
    await expect(rows.nth(20)).toBeAttached();
    await page.locator('h1').click();
    await page.keyboard.press('/');
    await page.keyboard.type('conservation');
    const found = await theirs(page, stack);
    await expect(rows).toHaveCount(found);
    const answered = page.waitForResponse(/words=conservation&sort=-changed/);
    await page.getByRole('columnheader', { name: 'Changed' }).getByRole('button').click();
    await answered;
    await expect(page.locator('tn-list table')).toHaveAttribute('aria-busy', 'false');
    await expect(page).toHaveURL(/words=conservation/);
    await expect(page).toHaveURL(/sort=-changed/);
    const shown = await rows.allInnerTexts();
    await page.locator('h1').click();
    for (const key of ['j', 'x', 'Shift+J']) await page.keyboard.press(key);
    await expect(page.getByText(`${found} shown, 2 chosen`)).toBeVisible();
    // What was chosen stays chosen while it is not shown.
    await page.getByLabel('Filter the courses').fill('boat');
    await expect(page.getByText(/shown, 2 chosen/)).toBeVisible();
    await expect(page.getByRole('button', { name: 'Fetch 2 courses…' })).toBeEnabled();
    await page.getByLabel('Filter the courses').fill('conservation');
    await expect(page).toHaveURL(/words=conservation/);
    await page.reload();
    await expect(rows).toHaveCount(found);
    expect(await rows.allInnerTexts()).toEqual(shown);
    await expectAccessible(page);
  });

  test('is given as a sheet of what is shown, in the columns that a person chose', async ({ page, stack }) => {
    await signIn(page, stack, '/courses?words=conservation');
    const found = await theirs(page, stack);
    await expect(page.locator('tn-list tbody tr')).toHaveCount(found);
    await page.getByRole('button', { name: 'Columns' }).click();
    await page.getByRole('menuitemcheckbox', { name: 'Owner' }).click();
    await page.getByRole('menuitemcheckbox', { name: 'Size' }).click();
    await page.keyboard.press('Escape');
    await expect(page.getByRole('columnheader', { name: 'Owner' })).toBeVisible();
    await page.getByRole('button', { name: 'Export' }).click();
    await expectAccessible(page);
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('menuitem', { name: `The ${found} courses shown, as CSV` }).click(),
    ]);
    expect(download.suggestedFilename()).toBe('courses.csv');
    const lines = (await readFile(await download.path(), 'utf8')).trim().split('\n');
    expect(lines[0]?.replace(/^\uFEFF/, '')).toBe('Course,Title,Term,On,Owner,Changed,Newest kept copy');
    expect(lines).toHaveLength(found + 1);
    await page.reload();
    await expect(page.getByRole('columnheader', { name: 'Owner' })).toBeVisible();
    await expect(page.getByRole('columnheader', { name: 'Size' })).toHaveCount(0);
  });
});
