import { execFileSync } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { extname, join, resolve } from 'node:path';
import { expect, test, type FrameLocator, type Page } from '@playwright/test';
import { AxeBuilder } from '@axe-core/playwright';
import { zipOf } from './packages.ts';

/** Packages that were written to be played are played, against a platform's runtime interface that writes down what it is told. */

const ROOT = resolve(import.meta.dirname, '../..');
const SAMPLE = join(ROOT, 'core/src/testing/samples/pair-hedge-cc13.imscc');

const HOST = (version: string, src: string) => `<!DOCTYPE html><html lang="en"><title>Platform</title><script>
const told = {}; const calls = [];
const api = (names) => Object.fromEntries(Object.entries(names).map(([name, does]) => [name, (...a) => { calls.push(name); return does(...a); }]));
const set = (k, v) => { told[k] = v; return 'true'; };
const get = (k) => told[k] ?? (k === 'cmi.core.lesson_status' ? 'not attempted' : k === 'cmi.completion_status' ? 'unknown' : k === 'cmi.student_data.mastery_score' ? '80' : '');
const yes = () => 'true';
window.told = told; window.calls = calls;
${
  version === 'scorm12'
    ? 'window.API = api({ LMSInitialize: yes, LMSFinish: yes, LMSGetValue: get, LMSSetValue: set, LMSCommit: yes });'
    : 'window.API_1484_11 = api({ Initialize: yes, Terminate: yes, GetValue: get, SetValue: set, Commit: yes });'
}
</script><iframe title="Course" src="${src}" style="width:100%;height:700px"></iframe></html>`;

const TYPES: Record<string, string> = {
  '.html': 'text/html',
  '.js': 'text/javascript',
  '.css': 'text/css',
  '.png': 'image/png',
  '.svg': 'image/svg+xml',
};

interface Played {
  folder: string;
  address: string;
  stop: () => Promise<void>;
}

