import * as z from 'zod';
import type { Page } from '@playwright/test';
import { expect, expectAccessible, signIn, test, type Stack } from './stack';

const Check = z.object({
  comparison: z.object({
    lines: z.array(
      z.object({
        title: z.string(),
        outcome: z.string(),
        predicted: z.string().nullable(),
        reasons: z.array(z.string()),
        settings: z.array(z.unknown()),
      }),
    ),
  }),
});

/** What arrived otherwise than it was foretold, of a check that has something to say. */
async function strays(page: Page, stack: Stack) {
  const id = /moves\/(\d+)/.exec(page.url())?.[1] ?? '';
  const ask = () => page.request.get(`${stack.address}/api/moves/${id}/check`);
  await expect.poll(async () => (await ask()).ok(), { timeout: 120_000 }).toBe(true);
  const answer = await ask();
  const { lines } = Check.parse(await answer.json()).comparison;
  expect(lines.filter((l) => l.outcome === 'whole').length).toBeGreaterThan(10);
  return lines.filter((l) => l.predicted !== null && l.predicted !== l.outcome);
}

const COURSE = /NAV 101-02/;

test.describe.serial("A course carried in the destination's own archive", () => {
  test('is foretold beside the cartridge, and is taken unless a person chooses otherwise', async ({ page, stack }) => {
    await signIn(page, stack, '/courses');
    await page.getByRole('row', { name: COURSE }).getByRole('button', { name: 'Move…' }).click();
    await page.getByRole('button', { name: 'Start by fetching' }).click();
    await page.waitForURL(/moves\/\d+/);
    await page.getByRole('link', { name: /Dry fit.*reworked/s }).click({ timeout: 120_000 });
    const forms = page.getByRole('radiogroup', { name: 'Carried as' });
    const crate = forms.getByRole('radio', { name: /Tarnhall crate/ });
    const cartridge = forms.getByRole('radio', { name: /Common Cartridge 1\.3/ });
    await expect(crate).toBeChecked();
    await expect(page.getByText(/Tarnhall crate keeps (the most|as much)/)).toBeVisible();
    await cartridge.click();
    await expect(cartridge).toBeChecked();
    await crate.click();
    await expect(crate).toBeChecked();
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
    await expect(page.getByText(/^Tarnhall crate, /).first()).toBeVisible();
  });

  test('arrives as it was foretold, line by line', async ({ page, stack }) => {
    await signIn(page, stack, '/moves');
    await page.getByRole('link', { name: COURSE }).first().click();
    await page.getByRole('button', { name: /^Deliver into/ }).click();
    await expect(page.getByText('The crate was read:').first()).toBeVisible({ timeout: 120_000 });
    await page.getByRole('link', { name: 'See the check' }).click({ timeout: 120_000 });
    expect(await strays(page, stack)).toEqual([]);
  });
});

test.describe.serial("A course's archive put back on a platform of its own kind", () => {
  const TITLE = 'EST 120-01';
  const Instance = z.object({ name: z.string() });
  const Courses = z.object({ rows: z.array(z.object({ id: z.number(), code: z.string(), instance: Instance })) });
  const Copies = z.object({ rows: z.array(z.object({ code: z.string(), form: z.string() })) });

  test('is foretold to come back whole, and does: rules, gradebook, checklist and all', async ({ page, stack }) => {
    await signIn(page, stack, '/courses');
    const ask = async <S extends z.ZodType>(path: string, schema: S): Promise<z.infer<S>> =>
      schema.parse(await (await page.request.get(`${stack.address}/api/${path}`)).json());
    const course = (await ask('courses?limit=1000', Courses)).rows.find(
      (c) => c.code === 'EST 120' && c.instance.name === 'Marrowick Live',
    );
    const options = { form: 'archive', parts: null, copyLinked: true, personal: false, reason: '', removeAfter: true };
    await page.request.post(`${stack.address}/api/fetches`, { data: { courseIds: [course?.id], options } });
    await expect
      .poll(
        async () =>
          (await ask('copies?limit=1000', Copies)).rows.some((c) => c.code === 'EST 120' && c.form === 'archive'),
        {
          timeout: 120_000,
        },
      )
      .toBe(true);
    await page.reload();
    await page.getByRole('row', { name: TITLE }).getByRole('button', { name: 'Move…' }).click();
    await page.getByRole('radio', { name: 'A copy that is kept' }).check();
    await page.getByRole('combobox', { name: 'Destination' }).click();
    await page.getByRole('option', { name: 'Marrowick Rehearsal' }).click();
    await page.getByRole('button', { name: 'Start with the copy' }).click();
    await page.getByRole('link', { name: /Dry fit.*0 reworked, 0 left behind/s }).click({ timeout: 120_000 });
    await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
    await page.getByRole('link', { name: 'Go to the delivery' }).click({ timeout: 120_000 });
    await page.getByRole('button', { name: /^Deliver into/ }).click();
    await page.getByRole('link', { name: 'See the check' }).click({ timeout: 90_000 });
    expect(await strays(page, stack)).toEqual([]);
  });

  test('arrives in a cartridge, where a person chooses that, with losses that were foretold', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack, '/courses?words=SAI');
    await page
      .getByRole('row', { name: /SAI 160-01/ })
      .getByRole('button', { name: 'Move…' })
      .click();
    await page.getByRole('combobox', { name: 'Destination' }).click();
    await page.getByRole('option', { name: 'Marrowick Rehearsal' }).click();
    await page.getByRole('button', { name: 'Start by fetching' }).click();
    await page.getByRole('link', { name: /Dry fit.*reworked/s }).click({ timeout: 120_000 });
    const forms = page.getByRole('radiogroup', { name: 'Carried as' });
    await expect(page.getByText('Quernhold archive keeps the most.')).toBeVisible();
    await forms.getByRole('radio', { name: /Common Cartridge 1\.1/ }).click();
    const cartridge = forms.getByRole('radio', { name: /Common Cartridge 1\.1/ });
    await expect(cartridge).toBeChecked();
    await page.getByRole('radio', { name: 'not whole' }).click();
    await page
      .getByRole('button', { name: /quiz|check/i })
      .first()
      .click();
    await expect(page.getByText("Quernhold drops the time limits of a cartridge's tests").first()).toBeVisible();
    await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
    await page.getByRole('link', { name: 'Go to the delivery' }).click({ timeout: 120_000 });
    await page.getByRole('button', { name: /^Deliver into/ }).click();
    await expect(page.getByText(/files were taken in, their names made lower case/).first()).toBeVisible({
      timeout: 120_000,
    });
    await page.getByRole('link', { name: 'See the check' }).click({ timeout: 90_000 });
    expect(await strays(page, stack)).toEqual([]);
  });
});
