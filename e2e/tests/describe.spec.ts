import type { Page } from '@playwright/test';
import { zipOf } from './packages';
import { expect, expectAccessible, expectNoSidewaysScroll, signIn, test } from './stack';

/** An archive of a platform that nobody wrote a reader for. */
const satchel = () =>
  zipOf({
    'satchel.xml': `<satchel make="7"><called>Knots by night</called>
<pocket n="1"><called>Bends</called><paper n="11" text="t1"><called>Sheet bend</called></paper>
<task n="12" marks="5"><called>Tie one</called><say>Tie it <b>blind</b>.</say></task></pocket>
<seal>wax</seal></satchel>`,
    'texts.xml': '<texts><text n="t1"><p>Round the back, and <em>under</em>.</p></text></texts>',
    'mould.bin': Buffer.from([0, 1, 2]),
  });

const DESCRIPTION = `description: 1
id: satchel
name: Satchel
version: '7'
fits: { file: satchel.xml, has: /satchel/@make }
records:
  texts: { find: { in: texts.xml, at: /texts/text }, key: '@n' }
course: { find: { in: satchel.xml, at: /satchel }, title: called }
outline:
- find: pocket
  kind: folder
  id: '@n'
  title: called
  inside:
  - find: paper|task
    kind: { path: name(), table: { paper: page, task: assignment } }
    id: '@n'
    title: called
    text:
    - { path: '@text', look: texts, then: { path: ., as: inside } }
    - { path: say, as: inside }
    settings: { points: { path: '@marks', as: number } }
`;

const drop = async (page: Page) =>
  page
    .getByLabel(/Choose (packages|an archive)/)
    .setInputFiles({ name: 'knots.satchel', mimeType: 'application/octet-stream', buffer: await satchel() });

/** Puts a text into the editor in place of what is there. */
async function write(page: Page, text: string): Promise<void> {
  await page.getByRole('textbox', { name: 'Description' }).click();
  await page.keyboard.press('Control+a');
  await page.keyboard.insertText(text);
}

test.describe.serial('An archive that no reader is coded for', () => {
  test('is refused on the Bench, and brought along from there to be described', async ({ page, stack }) => {
    await signIn(page, stack, '/bench');
    await drop(page);
    await page.getByRole('button', { name: 'Describe this archive' }).click();
    await expect(page.getByText('knots.satchel')).toBeVisible();
    // What can be guessed is a beginning: the pockets, and what stands in them.
    await expect(page.getByRole('region', { name: 'Outline that results' })).toContainText('Bends');
    await page.getByRole('radio', { name: /^Files/ }).click();
    await page.getByRole('button', { name: 'texts.xml' }).click();
    await expect(page.getByLabel('texts.xml')).toContainText('Round the back');
    await page.getByRole('button', { name: 'mould.bin' }).click();
    await expect(page.getByLabel('mould.bin')).toContainText('This file is no text.');
    await page.getByRole('radio', { name: 'Words' }).click();
    await expect(page.getByRole('region', { name: 'Words of a description' })).toContainText('again');
  });

  test('shows as it is described what is found, what is wrong, and what is still foreign', async ({ page, stack }) => {
    await signIn(page, stack, '/bench/describe');
    await drop(page);
    await write(page, DESCRIPTION);
    const outline = page.getByRole('region', { name: 'Outline that results' });
    await expect(page.getByRole('heading', { name: '2 items in 1 folder' })).toBeVisible();
    await expect(outline).toContainText('Sheet bend');
    await page.getByRole('radio', { name: /Still foreign/ }).click();
    const foreign = page.getByRole('region', { name: 'Still foreign' });
    await expect(foreign).toContainText('seal');
    await expect(foreign).toContainText('mould.bin');
    await expectAccessible(page);
    await expectNoSidewaysScroll(page);
    await page.getByRole('radio', { name: /Records found/ }).click();
    const records = page.getByRole('region', { name: 'Records found' });
    await expect(records.getByRole('row', { name: 'text 2' })).toContainText('Round the back');
    await write(page, DESCRIPTION.replace('title: called\n  inside', 'titel: called\n  inside'));
    await expect(page.getByText('titel is no word of outline.0.')).toBeVisible();
    await expect(page.getByText('as before the slip')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Keep version 1' })).toBeDisabled();
    await page.getByRole('button', { name: 'line 13' }).click();
    await write(page, DESCRIPTION);
    await page.getByRole('button', { name: 'Keep version 1' }).click();
    await expect(page.getByText('Version 1 is kept.')).toBeVisible();
  });

  test('is then read like any other: looked into, converted, kept in the strongroom', async ({ page, stack }) => {
    await signIn(page, stack, '/bench');
    await drop(page);
    await expect(page.getByRole('heading', { level: 1 })).toHaveText('Knots by night');
    await expect(page.getByText('Satchel 7, 2 items')).toBeVisible();
    await page.getByRole('button', { name: 'Sheet bend' }).click();
    await expect(page.frameLocator('iframe').getByText('Round the back, and under.')).toBeVisible();
    await page.getByRole('button', { name: 'Keep a copy…' }).click();
    await page.getByRole('button', { name: 'Keep a copy', exact: true }).click();
    await expect(page.getByText('See it in the strongroom')).toBeVisible();
    await page.getByText('See it in the strongroom').click();
    await page.getByRole('row', { name: 'Knots by night' }).click();
    await expect(page.getByText('Satchel 7').first()).toBeVisible();
  });

  test('has its description in versions, and the newest counts', async ({ page, stack }) => {
    await signIn(page, stack, '/bench/describe');
    await page.getByRole('button', { name: 'Begin with…' }).click();
    await page.getByRole('menuitem', { name: 'Satchel, version 1' }).click();
    await expect(page.getByRole('textbox', { name: 'Description' })).toContainText('satchel.xml');
    await page.getByLabel('read archives by it').uncheck();
    await page.getByLabel('What changed').fill('Not before it is looked at again');
    await page.getByRole('button', { name: 'Keep version 2' }).click();
    await expect(page.getByText('Version 2 is kept, and not used yet.')).toBeVisible();
    await expect(page.getByLabel('Earlier versions')).toContainText('Not before it is looked at again');
    await page.goto(`${stack.address}/bench`);
    await drop(page);
    await expect(page.getByRole('button', { name: 'Describe this archive' })).toBeVisible();
  });
});