/** A package, the sample if no other is given, written for a target, unpacked and served beside a page that plays the platform. */
async function played(target: string, version: string, sample = SAMPLE): Promise<Played> {
  const folder = await mkdtemp(join(tmpdir(), 'treenail-play-'));
  const zip = join(folder, 'out.zip');
  const cli = ['core/bin/treenail.mjs', 'convert', sample, '--to', target, '--out', zip];
  execFileSync(process.execPath, cli, { cwd: ROOT });
  execFileSync('unzip', ['-q', zip, '-d', folder]);
  const server = createServer((req, res) => {
    const url = new URL(req.url ?? '/', 'http://x');
    const send = (type: string, body: string | Buffer) => res.writeHead(200, { 'content-type': type }).end(body);
    if (url.pathname === '/host') return send('text/html', HOST(version, url.searchParams.get('src') ?? ''));
    readFile(join(folder, decodeURIComponent(url.pathname))).then(
      (body) => send(TYPES[extname(url.pathname)] ?? 'application/octet-stream', body),
      () => res.writeHead(404).end(),
    );
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  return {
    folder,
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    async stop() {
      server.closeAllConnections();
      await new Promise((done) => server.close(done));
      await rm(folder, { recursive: true, force: true });
    },
  };
}

/** Scrolls what is shown innermost to its end. */
async function scrollInnermost(page: Page): Promise<void> {
  const frame = page.frames().at(-1);
  await frame?.evaluate(() => scrollTo(0, 1e6)).catch(() => undefined);
}

const toldOf = (page: Page, key: string) =>
  page.evaluate((k) => (window as unknown as { told: Record<string, string> }).told[k], key);

for (const target of ['scorm12', 'scorm2004'] as const) {
  test.describe(`A course as ${target}`, () => {
    let folder: string;
    let address: string;
    let stop: () => Promise<void>;

    test.beforeAll(async () => {
      ({ folder, address, stop } = await played(target, target));
    });
    test.afterAll(() => stop());

    const open = async (page: Page, path: string): Promise<FrameLocator> => {
      await page.goto(`${address}/host?src=${encodeURIComponent(`/${path}`)}`);
      return page.frameLocator('iframe');
    };
    const told = toldOf;
    const keys =
      target === 'scorm12'
        ? { status: 'cmi.core.lesson_status', raw: 'cmi.core.score.raw', passed: 'passed' }
        : { status: 'cmi.completion_status', raw: 'cmi.score.raw', passed: 'completed' };

    test('a page says that it was seen, when its end was', async ({ page }) => {
      const frame = await open(page, 'pages/tools/billhook.html');
      await expect(frame.getByRole('heading').first()).toBeVisible();
      await expect.poll(() => told(page, keys.status)).toBe('completed');
    });

    test('a quiz is answered by keyboard, judged by its key, and its score reported', async ({ page }) => {
      const manifest = await readFile(join(folder, 'imsmanifest.xml'), 'utf8');
      const path = /href="(quiz\/[^"]+\.html)"/.exec(manifest)?.[1] ?? '';
      const frame = await open(page, path);
      const choose = async (label: string) => {
        const control = frame.getByLabel(label, { exact: true });
        await control.focus();
        await page.keyboard.press('Space');
      };
      await choose('In winter, when the sap is down');
      await choose('Billhook');
      await choose('Small axe');
      await choose('True');
      const answers = frame.getByLabel('Answer');
      await answers.nth(0).fill('I would lay it');
      await answers.nth(1).fill('Binders');
      await answers.nth(2).fill('a hitch of some kind');
      await choose('It is the law');
      await frame.getByRole('button', { name: 'Hand in the answers' }).focus();
      await page.keyboard.press('Enter');
      await expect(frame.getByText('Right, 3 of 3')).toBeVisible();
      await expect(frame.getByText('Not right, 0 of 1')).toBeVisible();
      await expect(frame.getByText('A person will read this.')).toBeVisible();
      // Ten of eleven points that a machine can judge; the essay's are not among them.
      await expect(frame.locator('.score')).toHaveText('10 of 11');
      expect(await told(page, keys.raw)).toBe('90.91');
      expect(await told(page, keys.status)).toBe(keys.passed);
      // Each question is told by itself, with what was answered.
      const first = (key: string) => told(page, `cmi.interactions.0.${key}`);
      expect([await first('type'), await first('result')]).toEqual(['choice', 'correct']);
      expect(await first(target === 'scorm12' ? 'student_response' : 'learner_response')).toMatch(/^[a-z]$/);
      const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21aa']).analyze();
      expect(violations.map((v) => v.id)).toEqual([]);
    });

    test('a quiz fits a phone', async ({ page }) => {
      await page.setViewportSize({ width: 360, height: 740 });
      const manifest = await readFile(join(folder, 'imsmanifest.xml'), 'utf8');
      await page.goto(`${address}/${/href="(quiz\/[^"]+\.html)"/.exec(manifest)?.[1] ?? ''}`);
      await expect(page.getByRole('button', { name: 'Hand in the answers' })).toBeVisible();
      expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(360);
    });
  });
}

