import { execFileSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { cartridge, zipOf } from './packages';
import { expect, expectAccessible, signIn, test, choose } from './stack';

const file = (name: string, buffer: Buffer) => ({ name, mimeType: 'application/octet-stream', buffer });
const bring = (page: Page, name: string, buffer: Buffer) =>
  page.getByLabel('Choose packages').setInputFiles(file(name, buffer));

test.describe('The Bench', () => {
  test.beforeEach(({ page, stack }) => signIn(page, stack, '/bench'));

  test('a cartridge is read in the browser, converted to the other version and taken away', async ({ page }) => {
    const sent: string[] = [];
    page.on('request', (request) => {
      if (request.method() !== 'GET') sent.push(request.url());
    });
    await bring(page, 'ropes.imscc', await zipOf(cartridge('1.1')));
    await expect(page.getByRole('heading', { level: 1 })).toHaveText('Ropes and lines');
    await page.getByRole('region', { name: 'Outline' }).getByRole('button', { name: 'The anatomy of a rope' }).click();
    await expect(page.frameLocator('iframe').getByText('Fibre, yarn, strand, rope.')).toBeVisible();
    await expectAccessible(page);
    await choose(page, 'Format to convert to', 'Common Cartridge 1.3');
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Convert to Common Cartridge 1.3' }).click(),
    ]);
    const converted = await readFile(await download.path());
    expect(converted.includes('rope.html')).toBe(true);
    await bring(page, download.suggestedFilename(), converted);
    await expect(page.getByText('Common Cartridge 1.3, 2 items')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Convert to Common Cartridge 1.1' })).toBeVisible();
    expect(sent).toEqual([]);
  });

  test('a course is re-dated, cut in two and joined again, and what is made lies on the Bench', async ({ page }) => {
    const sheet = (id: string, words: string) => ({
      [`${id}.html`]: `<html lang="en"><body><p>${words}</p></body></html>`,
    });
    const place = (id: string, title: string) =>
      `<item identifier="i-${id}" identifierref="${id}"><title>${title}</title></item>`;
    const resource = (id: string) =>
      `<resource identifier="${id}" type="webcontent" href="${id}.html"><file href="${id}.html"/></resource>`;
    const manifest = `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imsccv1p3/imscp_v1p1"><metadata>
      <schema>IMS Common Cartridge</schema><schemaversion>1.3.0</schemaversion></metadata><organizations>
      <organization identifier="o" structure="rooted-hierarchy"><item identifier="root">
        <item identifier="f1"><title>Autumn half</title>${place('moon', 'The moon')}</item>
        <item identifier="f2"><title>Spring half</title>${place('sun', 'The sun')}</item>
      </item></organization></organizations>
      <resources>${resource('moon')}${resource('sun')}</resources></manifest>`;
    const files = {
      'imsmanifest.xml': manifest,
      ...sheet('moon', 'Watch it by Friday 18 September, then see <a href="sun.html">the sun</a>.'),
      ...sheet('sun', 'The sun pulls too.'),
    };
    await bring(page, 'tides.imscc', await zipOf(files));
    await page.getByRole('radio', { name: 're-date' }).click();
    await page.getByRole('radio', { name: 'Week for week' }).click();
    await choose(page, 'From the term', 'Autumn 2026');
    await choose(page, 'Into the term', 'Spring 2027');
    await page.getByRole('button', { name: 'Put new dates into the texts' }).click();
    await page.getByRole('button', { name: 'Use these dates' }).click();
    await expect(page.getByRole('button', { name: 'These dates are used' })).toBeVisible();
    await expectAccessible(page);
    await page.getByRole('radio', { name: 'split' }).click();
    const parts = page.getByRole('region', { name: 'The parts' });
    await expect(parts).toContainText('The moon links to “The sun”');
    await expectAccessible(page);
    await choose(page, 'Format to convert to', 'Common Cartridge 1.1');
    await page.getByRole('button', { name: 'Put the 2 courses on the Bench' }).click();
    await expect(page.getByRole('heading', { level: 1 })).toHaveText('3 files');
    await page.getByRole('button', { name: /Autumn half_cc11/ }).click();
    await page.getByRole('region', { name: 'Outline' }).getByRole('button', { name: 'The moon' }).click();
    await expect(page.frameLocator('iframe').getByText('Watch it by Friday 15 January')).toBeVisible();
    // What is joined lies here too.
    await page.getByRole('button', { name: 'Join with…' }).click();
    await page.getByRole('menuitem', { name: /Spring half/ }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog).toContainText('1 item and 1 item: none is in both.');
    await expectAccessible(page);
    await dialog.getByLabel('Title of the whole').fill('Tides, the whole');
    await dialog.getByRole('button', { name: 'Join them' }).click();
    await expect(page.getByRole('heading', { level: 1 })).toHaveText('4 files');
    await page.getByRole('button', { name: /^Tides, the whole/ }).click();
    await expect(page.getByRole('region', { name: 'Outline' })).toContainText('Spring half');
    await page.getByRole('button', { name: 'Keep a copy…' }).waitFor();
  });

  test('a file that the manifest names and that is not there is told, and the rest read', async ({ page }) => {
    const resources = '<resource identifier="r3" type="webcontent" href="gone.pdf"><file href="gone.pdf"/></resource>';
    await bring(page, 'gap.imscc', await zipOf(cartridge('1.3', { resources })));
    await page.getByRole('button', { name: '1 note' }).click();
    await expect(page.getByText('The manifest names gone.pdf, which is not in the package.')).toBeVisible();
    await expect(page.getByRole('region', { name: 'Outline' })).toContainText('A rope dictionary');
  });

  test('a gzipped tar of a folder is read as if it were the package', async ({ page }) => {
    const folder = await mkdtemp(join(tmpdir(), 'treenail-tar-'));
    try {
      await mkdir(join(folder, 'ropes'));
      for (const [path, body] of Object.entries(cartridge('1.3'))) await writeFile(join(folder, 'ropes', path), body);
      execFileSync('tar', ['-czf', 'ropes.tar.gz', 'ropes'], { cwd: folder });
      await bring(page, 'ropes.tar.gz', await readFile(join(folder, 'ropes.tar.gz')));
      await expect(page.getByRole('heading', { level: 1 })).toHaveText('Ropes and lines');
      await page.getByRole('button', { name: '2 notes' }).click();
      await expect(page.getByText('The package is a gzipped tar, not a zip.')).toBeVisible();
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  });

  test('many files are looked at side by side, kept with one press, and moved from the strongroom', async ({
    page,
    stack,
  }) => {
    const named = (title: string) => {
      const files = cartridge('1.3');
      return zipOf({ ...files, 'imsmanifest.xml': String(files['imsmanifest.xml']).replace('Ropes and lines', title) });
    };
    await page
      .getByLabel('Choose packages')
      .setInputFiles([
        file('FSH220-01_2026-Autumn_Hatchery-Practice_2026-09-01.imscc', await named('Hatchery Practice')),
        file('notes.pdf', Buffer.from('%PDF-1.7 nothing')),
        file('x.imscc', await named('SAI 160-02 Sailmaking by hand')),
      ]);
    await expect(page.getByRole('heading', { level: 1 })).toHaveText("3 files, 1 can't be read");
    await expect(page.getByRole('row', { name: 'notes.pdf' })).toContainText('not a zip file');
    await expectAccessible(page);
    await page.getByRole('button', { name: 'x.imscc' }).click();
    await expect(page.getByRole('heading', { level: 1 })).toHaveText('SAI 160-02 Sailmaking by hand');
    await page.getByRole('button', { name: 'Back to all 3' }).click();
    await page.getByRole('button', { name: 'Keep 2 copies' }).click();
    await expect(page.getByRole('link', { name: 'kept', exact: true })).toHaveCount(2);
    await page.getByRole('link', { name: 'kept', exact: true }).first().click();
    await expect(page.getByRole('row', { name: /FSH 220-01.*Autumn 2026.*Files/ })).toBeVisible();
    await page.goto(`${stack.address}/courses`);
    await choose(page, 'Narrow to an instance', 'from files');
    await page.getByRole('row', { name: 'Sailmaking by hand' }).getByRole('button', { name: 'Move…' }).click();
    await page.getByRole('button', { name: 'Start with the copy' }).click();
    await expect(page.getByRole('link', { name: /Dry fit/ })).toContainText('left behind');
    await page.getByRole('link', { name: /Fetch/ }).click();
    await expect(page.getByText('from the strongroom')).toBeVisible();
  });

  test('a loose folder is read; its upload, broken off by a reload, goes on from what had arrived', async ({
    page,
  }) => {
    const folder = await mkdtemp(join(tmpdir(), 'treenail-folder-'));
    try {
      await mkdir(join(folder, 'ropes'));
      for (const [path, body] of Object.entries(cartridge('1.1'))) await writeFile(join(folder, 'ropes', path), body);
      await page.getByLabel('Choose a folder').setInputFiles(join(folder, 'ropes'));
      await expect(page.getByText('Common Cartridge 1.1, 2 items')).toBeVisible();
      await writeFile(
        join(folder, 'long.imscc'),
        await zipOf(cartridge('1.1', { files: { 'long.bin': randomBytes(24 << 20) } })),
      );
      const keep = async () => {
        await page.getByLabel('Choose packages').setInputFiles(join(folder, 'long.imscc'));
        await page.getByRole('button', { name: 'Keep a copy…' }).click();
        await page.getByLabel('Code').fill('RIG 140');
        await page.getByRole('dialog').getByRole('button', { name: 'Keep a copy' }).click();
      };
      const line = await page.context().newCDPSession(page);
      await line.send('Network.emulateNetworkConditions', {
        offline: false,
        latency: 0,
        downloadThroughput: -1,
        uploadThroughput: 3 << 20,
      });
      const begun = page.waitForRequest((r) => r.method() === 'PATCH');
      await keep();
      await begun;
      await expect(page.getByText(/[1-9][\d.]*\sMB of 25/)).toBeVisible();
      await line.send('Network.emulateNetworkConditions', {
        offline: false,
        latency: 0,
        downloadThroughput: -1,
        uploadThroughput: -1,
      });
      await page.reload();
      const goesOn = page.waitForRequest((r) => r.method() === 'PATCH');
      await keep();
      expect(Number((await goesOn).headers()['upload-offset'])).toBeGreaterThan(1 << 20);
      await page.getByRole('link', { name: 'See it in the strongroom' }).click();
      await expect(page.getByRole('row', { name: /RIG 140.*Ropes and lines/ })).toBeVisible();
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  });

  const bomb = `<!DOCTYPE m [<!ENTITY a "aaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]><manifest>&b;</manifest>`;
  const wrong: [what: string, name: string, make: () => Promise<Buffer>, told: RegExp][] = [
    ['not a zip', 'notes.pdf', async () => Buffer.from('%PDF-1.7 nothing'), /not a zip file/],
    ['a zip without a manifest or a page', 'a.zip', () => zipOf({ 'a.txt': 'x' }), /no imsmanifest\.xml/],
    [
      'a truncated zip',
      'cut.imscc',
      async () => (await zipOf(cartridge('1.1'))).subarray(0, -200),
      /its end is missing or damaged/,
    ],
    [
      'a manifest that is not XML',
      'x.imscc',
      () => zipOf({ 'imsmanifest.xml': '<manifest>\n<oops' }),
      /not well-formed/,
    ],
    ['an entity bomb', 'bomb.imscc', () => zipOf({ 'imsmanifest.xml': bomb }), /declares entities of its own/],
    [
      'an entry that would leave the folder',
      'out.imscc',
      async () => leaving(await zipOf({ ...cartridge('1.1'), 'xx/yy/evil.html': 'x' })),
      /outside the package's folder/,
    ],
  ];
  for (const [what, name, make, told] of wrong) {
    test(`refuses ${what}, says what to do, and takes the next file`, async ({ page }) => {
      await bring(page, name, await make());
      await expect(page.getByRole('alert')).toContainText(told);
      await bring(page, 'ropes.imscc', await zipOf(cartridge('1.1')));
      await expect(page.getByRole('alert')).toHaveCount(0);
      await expect(page.getByRole('heading', { level: 1 })).toHaveText('Ropes and lines');
    });
  }
});

/** No honest zip library writes such a name, so it is put in afterwards, in the same length. */
function leaving(zip: Buffer): Buffer {
  const out = Buffer.from(zip);
  for (let at = out.indexOf('xx/yy/evil'); at >= 0; at = out.indexOf('xx/yy/evil', at)) out.write('../../evil', at);
  return out;
}
