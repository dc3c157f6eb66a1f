import * as z from 'zod';
import { expect, expectAccessible, signIn, test } from './stack';

const COURSE = /NAV 101-02/;

test.describe.serial("A course carried in the destination's own archive", () => {
  test('is foretold beside the cartridge, and is chosen before the fit is accepted', async ({ page, stack }) => {
    await signIn(page, stack, '/courses');
    await page.getByRole('row', { name: COURSE }).getByRole('button', { name: 'Move…' }).click();
    await page.getByRole('button', { name: 'Start by fetching' }).click();
    await page.waitForURL(/moves\/\d+/);
    await page.getByRole('link', { name: /Dry fit.*reworked/s }).click({ timeout: 60_000 });
    const forms = page.getByRole('group', { name: 'Carried as' });
    await expect(forms.getByRole('button', { name: /Common Cartridge 1\.3/ })).toHaveAttribute('aria-pressed', 'true');
    await expect(forms).toContainText('Tarnhall crate keeps as much, and is not translated on arrival.');
    await forms.getByRole('button', { name: /Tarnhall crate/ }).click();
    await expect(forms.getByRole('button', { name: /Tarnhall crate/ })).toHaveAttribute('aria-pressed', 'true');
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
    await expect(page.getByText(/^Tarnhall crate, /).first()).toBeVisible();
  });

  test('arrives as it was foretold, line by line', async ({ page, stack }) => {
    await signIn(page, stack, '/moves');
    await page.getByRole('link', { name: COURSE }).first().click();
    await page.getByRole('button', { name: /^Deliver into/ }).click();
    await expect(page.getByText('The crate was read:').first()).toBeVisible({ timeout: 60_000 });
    await page.getByRole('link', { name: 'See the check' }).click({ timeout: 60_000 });
    await expect(page.getByText(/left behind/).first()).toBeVisible();
    const id = Number(/moves\/(\d+)/.exec(page.url())?.[1]);
    const Check = z.object({
      comparison: z.object({
        lines: z.array(
          z.object({
            title: z.string(),
            outcome: z.string(),
            foretold: z.string().nullable(),
            reasons: z.array(z.string()),
            settings: z.array(z.unknown()),
          }),
        ),
      }),
    });
    const answer = await page.request.get(`${stack.address}/api/moves/${id}/check`);
    const { lines } = Check.parse(await answer.json()).comparison;
    expect(lines.filter((l) => l.foretold !== null && l.foretold !== l.outcome)).toEqual([]);
    expect(lines.filter((l) => l.outcome === 'whole').length).toBeGreaterThan(10);
  });
});