for (const version of ['scorm12', 'scorm2004'] as const) {
  test.describe(`A whole course in one, as ${version}`, () => {
    let one: Played;
    test.beforeAll(async () => {
      one = await played(`${version}one`, version);
    });
    test.afterAll(() => one.stop());

    const open = (page: Page) => page.goto(`${one.address}/host?src=${encodeURIComponent('/play/course.html')}`);
    const is12 = version === 'scorm12';
    const keys = is12
      ? { status: 'cmi.core.lesson_status', raw: 'cmi.core.score.raw', exit: 'cmi.core.exit' }
      : { status: 'cmi.completion_status', raw: 'cmi.score.raw', exit: 'cmi.exit' };

    test('is gone through by its own navigation, and reports as one when all of it is done', async ({ page }) => {
      await open(page);
      const shell = page.frameLocator('iframe');
      const inner = shell.frameLocator('iframe');
      await expect(inner.getByRole('heading', { name: 'Welcome to the hedgerow' })).toBeVisible();
      await expect(shell.getByText('1 of 14 done')).toBeVisible();
      expect(await toldOf(page, keys.status)).toBe('incomplete');
      await shell.getByRole('button', { name: 'Go on' }).focus();
      await page.keyboard.press('Enter');
      await expect(shell.getByText('2 of 14 done')).toBeVisible();
      await expect(shell.getByRole('link', { name: 'Billhook, done' })).toHaveAttribute('aria-current', 'page');
      const links = shell.getByRole('navigation').getByRole('link');
      for (let i = 0; i < (await links.count()); i++) {
        await links.nth(i).click();
        const quiz = inner.getByRole('button', { name: 'Hand in the answers' });
        await expect(links.nth(i)).toHaveAttribute('aria-current', 'page');
        if (/quiz/.test((await links.nth(i).getAttribute('href')) ?? '')) {
          await inner.getByLabel('True', { exact: true }).check();
          await quiz.click();
          await expect(links.nth(i).locator('span')).toHaveText('✓');
          continue;
        }
        // A page is done with when its end was in view; a file once it is opened.
        await expect(async () => {
          await scrollInnermost(page);
          await expect(links.nth(i).locator('span')).toHaveText('✓', { timeout: 200 });
        }).toPass();
      }
      await expect(shell.getByText('14 of 14 done')).toBeVisible();
      expect(Number(await toldOf(page, keys.raw))).toBeCloseTo(9.09, 1);
      expect(await toldOf(page, 'cmi.interactions.0.result')).toMatch(/^(correct|wrong|incorrect|neutral)$/);
      // The platform of this test asks for a score only in SCORM 1.2.
      expect(await toldOf(page, keys.status)).toBe(is12 ? 'failed' : 'completed');
    });

    test('goes on where it was left, and fits a phone', async ({ page }) => {
      await page.setViewportSize({ width: 360, height: 740 });
      await open(page);
      const shell = page.frameLocator('iframe');
      await shell.getByRole('button', { name: 'Contents' }).click();
      await shell.getByRole('link', { name: 'The small axe' }).click();
      await expect(shell.getByText('2 of 14 done')).toBeVisible();
      // Leaving is a turn of the frame; coming back finds what the platform was told.
      await page.locator('iframe').evaluate((frame: HTMLIFrameElement) => (frame.src = 'about:blank'));
      await expect.poll(() => toldOf(page, keys.exit)).toBe('suspend');
      await page.locator('iframe').evaluate((frame: HTMLIFrameElement) => (frame.src = '/play/course.html'));
      await expect(shell.getByText('2 of 14 done')).toBeVisible();
      await expect(shell.frameLocator('iframe').getByRole('heading', { name: 'The small axe' })).toBeVisible();
      const width = await shell.locator('html').evaluate((html) => html.scrollWidth);
      expect(width).toBeLessThanOrEqual(360);
      const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21aa']).analyze();
      expect(violations.map((v) => v.id)).toEqual([]);
    });
  });
}

