import { readFile } from 'node:fs/promises';
import type { Locator, Page } from '@playwright/test';
import { cartridge, zipOf } from './packages';
import { expect, expectAccessible, expectNoSidewaysScroll, signIn, test, type Stack, choose } from './stack';

/** From what is found in a course to a package without it: decided by a person, undone, used again, and checked. */
test.use({ own: 'tidy' });
test.describe.configure({ mode: 'serial' });

const file = (name: string, buffer: Buffer) => ({ name, mimeType: 'application/octet-stream', buffer });

test.describe('Look inside and tidy', () => {
  const findings = (page: Page): Locator => page.getByRole('region', { name: 'Findings' });
  const mend = (page: Page) => page.getByRole('button', { name: /^Mend/ });
  /** The working copy follows what was decided. */
  const followed = (page: Page) => expect(page.getByText('the working copy follows')).toBeHidden({ timeout: 90_000 });

  test('what was fetched can be gone through in many orders, searched, and counted', async ({ page, stack }) => {
    test.setTimeout(180_000);
    await startMove(page, stack, 'BTB 210');
    await page.goto(`${stack.address}/moves/1/look`);
    const outline = page.getByRole('region', { name: 'Outline' });
    await page.getByRole('button', { name: 'Fold Week 1: Reading the boat' }).click();
    await expect(outline.getByRole('button', { name: 'Parts of a clinker hull' })).toBeHidden();
    await choose(page, 'In which order', 'the biggest first');
    await expect(outline.getByRole('button').first()).toHaveText('Caulking');
    await choose(page, 'In which order', 'by what points at it');
    await expect(outline).toContainText('2 point at it');
    await page.getByLabel('Search titles and texts').fill('“ROLLED in”');
    const found = page.getByRole('region', { name: 'Found' });
    await expect(found.getByRole('button')).toHaveCount(2);
    await found.getByRole('button', { name: /^Caulking/ }).click();
    const preview = page.getByRole('region', { name: 'Preview' });
    await expect(preview.frameLocator('iframe').locator('mark').first()).toHaveText('rolled in');
    await preview.getByText(/Pointed at by/).click();
    await preview.getByRole('button', { name: 'Paying the seam' }).click();
    await expect(preview.getByRole('heading', { name: 'Paying the seam' })).toBeVisible();
    await page.getByLabel('Search titles and texts').fill('');
    await choose(page, 'In which order', 'as its author built it');
    await outline.getByRole('button', { name: 'Plan of the shed (PDF)' }).click();
    await expect(preview.getByText(/^\d pages?$/)).toBeVisible();
    await expect(preview.locator('canvas').first()).toBeVisible();
    await expectAccessible(page);
    await page.getByRole('radio', { name: 'what is in it' }).click();
    await expect(page.getByText(/of which\s*2\.0.kB\s*in\s*1 file that nothing uses/)).toBeVisible();
    await expect(page.locator('tn-inventory-view section', { hasText: 'Sites it leads to' })).toContainText(
      'films.marrowick.example',
    );
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'CSV' }).click(),
    ]);
    expect(await readFile(await download.path(), 'utf8')).toContain('Biggest files');
    await expectAccessible(page);
    await expectNoSidewaysScroll(page);
  });

  test('a finding is mended as suggested, shown before and after, and undone', async ({ page, stack }) => {
    await signIn(page, stack, '/moves/1/tidy');
    await page.getByRole('checkbox', { name: 'open only' }).click();
    await findings(page)
      .getByRole('button', { name: /tool book/ })
      .click();
    // What pages link to of the shared repository came along with the fetch; that is a decision like any other.
    await expect(page.getByText('linked files were asked for with the fetch')).toBeVisible();
    await expect(page.getByRole('link', { name: /Tidy.*2 of \d+ decided/s })).toBeVisible();
    await page.getByRole('button', { name: 'Undo' }).click();
    await followed(page);
    const trial = page.getByLabel('What it would change');
    await expect(trial).toContainText('href="files/tool-book.pdf"');
    await mend(page).click();
    await expect(page.getByText('Lead it to content/files/tool-book.pdf')).toBeVisible();
    await followed(page);
    await expect(page.getByRole('link', { name: /Tidy.*2 of \d+ decided/s })).toBeVisible();
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByRole('radio').first()).toBeVisible();
    await followed(page);
    await expectAccessible(page);
    await expectNoSidewaysScroll(page);
  });

  test('a link is led to a page that a person chooses, a file is copied in, and a reason is asked for', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack, '/moves/1/tidy');
    await findings(page)
      .getByRole('button', { name: /glossary/ })
      .click();
    await page.getByLabel('Where it is to lead').fill('words for');
    await page.getByRole('option', { name: 'Words for fastenings' }).click();
    await expect(page.getByLabel('What it would change')).toContainText('href="words-for-fastenings.html"');
    await mend(page).click();
    await expect(page.getByRole('button', { name: 'Undo' })).toBeVisible();
    await page.getByRole('checkbox', { name: 'open only' }).click();
    await findings(page)
      .getByRole('button', { name: /Eye protection/ })
      .click();
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('radio', { name: 'Copy the file in' }).check();
    await mend(page).click();
    await expect(page.getByRole('button', { name: 'Undo' })).toBeVisible();
    // What is no page can be led to as well: each format has its own address for it.
    await findings(page)
      .getByRole('button', { name: /test of names/ })
      .click();
    await page.getByRole('radio', { name: 'Lead it to “Names of the parts”' }).check();
    await mend(page).click();
    await expect(page.getByRole('button', { name: 'Undo' })).toBeVisible();
    await findings(page)
      .getByRole('button', { name: /\{~tutor\.name~\}/ })
      .click();
    await page.getByRole('radio', { name: /Leave it as it is/ }).check();
    await expect(page.getByRole('button', { name: 'Leave this one' })).toBeDisabled();
    await page.getByLabel('Reason').fill('Tarnhall greets by itself');
    await page.getByRole('button', { name: 'Leave this one' }).click();
    await expect(page.getByText('Left as it is: Tarnhall greets by itself')).toBeVisible();
    await followed(page);
  });

  test('a rule is kept under a name and mends another course', async ({ page, stack }) => {
    test.setTimeout(90_000);
    const other = await startMove(page, stack, 'NAV 101');
    await page.goto(`${stack.address}/moves/1/tidy`);
    await page.getByRole('navigation', { name: 'Kinds of findings' }).getByRole('button', { name: /Icons/ }).click();
    await findings(page).getByRole('button').first().click();
    await page.getByRole('radio', { name: 'all 2 of this kind' }).click();
    await page.getByRole('button', { name: 'Keep as a rule' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('Name of the rule').fill('Icons to symbols');
    await dialog.getByRole('button', { name: 'Keep the rule' }).click();
    await expect(dialog.getByText('NAV 101-02')).toBeVisible();
    await expectAccessible(page);
    await dialog.getByRole('button', { name: 'Mend in 1 course' }).click();
    await expect(dialog).toBeHidden();
    await page.goto(`${stack.address}/moves/${other}/tidy`);
    await page.getByRole('checkbox', { name: 'open only' }).click();
    await findings(page)
      .getByRole('button', { name: /ico-clock.*mended/ })
      .click();
    await expect(page.getByText('Put ⏱ in its place, with all of its kind')).toBeVisible();
    await page.getByRole('button', { name: 'Rules', exact: true }).click();
    const kept = dialog.getByRole('region', { name: 'Icons to symbols' });
    await expect(kept).toContainText('Icons drawn by a font: Put something in its place, wherever there are any.');
    await kept.getByRole('button', { name: 'Use it' }).click();
    await expect(kept).toContainText('No course that waits to be tidied has anything that it fits.');
    await expectAccessible(page);
    await kept.getByRole('button', { name: 'Remove' }).click();
    await expect(dialog.getByText('What it mended stays mended.')).toBeVisible();
    await expect(kept).toBeHidden();
  });

  test('a file of a person’s own takes the place of a picture, and the page is shown as mended', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack, '/moves/1/tidy');
    await findings(page)
      .getByRole('button', { name: /picture to Pictures/ })
      .click();
    await page.getByRole('radio', { name: 'Put a file of yours in its place' }).check();
    const picture = Buffer.from('R0lGODlhAQABAIAAAAUEBAAAACwAAAAAAQABAAACAkQBADs=', 'base64');
    await page
      .getByLabel('The file')
      .setInputFiles({ name: 'clinker: new?.gif', mimeType: 'image/gif', buffer: picture });
    await expect(page.getByLabel('What it would change')).toContainText('src="../given/clinker-%20new-.gif"');
    await mend(page).click();
    await expect(page.getByRole('button', { name: 'Undo' })).toBeVisible();
    await followed(page);
    await page.getByRole('link', { name: 'See it in the outline' }).click();
    const preview = page.getByRole('region', { name: 'Preview' });
    const pictures = preview.frameLocator('iframe').locator('img');
    await expect(pictures.first()).toBeVisible();
    const given = preview.frameLocator('iframe').locator('img[src^="data:image/gif"]');
    await expect(given).toHaveCount(0);
    await preview.getByRole('radio', { name: 'as mended' }).click();
    await expect(given).toHaveCount(1);
    await expectAccessible(page);
  });

  test('a long recording is heard part by part', async ({ page, stack }) => {
    await signIn(page, stack, '/moves/1/look');
    const preview = page.getByRole('region', { name: 'Preview' });
    await page.getByLabel('Search titles and texts').fill('a whole seam');
    const part = page.waitForResponse((r) => r.url().includes('/file?path=') && r.status() === 206);
    await page
      .getByRole('region', { name: 'Found' })
      .getByRole('button', { name: /^Mallet and iron/ })
      .click();
    expect((await part).headers()['content-security-policy']).toContain('sandbox');
    await expect
      .poll(() => preview.locator('audio').evaluate((a) => (a as HTMLAudioElement).duration))
      .toBeGreaterThan(100);
  });

  test('outside addresses are asked, and those that are gone are findings', async ({ page, stack }) => {
    await signIn(page, stack, '/moves/1/tidy');
    await page.getByRole('button', { name: 'Ask outside addresses' }).click();
    const kinds = page.getByRole('navigation', { name: 'Kinds of findings' });
    await kinds.getByRole('button', { name: /Outside addresses that answer no more\s*3/ }).click({ timeout: 90_000 });
    await findings(page)
      .getByRole('button', { name: /long splice/i })
      .click();
    await expect(page.getByText(/it has moved to https:\/\/films\.marrowick\.example\/ropework/).first()).toBeVisible();
  });

  test('what goes is ticked, and what others need goes all the same', async ({ page, stack }) => {
    await signIn(page, stack, '/moves/1/tidy');
    await page.getByRole('radio', { name: /what goes/ }).click();
    await page.getByRole('button', { name: 'untick 1 hidden' }).click();
    await page.getByRole('checkbox', { name: /^Rules of the shed/ }).uncheck();
    await expectAccessible(page);
    await expect(page.getByText(/“Start here” links to “Rules of the shed”/)).toBeVisible();
    await page.getByRole('checkbox', { name: /^Rules of the shed/ }).check();
    await expect(page.getByRole('radio', { name: 'what goes, 1 left out' })).toBeVisible();
    await followed(page);
  });

  test('the package that is built has the mends in it, and the kept copy has not', async ({ page, stack }) => {
    test.setTimeout(90_000);
    await signIn(page, stack, '/moves/1/fit');
    // A cartridge, which can be looked into by another hand than ours.
    await page.getByRole('radio', { name: /Common Cartridge 1\.3/ }).click();
    await expect(page.getByRole('radio', { name: /Common Cartridge 1\.3/ })).toBeChecked();
    await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
    await page.getByRole('link', { name: 'Go to the delivery' }).waitFor({ timeout: 90_000 });
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'Download the package' }).click(),
    ]);
    const { execFileSync } = await import('node:child_process');
    const read = (path: string, inside: string) => execFileSync('unzip', ['-p', path, inside], { encoding: 'utf8' });
    const built = await download.path();
    expect(read(built, 'content/rules-of-the-shed.html')).toContain('⚠');
    expect(read(built, 'content/rules-of-the-shed.html')).toContain(
      'href="../shared/repository/safety/eye-protection.pdf"',
    );
    expect(read(built, 'shared/repository/safety/eye-protection.pdf')).toContain('%PDF');
    expect(read(built, 'content/parts-of-a-clinker-hull.html')).toContain('href="words-for-fastenings.html"');
    const to = /href="\.\.\/(quiz\/[^"]+\.xml)">test of names/.exec(read(built, 'content/start-here.html'))?.[1];
    expect(read(built, to ?? 'none')).toContain('title="Names of the parts"');
    expect(execFileSync('unzip', ['-l', built], { encoding: 'utf8' })).not.toContain('where-the-rot-was-put');
    const { rows: copies } = (await (await page.request.get(`${stack.address}/api/copies`)).json()) as {
      rows: { id: number; title: string }[];
    };
    const copy = copies.find((c) => c.title === 'Wooden Boat Repair');
    const kept = await (await page.request.get(`${stack.address}/api/copies/${copy?.id ?? 0}/file`)).body();
    // What was kept is the platform's own archive: a gzipped sequence of records.
    const { gunzipSync } = await import('node:zlib');
    expect(gunzipSync(kept).includes('ico-warning')).toBe(true);
    await page.goto(`${stack.address}/moves/1/tidy`);
    await expect(findings(page)).toBeVisible();
    await expect(page.getByRole('button', { name: /^Mend/ })).toBeHidden();
  });

  test('on the Bench a package is tidied and held beside another, and nothing is sent', async ({ page, stack }) => {
    await signIn(page, stack, '/bench');
    const sent: string[] = [];
    page.on('request', (request) => {
      if (request.method() !== 'GET') sent.push(request.url());
    });
    const worn = cartridge('1.1', { files: { 'rope.html': '<h1>Rope</h1><p>Fibre <a href="gone.pdf">yarn</a></p>' } });
    await page.getByLabel('Choose packages').setInputFiles(file('worn.imscc', await zipOf(worn)));
    await page.getByRole('radio', { name: /^tidy, \d finding/ }).click();
    await findings(page)
      .getByRole('button', { name: /gone\.pdf/ })
      .click();
    await choose(page, 'Destination', 'Marrowick New');
    await expect(page.getByText("it can't be shown at Tarnhall")).toBeVisible();
    await page.getByRole('radio', { name: 'Take the link off, keep its words' }).check();
    await mend(page).click();
    await expect(page.getByRole('button', { name: 'Undo' })).toBeVisible();
    await page
      .getByLabel('Choose what to compare with')
      .setInputFiles(file('other.imscc', await zipOf(cartridge('1.3'))));
    await expect(page.getByText(/2 things are the same, 1 differ/)).toBeVisible();
    await expectAccessible(page);
    await choose(page, 'Format to convert to', 'Common Cartridge 1.3');
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Convert to Common Cartridge 1.3' }).click(),
    ]);
    const converted = await readFile(await download.path());
    await page.getByLabel('Choose packages').setInputFiles(file('mended.imscc', converted));
    await expect(page.getByText('Common Cartridge 1.3, 2 items')).toBeVisible();
    await expect(page.frameLocator('iframe').getByText('Fibre yarn')).toBeVisible();
    await expect(page.frameLocator('iframe').getByRole('link')).toHaveCount(0);
    expect(sent).toEqual([]);
  });

  test('a learning object of a kept copy is played, and what it tells its player is written down', async ({
    page,
    stack,
  }) => {
    await signIn(page, stack, '/bench');
    const questions = `<resource identifier="q" type="imsqti_xmlv1p2/imscc_xmlv1p1/assessment"><file href="q.xml"/></resource>`;
    const made = cartridge('1.1', { resources: questions, files: { 'q.xml': QUIZ } });
    await page.getByLabel('Choose packages').setInputFiles(file('ropes.imscc', await zipOf(made)));
    await choose(page, 'Format to convert to', 'SCORM 1.2');
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Convert to SCORM 1.2' }).click(),
    ]);
    const packed = await readFile(await download.path());
    await page.getByLabel('Choose packages').setInputFiles(file('ropes.zip', packed));
    await page.getByRole('button', { name: 'Keep a copy…' }).click();
    await page.getByRole('dialog').getByRole('button', { name: /Keep/ }).click();
    await page.getByText('See it in the strongroom').click({ timeout: 90_000 });
    await page.getByRole('row', { name: /Ropes and lines/ }).click();
    await page.getByRole('link', { name: 'Look inside' }).click();
    await page.getByRole('region', { name: 'Outline' }).getByRole('button', { name: 'The anatomy of a rope' }).click();
    await page.getByRole('button', { name: 'Play it' }).click();
    const player = page.frameLocator('iframe[title$="played"]');
    await expect(player.frameLocator('iframe').getByText('Fibre, yarn, strand, rope.')).toBeVisible();
    const calls = page.getByRole('region', { name: 'Calls of the runtime interface' });
    await expect(calls).toContainText('LMSInitialize()');
    await expect(calls).toContainText('LMSSetValue(cmi.core.lesson_status, completed)');
  });
});

