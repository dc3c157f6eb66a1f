import { readFile } from 'node:fs/promises';
import type { Page } from '@playwright/test';
import * as z from 'zod';
import { expect, expectAccessible, signIn, test, type Stack } from './stack';

interface Part {
  ref: string;
  title: string;
  kind: string;
  inside: Part[];
}
const Part: z.ZodType<Part> = z.object({
  ref: z.string(),
  title: z.string(),
  kind: z.string(),
  get inside() {
    return z.array(Part);
  },
});
const Parts = z.object({ parts: z.array(Part) });
const Members = z.object({ learners: z.array(z.string()), work: z.array(z.string()), refs: z.array(z.string()) });
const Courses = z.object({ courses: z.array(z.object({ id: z.string(), code: z.string(), section: z.string() })) });

/** What Quernhold says of itself, by its own interface. */
async function there<T extends z.ZodType>(stack: Stack, path: string, shape: T, method = 'GET', json?: unknown) {
  const answer = await fetch(`${stack.quernhold}/api${path}`, {
    method,
    headers: { 'X-Quernhold-Token': stack.tokens.quernhold, 'content-type': 'application/json' },
    ...(json === undefined ? {} : { body: JSON.stringify(json) }),
  });
  return shape.parse(answer.status === 204 ? null : await answer.json());
}

const flat = (parts: readonly Part[]): string[] =>
  parts.flatMap((p) => [`${p.kind} ${p.ref} ${p.title}`, ...flat(p.inside)]);
const outline = async (stack: Stack, course: string) =>
  flat((await there(stack, `/courses/${course}/parts`, Parts)).parts).sort();
const members = (stack: Stack, course: string) => there(stack, `/courses/${course}/members`, Members);

/** Goes on to the delivery: by itself where nothing is lost, else once a person has seen what is. */
async function passed(page: Page): Promise<void> {
  const accept = page.getByRole('button', { name: 'Accept the fit, build the package' });
  const there = page.getByRole('heading', { name: /^Deliver/ });
  await expect(accept.or(there).first()).toBeVisible({ timeout: 120_000 });
  if (await accept.isVisible()) {
    await accept.click();
    await page.getByRole('link', { name: 'Go to the delivery' }).click({ timeout: 120_000 });
  }
  await expect(there).toBeVisible({ timeout: 60_000 });
}

// With the deliveries into courses that are there, whose stack it shares.
test.use({ own: 'into', actionTimeout: 30_000 });
test.describe.configure({ mode: 'serial' });