test.describe('Questions about a picture and with a slider', () => {
  const item = (id: string, inner: string) =>
    `<assessmentItem xmlns="http://www.imsglobal.org/xsd/imsqti_v2p1" identifier="${id}" title="${id}" adaptive="false" timeDependent="false">${inner}</assessmentItem>`;
  const score = '<outcomeDeclaration identifier="SCORE" cardinality="single" baseType="float"/>';
  const by = (name: string) =>
    `<responseProcessing template="http://www.imsglobal.org/question/qti_v2p1/rptemplates/${name}"/>`;
  const FILES = {
    'imsmanifest.xml': `<manifest xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" identifier="m"><metadata><schema>QTIv2.1 Package</schema><schemaversion>1.0.0</schemaversion></metadata><organizations/><resources><resource identifier="t" type="imsqti_test_xmlv2p1" href="t.xml"><file href="t.xml"/></resource><resource identifier="a" type="imsqti_item_xmlv2p1" href="a.xml"><file href="a.xml"/><file href="chart.svg"/></resource><resource identifier="b" type="imsqti_item_xmlv2p1" href="b.xml"><file href="b.xml"/></resource></resources></manifest>`,
    't.xml': `<assessmentTest xmlns="http://www.imsglobal.org/xsd/imsqti_v2p1" identifier="t" title="Leading marks"><testPart identifier="p" navigationMode="nonlinear" submissionMode="simultaneous"><assessmentSection identifier="s" title="S" visible="true"><assessmentItemRef identifier="a" href="a.xml"/><assessmentItemRef identifier="b" href="b.xml"/></assessmentSection></testPart></assessmentTest>`,
    'a.xml': item(
      'a',
      `<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="point"><areaMapping defaultValue="0"><areaMapEntry shape="circle" coords="150,60,12" mappedValue="2"/></areaMapping></responseDeclaration>${score}<itemBody><selectPointInteraction responseIdentifier="RESPONSE" maxChoices="1"><prompt>Where is the beacon?</prompt><object data="chart.svg" type="image/svg+xml" width="200" height="100"/></selectPointInteraction></itemBody>${by('map_response_point')}`,
    ),
    'b.xml': item(
      'b',
      `<responseDeclaration identifier="RESPONSE" cardinality="single" baseType="integer"><correctResponse><value>35</value></correctResponse></responseDeclaration>${score}<itemBody><sliderInteraction responseIdentifier="RESPONSE" lowerBound="0" upperBound="90" step="5"><prompt>At which angle?</prompt></sliderInteraction></itemBody>${by('match_correct')}`,
    ),
    'chart.svg':
      '<svg xmlns="http://www.w3.org/2000/svg" width="200" height="100" viewBox="0 0 200 100"><rect width="200" height="100" fill="#dbe7ee"/><circle cx="150" cy="60" r="6" fill="#1f5d4c"/></svg>',
  };

  test('are answered with a point on it and a number in its bounds, and no place tells the key', async ({ page }) => {
    const folder = await mkdtemp(join(tmpdir(), 'treenail-marks-'));
    const source = join(folder, 'marks.zip');
    await writeFile(source, await zipOf(FILES));
    const { folder: out, address, stop } = await played('scorm2004', 'scorm2004', source);
    try {
      const manifest = await readFile(join(out, 'imsmanifest.xml'), 'utf8');
      const path = /href="([^"]+\.html)"/.exec(manifest)?.[1] ?? '';
      await page.goto(`${address}/host?src=${encodeURIComponent(`/${path}`)}`);
      const frame = page.frameLocator('iframe');
      const picture = frame.locator('img[data-point]');
      await expect(picture).toBeVisible();
      expect(await frame.locator('[data-coords], input[type=checkbox]').count()).toBe(0);
      const field = frame.getByLabel('Point on the picture: pixels from the left, from the top');
      await picture.click({ position: { x: 148, y: 61 } });
      await expect(field).toHaveValue('148, 61');
      await expect(frame.locator('.mark')).toHaveCount(1);
      const number = frame.getByLabel('Number');
      expect(await number.getAttribute('max')).toBe('90');
      await number.fill('30');
      const handIn = frame.getByRole('button', { name: 'Hand in the answers' });
      await handIn.click();
      await expect(frame.locator('.score')).toHaveText('2 of 3');
      // By keyboard, beside the beacon.
      await field.fill('20, 20');
      await number.fill('35');
      await handIn.press('Enter');
      await expect(frame.locator('.score')).toHaveText('1 of 3');
      expect(await toldOf(page, 'cmi.score.raw')).toBe('33.33');
      const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21aa']).analyze();
      expect(violations.map((v) => v.id)).toEqual([]);
    } finally {
      await stop();
      await rm(folder, { recursive: true, force: true });
    }
  });
});