async function startMove(page: Page, stack: Stack, code: string): Promise<number> {
  await signIn(page, stack, '/courses');
  await expect(page.getByRole('heading', { level: 1 })).toContainText('44 courses on 5 instances');
  const given = async (what: string): Promise<unknown> =>
    (await page.request.get(`${stack.address}/api/${what}`)).json();
  const [courses, instances] = [await given('courses?limit=1000'), await given('instances')];
  const course = (courses as { rows: { id: number; code: string; instance: { name: string } }[] }).rows.find(
    (c) => c.code === code && c.instance.name === 'Marrowick Live',
  );
  const to = (instances as { id: number; name: string }[]).find((i) => i.name === 'Marrowick New');
  const asked = { courseId: course?.id, destinationId: to?.id };
  const started = await page.request.post(`${stack.address}/api/moves`, { data: asked });
  const { id } = (await started.json()) as { id: number };
  await expect(async () => {
    const move = (await (await page.request.get(`${stack.address}/api/moves/${id}`)).json()) as { at: string };
    expect(move.at).toBe('fit');
  }).toPass({ timeout: 120_000 });
  return id;
}

const QUIZ = `<questestinterop xmlns="http://www.imsglobal.org/xsd/ims_qtiasiv1p2"><assessment ident="a" title="Ropes"><section ident="s"><item ident="q1" title="Q"><itemmetadata><qtimetadata><qtimetadatafield><fieldlabel>cc_profile</fieldlabel><fieldentry>cc.true_false.v0p1</fieldentry></qtimetadatafield></qtimetadata></itemmetadata><presentation><material><mattext texttype="text/html">Rope has strands.</mattext></material><response_lid ident="r" rcardinality="Single"><render_choice><response_label ident="t"><material><mattext>True</mattext></material></response_label><response_label ident="f"><material><mattext>False</mattext></material></response_label></render_choice></response_lid></presentation><resprocessing><outcomes><decvar maxvalue="100" minvalue="0" varname="SCORE" vartype="Decimal"/></outcomes><respcondition><conditionvar><varequal respident="r">t</varequal></conditionvar><setvar action="Set" varname="SCORE">100</setvar></respcondition></resprocessing></item></section></assessment></questestinterop>`;