test.describe('A kept copy', () => {
  const COURSE = 'PAI 110-01';
  let course = '';
  let before: string[] = [];
  let lost: Part | undefined;

  test('is restored into its course, in place of what became of that, and arrives exactly; and is taken back', async ({
    page,
    stack,
  }) => {
    test.setTimeout(240_000);
    const { courses } = await there(stack, '/courses', Courses);
    course = courses.find((c) => `${c.code}-${c.section}` === COURSE)?.id ?? '';
    before = await outline(stack, course);
    const { learners } = await members(stack, course);
    await signIn(page, stack, `/courses?words=${encodeURIComponent(COURSE)}`);
    await page.getByRole('row', { name: COURSE }).getByRole('checkbox').check();
    await page.getByRole('button', { name: 'Fetch 1 course…' }).click();
    await page.getByRole('button', { name: 'Fetch the course' }).click();
    await page.goto(`${stack.address}/strongroom?words=${encodeURIComponent(COURSE)}`);
    await expect(page.getByRole('heading', { name: /^PAI 110-01/ })).toBeVisible({ timeout: 90_000 });
    // Somebody takes a folder away, and calls a page otherwise.
    const { parts } = await there(stack, `/courses/${course}/parts`, Parts);
    lost = parts.find((p) => p.inside.some((below) => below.kind === 'page'));
    const page1 = parts.find((p) => p.kind === 'page');
    await there(stack, `/courses/${course}/nodes/${lost?.ref}`, z.null(), 'DELETE');
    await there(stack, `/courses/${course}/nodes/${page1?.ref}`, z.unknown(), 'PUT', { title: 'Oops' });
    const spoiled = await outline(stack, course);
    expect(spoiled.length).toBeLessThan(before.length);

    await page.getByRole('button', { name: 'Restore…' }).click();
    await expect(page.getByRole('radio', { name: /^All of it/ })).toBeChecked();
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Restore all of it at Marrowick Live' }).click();
    // It goes by itself as far as something would be taken out.
    await expect(page.getByText(/will be gone.*A copy of what is there is kept and read first/)).toBeVisible({
      timeout: 120_000,
    });
    await expect(page.getByText(/Restores all of the copy that was kept/)).toBeVisible();
    await expectAccessible(page);
    const meant = page.getByLabel('Type “Paints and Varnishes”: this is meant');
    if (await meant.isVisible()) await meant.fill('Paints and Varnishes');
    await page.getByRole('button', { name: 'Deliver in place of what is there' }).click();
    await page.getByRole('link', { name: 'See the check' }).click({ timeout: 120_000 });
    await expect(
      page.getByText(/^All \d+ items and places arrived as they were, with every setting that was compared/),
    ).toBeVisible({
      timeout: 120_000,
    });
    expect(await outline(stack, course)).toEqual(before);
    expect((await members(stack, course)).learners).toEqual(learners);

    await page.getByRole('link', { name: /^Deliver/ }).click();
    await page.getByRole('button', { name: 'Take this delivery back…' }).click();
    await page.getByRole('button', { name: 'Take it back' }).click();
    await expect(page.getByText('What was delivered was taken back')).toBeVisible({ timeout: 120_000 });
    expect(await outline(stack, course)).toEqual(spoiled);
  });

  test('gives back only what was chosen of it, and touches nothing else', async ({ page, stack }) => {
    const spoiled = await outline(stack, course);
    const [first] = lost?.inside.filter((below) => below.kind === 'page') ?? [];
    await signIn(page, stack, `/strongroom?words=${encodeURIComponent(COURSE)}`);
    // The oldest: what was kept before the delivery is of what became of it.
    await page.getByRole('row', { name: COURSE }).last().click();
    await page.getByRole('button', { name: 'Restore…' }).click();
    await page.getByRole('radio', { name: 'Chosen things' }).check();
    await page.getByLabel('Find by title or kind').fill(first?.title ?? '');
    await page
      .getByRole('checkbox', { name: first?.title ?? '' })
      .first()
      .check();
    await page.getByRole('radio', { name: /^Beside what is there/ }).check();
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Restore 1 item at Marrowick Live' }).click();
    // An archive would take the place of all: a cartridge leaves it there, and what that loses is seen first.
    await passed(page);
    await expect(page.getByText(/^What is there stays/)).toBeVisible({ timeout: 60_000 });
    await page.getByRole('button', { name: 'Deliver beside what is there' }).click();
    await page.getByRole('link', { name: 'See the check' }).click({ timeout: 120_000 });
    await expect(page.getByRole('link', { name: /Hand over.*report ready/s })).toBeVisible({ timeout: 120_000 });
    const after = await outline(stack, course);
    expect(after.filter((line) => !spoiled.includes(line)).map((line) => line.replace(/ \S+-n\d+/, ''))).toContain(
      `page ${first?.title}`,
    );
    expect(spoiled.filter((line) => !after.includes(line))).toEqual([]);
  });

  test('is given away in things: into another course, and as a file that holds them', async ({
    page,
    stack,
    complaints,
  }) => {
    await signIn(page, stack, `/strongroom?words=${encodeURIComponent(COURSE)}`);
    await page.getByRole('row', { name: COURSE }).last().click();
    await page.getByRole('button', { name: 'Give…' }).click();
    await page.getByLabel('Find by title or kind').fill('rubric');
    await page.getByRole('checkbox').last().check();
    await page.getByRole('combobox', { name: 'Format' }).click();
    await page.getByRole('option', { name: 'Common Cartridge 1.3', exact: true }).click();
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Make a file of 1 item' }).click();
    // A cartridge has no rubrics: a file without it would be no gift.
    await expect(page.getByText('has no place for what was chosen. Choose another format.')).toBeVisible();
    expect(complaints.splice(0)).toHaveLength(1);
    await page.getByRole('combobox', { name: 'Format' }).click();
    await page.getByRole('option', { name: 'Quernhold archive' }).click();
    await page.getByRole('button', { name: 'Make a file of 1 item' }).click();
    const file = page.getByRole('listitem').filter({ hasText: 'Given: rubric' }).getByRole('link');
    await expect(file).toBeVisible({ timeout: 60_000 });
    const [download] = await Promise.all([page.waitForEvent('download'), file.click()]);
    expect(download.suggestedFilename()).toMatch(/Practical-work.*\.quern$/);
    const bytes = await readFile(await download.path());
    // Gzip, as all of Quernhold's archives.
    expect([...bytes.subarray(0, 2)]).toEqual([0x1f, 0x8b]);

    await page.getByRole('button', { name: 'Give…' }).click();
    await page.getByRole('checkbox', { name: /page$/ }).first().check();
    await page.getByRole('radio', { name: /^Another course/ }).check();
    await page.getByRole('combobox', { name: 'Instance' }).click();
    await page.getByRole('option', { name: 'Marrowick New' }).click();
    await page.getByRole('button', { name: 'Give 1 item at Marrowick New' }).click();
    await page.waitForURL(/moves\/\d+/);
    await expect(page.getByText(/Gives 1 chosen item of the copy/)).toBeVisible();
    await passed(page);
    await page.getByRole('button', { name: /^Into a course that is there/ }).click({ timeout: 60_000 });
    await page.getByRole('radio', { name: /STF 001/ }).check();
    await page.getByRole('button', { name: 'Go beside what is there' }).click();
    await page.getByRole('button', { name: 'Deliver beside what is there' }).click();
    await page.getByRole('link', { name: 'See the check' }).click({ timeout: 120_000 });
    await expect(page.getByRole('link', { name: /Hand over.*report ready/s })).toBeVisible({ timeout: 120_000 });
    // What was done with the copy stands with it.
    await page.goto(`${stack.address}/strongroom?words=${encodeURIComponent(COURSE)}`);
    await page.getByRole('row', { name: COURSE }).last().click();
    await expect(page.getByRole('listitem').filter({ hasText: 'Given: page' })).toContainText('to Marrowick New');
    await expect(page.getByRole('listitem').filter({ hasText: 'Restored: all of it' })).toBeVisible();
  });
});