for (const [from, to] of [
  ['scorm12', 'scorm2004'],
  ['scorm2004', 'scorm12'],
] as const) {
  test(`An object that was made for ${from} reports on a platform of ${to}, whichever of its pages it is on`, async ({
    page,
  }) => {
    const folder = await mkdtemp(join(tmpdir(), 'treenail-object-'));
    const source = join(folder, 'object.zip');
    const is12 = from === 'scorm12';
    // It looks for its interface in its own window first and in those around it then, and goes on to a second page.
    const find = `var w = window; while (!w.${is12 ? 'API' : 'API_1484_11'} && w.parent !== w) w = w.parent; var api = w.${is12 ? 'API' : 'API_1484_11'};`;
    const html = (script: string) =>
      `<!DOCTYPE html><html lang="en"><title>Tides</title><body><h1>Tides</h1><script>${find}${script}</script></body></html>`;
    const name = is12 ? 'LMS' : '';
    await writeFile(
      source,
      await zipOf({
        'imsmanifest.xml': is12
          ? `<manifest identifier="m" xmlns="http://www.imsproject.org/xsd/imscp_rootv1p1p2" xmlns:adlcp="http://www.adlnet.org/xsd/adlcp_rootv1p2"><metadata><schema>ADL SCORM</schema><schemaversion>1.2</schemaversion></metadata><organizations default="o"><organization identifier="o"><title>C</title><item identifier="i" identifierref="r"><title>Tides</title></item></organization></organizations><resources><resource identifier="r" type="webcontent" adlcp:scormtype="sco" href="o/a.html?unit=3"><file href="o/a.html"/><file href="o/b.html"/></resource></resources></manifest>`
          : `<manifest identifier="m" xmlns="http://www.imsglobal.org/xsd/imscp_v1p1" xmlns:adlcp="http://www.adlnet.org/xsd/adlcp_v1p3"><metadata><schema>ADL SCORM</schema><schemaversion>2004 4th Edition</schemaversion></metadata><organizations default="o"><organization identifier="o"><title>C</title><item identifier="i" identifierref="r"><title>Tides</title></item></organization></organizations><resources><resource identifier="r" type="webcontent" adlcp:scormType="sco" href="o/a.html?unit=3"><file href="o/a.html"/><file href="o/b.html"/></resource></resources></manifest>`,
        'o/a.html': html(
          `api.${name}Initialize(''); api.${name}SetValue('${is12 ? 'cmi.core.lesson_location' : 'cmi.location'}', location.search); location.href = 'b.html';`,
        ),
        'o/b.html': html(
          is12
            ? `api.LMSSetValue('cmi.core.score.raw', '72'); api.LMSSetValue('cmi.core.lesson_status', 'passed'); api.LMSFinish('');`
            : `api.SetValue('cmi.score.scaled', '0.72'); api.SetValue('cmi.success_status', 'passed'); api.SetValue('cmi.completion_status', 'completed'); api.Terminate('');`,
        ),
      }),
    );
    const { folder: out, address, stop } = await played(to, to, source);
    try {
      const manifest = await readFile(join(out, 'imsmanifest.xml'), 'utf8');
      const path = /href="(play\/object[^"]+\.html)"/.exec(manifest)?.[1] ?? '';
      const parameters = /parameters="([^"]+)"/.exec(manifest)?.[1] ?? '';
      await page.goto(`${address}/host?src=${encodeURIComponent(`/${path}${parameters}`)}`);
      const told = (key: string) => toldOf(page, key);
      const [location, status, score, done] = is12
        ? (['cmi.location', 'cmi.success_status', 'cmi.score.scaled', 'Terminate'] as const)
        : (['cmi.core.lesson_location', 'cmi.core.lesson_status', 'cmi.core.score.raw', 'LMSFinish'] as const);
      await expect.poll(() => told(status)).toBe('passed');
      expect([await told(location), await told(score)]).toEqual(['?unit=3', is12 ? '0.72' : '72']);
      await expect.poll(() => page.evaluate(() => (window as unknown as { calls: string[] }).calls.at(-1))).toBe(done);
    } finally {
      await stop();
      await rm(folder, { recursive: true, force: true });
    }
  });
}
