import { execFileSync } from 'node:child_process';
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { cartridge, zipOf } from './packages';
import { expect, expectAccessible, signIn, test } from './stack';

const file = (name: string, buffer: Buffer) => ({ name, mimeType: 'application/octet-stream', buffer });
const choose = (page: Page, name: string, buffer: Buffer) =>
  page.getByLabel('Choose a package').setInputFiles(file(name, buffer));

test.describe('The Bench', () => {
  test.beforeEach(({ page, stack }) => signIn(page, stack, '/bench'));

  test('a cartridge is read in the browser, converted to the other version and taken away', async ({ page }) => {
    const sent: string[] = [];
    page.on('request', (request) => {
      if (request.method() !== 'GET') sent.push(request.url());
    });
    await choose(page, 'ropes.imscc', await zipOf(cartridge('1.1')));
    await expect(page.getByRole('heading', { level: 1 })).toHaveText('Ropes and lines');
    await page.getByRole('region', { name: 'Outline' }).getByRole('button', { name: 'The anatomy of a rope' }).click();
    await expect(page.frameLocator('iframe').getByText('Fibre, yarn, strand, rope.')).toBeVisible();
    await expectAccessible(page);
    await page.getByLabel('Format to convert to').selectOption({ label: 'Common Cartridge 1.3' });
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Convert to Common Cartridge 1.3' }).click(),
    ]);
    const converted = await readFile(await download.path());
    expect(converted.includes('rope.html')).toBe(true);
    await choose(page, download.suggestedFilename(), converted);
    await expect(page.getByText('Common Cartridge 1.3, 2 items')).toBeVisible();
    await expect(page.getByRole('button', { name: 'Convert to Common Cartridge 1.1' })).toBeVisible();
    expect(sent).toEqual([]);
  });

  test('a file that the manifest names and that is not there is told, and the rest read', async ({ page }) => {
    const resources = '<resource identifier="r3" type="webcontent" href="gone.pdf"><file href="gone.pdf"/></resource>';
    await choose(page, 'gap.imscc', await zipOf(cartridge('1.3', { resources })));
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
      await choose(page, 'ropes.tar.gz', await readFile(join(folder, 'ropes.tar.gz')));
      await expect(page.getByRole('heading', { level: 1 })).toHaveText('Ropes and lines');
      await page.getByRole('button', { name: '2 notes' }).click();
      await expect(page.getByText('The package is a gzipped tar, not a zip.')).toBeVisible();
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
      await choose(page, name, await make());
      await expect(page.getByRole('alert')).toContainText(told);
      await choose(page, 'ropes.imscc', await zipOf(cartridge('1.1')));
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
