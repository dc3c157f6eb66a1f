import type { Page } from '@playwright/test';
import { expect, expectAccessible, signIn, test, type Stack, choose } from './stack';

interface Job {
  id: number;
  course: string;
  state: string;
  words: string;
  problem: { code: string } | null;
}
interface Copy {
  id: number;
  code: string;
  section: string;
  from: string;
  format: string;
  form: string;
  fileName: string;
}

const jobs = async (page: Page, stack: Stack): Promise<Job[]> =>
  (await (await page.request.get(`${stack.address}/api/jobs`)).json()) as Job[];
const copies = async (page: Page, stack: Stack): Promise<Copy[]> =>
  ((await (await page.request.get(`${stack.address}/api/copies?limit=1000`)).json()) as { rows: Copy[] }).rows;
/** Both killed workers may have had the same job: it is set aside then, and a person tries it again. */
async function tryAgainWhatWasSetAside(page: Page, stack: Stack) {
  for (const { id, state, problem } of await jobs(page, stack)) {
    if (state !== 'failed' || problem?.code !== 'job-set-aside') continue;
    await page.request.post(`${stack.address}/api/jobs/${id}/retry`);
  }
}
const rowOf = (page: Page, course: string) => page.getByRole('row', { name: course });

/** Every export that a platform holds of courses that were fetched by themselves. */
async function exportsAt(stack: Stack): Promise<string[]> {
  const quernhold = await fetch(`${stack.quernhold}/api/bundles`, {
    headers: { 'X-Quernhold-Token': stack.tokens.quernhold },
  });
  const oxlea = await fetch(`${stack.oxlea}/v1/parcels`, {
    headers: { Authorization: `Bearer ${stack.tokens.oxlea}` },
  });
  const { bundles } = (await quernhold.json()) as { bundles: { course: string; note: string }[] };
  const { parcels } = (await oxlea.json()) as { parcels: { book: string; reference: string }[] };
  return [
    ...bundles.filter((b) => b.note.includes('fetch:course')).map((b) => `quernhold ${b.course}`),
    ...parcels.map((p) => `oxlea ${p.book}`),
  ];
}

test.use({ own: 'fetches' });
test.describe.configure({ mode: 'serial' });

test.describe('Forty fetches at once', () => {
  test('are kept once each, though a worker is killed twice and the database crashes', async ({
    page,
    stack,
    complaints,
  }) => {
    test.setTimeout(300_000);
    stack.startWorker();
    await signIn(page, stack);
    await expect(page.getByRole('heading', { level: 1 })).toContainText('44 courses on 5 instances');
    for (const instance of ['on Marrowick Live', 'on Fenwright']) {
      await choose(page, 'Narrow to an instance', instance);
      await page.getByLabel('Choose all that are shown').check();
    }
    await page.getByRole('button', { name: 'Fetch 40 courses…' }).click();
    await page.getByLabel("Remove the platform's export file").uncheck();
    await expectAccessible(page);
    // Twice, as people do.
    await page.getByRole('button', { name: 'Fetch 40 courses', exact: true }).dblclick();
    const archives = async () => (await copies(page, stack)).filter((c) => c.form === 'archive').length;
    const begun = await archives();
    await expect.poll(async () => (await archives()) - begun, { timeout: 120_000 }).toBeGreaterThan(3);
    stack.workers.splice(0, 1)[0]?.kill('SIGKILL');
    stack.startWorker();
    await expect.poll(async () => (await archives()) - begun, { timeout: 120_000 }).toBeGreaterThan(10);
    await stack.restartDatabase();
    await expect(page.getByRole('heading', { level: 1 })).toContainText('44 courses');
    await expect.poll(() => archives().catch(() => 0), { timeout: 120_000 }).toBeGreaterThan(begun + 14);
    stack.workers.splice(0, 1)[0]?.kill('SIGKILL');
    stack.startWorker();
    await expect
      .poll(
        async () => {
          await tryAgainWhatWasSetAside(page, stack);
          return archives();
        },
        { timeout: 200_000 },
      )
      .toBe(begun + 40);
    const kept = (await copies(page, stack)).filter((c) => c.form === 'archive');
    expect(new Set(kept.map((c) => `${c.code}-${c.section} ${c.from}`)).size).toBe(40);
    expect(new Set(kept.map((c) => c.format))).toEqual(new Set(['Quernhold archive 4', 'Oxlea parcel 2']));
    expect(kept.find((c) => c.code === 'TID 200')?.fileName).toMatch(
      /^TID200-A_2026-Year_Tides-and-Tidal-Streams_\d{4}-\d\d-\d\d\.zip$/,
    );
    const exports = await exportsAt(stack);
    expect(exports.length).toBe(40);
    expect(new Set(exports).size).toBe(40);
    expect((await jobs(page, stack)).filter((j) => j.state === 'failed')).toEqual([]);
    // While the database was away the page was told so, and nothing else.
    for (const complaint of complaints.splice(0)) expect(complaint).toMatch(/status of 50[03]/);
    await page.reload();
    await choose(page, 'Narrow to an instance', 'on Fenwright');
    await expect(page.getByText('none', { exact: true })).toHaveCount(0);
  });

  test('leave a list that a spreadsheet reads', async ({ page, stack }) => {
    await signIn(page, stack);
    await page.getByLabel('Filter the courses').fill('tides');
    await page.getByRole('button', { name: 'Export' }).click();
    const [sheet] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('menuitem', { name: /shown, as XLSX/ }).click(),
    ]);
    expect(sheet.suggestedFilename()).toBe('courses.xlsx');
    // The whole register, for who asks without a browser.
    const text = await (await page.request.get(`${stack.address}/api/courses/list.csv`)).text();
    expect(text).toContain('TID 200,A,Tides and Tidal Streams,Year 2026,Fenwright');
    const xlsx = await (await page.request.get(`${stack.address}/api/courses/list.xlsx`)).body();
    expect(xlsx.subarray(0, 2).toString()).toBe('PK');
  });
});

test.describe('What goes wrong at a platform', () => {
  const COURSE = 'LOF 240-01';
  const practise = (stack: Stack, failure: string, times: number) =>
    fetch(`${stack.quernhold}/practice`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ failure, times }),
    });
  const jobOf = async (page: Page, stack: Stack, id: number): Promise<Job> => {
    const all = await jobs(page, stack);
    return all.find((j) => j.id === id) ?? { id, course: '', state: 'gone', words: '', problem: null };
  };
  /** How a job stands; one that failed says why, so that a test that waits for another end tells it. */
  const howIs = async (page: Page, stack: Stack, id: number): Promise<string> => {
    const { state, words, problem } = await jobOf(page, stack, id);
    return state === 'failed' ? `failed (${problem?.code ?? ''}): ${words}` : state;
  };
  /** Opens the dialog, has something go wrong with what follows, and starts the fetch; gives the job's number. */
  const fetchOnce = async (page: Page, stack: Stack, before?: () => Promise<unknown>): Promise<number> => {
    await rowOf(page, COURSE).getByRole('button', { name: 'Fetch…' }).click();
    // The dialog asks the platform too: the failure waits for the fetch itself.
    await page
      .getByText(/in the queue/)
      .first()
      .waitFor();
    await before?.();
    await page.getByRole('button', { name: 'Fetch the course' }).click();
    await expect(page.getByRole('dialog')).toHaveCount(0);
    const own = (await jobs(page, stack)).filter((j) => j.course === COURSE);
    return Math.max(...own.map((j) => j.id));
  };

  for (const [failure, times, why] of [
    ['errors', 2, 'is tried again until it answers'],
    ['down', 2, 'is tried again until somebody is there'],
    ['cut', 1, 'goes on from where the download was cut'],
    ['expire', 1, 'is asked for anew when the export is gone'],
    ['hang', 1, 'is asked for anew when the export does not get on'],
    ['silence', 1, 'is tried again when there is no answer'],
  ] as const) {
    test(`${failure}: a fetch ${why}`, async ({ page, stack }) => {
      await signIn(page, stack);
      const id = await fetchOnce(page, stack, () => practise(stack, failure, times));
      await expect.poll(() => howIs(page, stack, id), { timeout: 150_000 }).toBe('done');
      expect((await jobOf(page, stack, id)).words).toMatch(/^kept from Marrowick Live: all 2\d items/);
      await practise(stack, failure, 0);
    });
  }

  for (const [failure, code, sentence] of [
    ['token', 'platform-credentials', 'The platform refuses the credentials.'],
    ['full', 'platform-full', 'no room for another export'],
    ['break', 'export-failed', 'could not build the bundle'],
  ] as const) {
    test(`${failure}: a fetch ends in a sentence, and goes on when it is tried again`, async ({ page, stack }) => {
      await signIn(page, stack);
      const id = await fetchOnce(page, stack, () => practise(stack, failure, 1));
      await expect(rowOf(page, COURSE)).toContainText(sentence, { timeout: 90_000 });
      expect((await jobOf(page, stack, id)).problem?.code).toBe(code);
      const button = rowOf(page, COURSE).getByRole('button', { name: 'Try again' });
      const seen = await button.evaluate((b) => {
        const [own, cell] = [b.getBoundingClientRect(), b.closest('td')?.getBoundingClientRect()];
        return cell && own.left >= cell.left && own.right <= cell.right;
      });
      expect(seen, 'all of the button can be seen beside the sentence').toBe(true);
      const [again] = await Promise.all([
        page.waitForResponse((r) => r.url().endsWith(`/api/jobs/${id}/retry`)),
        button.click(),
      ]);
      expect(again.ok()).toBe(true);
      await expect.poll(() => howIs(page, stack, id), { timeout: 120_000 }).toBe('done');
    });
  }

  test('chosen parts only, without what is linked, are kept as a part', async ({ page, stack }) => {
    await signIn(page, stack);
    await rowOf(page, COURSE).getByRole('button', { name: 'Fetch…' }).click();
    await page.getByText('All parts; choose some').click();
    await page.getByRole('checkbox', { name: 'Week 2: Battens' }).check();
    await expect(page.getByText(/Quernhold archive.*about .*, 8 items/)).toBeVisible();
    await page.getByRole('radio', { name: /A standard package/ }).check();
    await page.getByRole('button', { name: 'Fetch 1 part of it' }).click();
    await expect
      .poll(async () => (await copies(page, stack)).find((c) => c.code === 'LOF 240' && c.form === 'standard'), {
        timeout: 90_000,
      })
      .toBeTruthy();
    const copy = (await copies(page, stack)).find((c) => c.code === 'LOF 240' && c.form === 'standard');
    expect(copy?.format).toBe('Common Cartridge 1.1');
  });
});

test.describe('The platforms', () => {
  test('can be connected after a trial, asked how they are, and given a cut-off', async ({ page, stack }) => {
    await signIn(page, stack, '/platforms');
    await expect(page.getByRole('heading', { level: 1 })).toHaveText('5 connected instances');
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Connect an instance…' }).click();
    await page.getByRole('combobox', { name: 'Platform' }).click();
    await page.getByRole('option', { name: 'Oxlea' }).click();
    await page.getByLabel('What you call it').fill('Fenwright again');
    await page.getByLabel('Address').fill(stack.oxlea);
    await page.getByLabel('Token', { exact: true }).fill('wrong');
    await page.getByRole('button', { name: 'Try it' }).click();
    await expect(page.getByText('The platform refuses the credentials.')).toBeVisible();
    await page.getByLabel('Token', { exact: true }).fill(stack.tokens.oxlea);
    await page.getByRole('button', { name: 'Try it' }).click();
    await expect(page.getByText(/lists 14 courses/)).toBeVisible();
    await page.getByRole('button', { name: 'Connect it' }).click();
    await expect(page.getByRole('heading', { level: 1 })).toHaveText('6 connected instances');
    await page.getByRole('button', { name: 'Fenwright again' }).click();
    await page.getByLabel('Last day', { exact: true }).fill('2027-03-31');
    await page.getByLabel('Why it will be gone').fill('it was only a trial');
    await page.getByRole('button', { name: 'Set the cut-off' }).click();
    await expect(page.getByText(/because it was only a trial/)).toBeVisible();
    await page.getByRole('button', { name: 'Ask how it is' }).click();
    await expect(page.getByRole('row', { name: /Fenwright again/ })).toContainText('answers in');
  });

  test('have profiles in versions that say what changed', async ({ page, stack }) => {
    await signIn(page, stack, '/platforms');
    await page.getByRole('button', { name: 'Marrowick Trial' }).click();
    await choose(page, 'How a checklist arrives', 'as a page');
    await page.getByLabel('Limit of characters a title').fill('60');
    await page.getByLabel('Limit of characters a title').blur();
    await expect(page.getByText('checklist: left behind before, carried as page now')).toBeVisible();
    await page.getByLabel('Why the profile is changed').fill('seen in a rehearsal');
    await page.getByRole('button', { name: 'Keep version 2' }).click();
    await expect(page.getByText(/Version 2.*Isla Renn: seen in a rehearsal/)).toBeVisible();
    await expectAccessible(page);
  });

  test('name copies by a rule that is judged', async ({ page, stack }) => {
    await signIn(page, stack, '/platforms');
    await page.getByRole('button', { name: 'Fenwright', exact: true }).click();
    const rule = page.getByLabel('Rule by which copies are named');
    await rule.fill('{owner}');
    await page.getByRole('button', { name: 'Keep the rule' }).click();
    await expect(page.getByRole('alert')).toContainText('{owner} is no field of a name.');
    await rule.fill('{date}_{code}_{title:2}');
    await page.getByRole('button', { name: 'Keep the rule' }).click();
    await expect(page.getByText('Copies kept from now on are named by this rule.')).toBeVisible();
    await rule.fill('{code}-{section}_{term}_{title:4}_{date}');
    await page.getByRole('button', { name: 'Keep the rule' }).click();
  });
});

test.describe('A kept archive', () => {
  test('is looked into by parts on the Bench, and moved without its platform', async ({ page, stack }) => {
    await signIn(page, stack, '/strongroom');
    await page.getByLabel('Filter the copies').fill('saltmarsh');
    await page
      .getByRole('row', { name: /EST 120-01 Saltmarsh Ecology/ })
      .first()
      .click();
    const parts: string[] = [];
    page.on('request', (request) => {
      if (/copies\/\d+\/file/.test(request.url())) parts.push(request.headers()['range'] ?? 'whole');
    });
    await page.getByRole('link', { name: 'Look inside' }).click();
    await expect(page.getByText(/Quernhold archive 4, 61 items/)).toBeVisible();
    expect(parts.length).toBeGreaterThan(0);
    expect(parts).not.toContain('whole');
    await page.getByLabel('Search titles and texts').fill('nine plants');
    await page
      .getByRole('region', { name: 'Found' })
      .getByRole('button', { name: /^Nine plants/ })
      .first()
      .click();
    const preview = page.getByRole('region', { name: 'Preview' });
    await expect(preview).toContainText('Visible after “Tide and mud”, 60 % or more.');
    await expect(preview).toContainText('oakum');
    await page.getByRole('option', { name: /1\s*rubric/ }).click();
    await page.getByLabel('Search titles and texts').fill('');
    await page.getByRole('region', { name: 'Outline' }).getByRole('button', { name: 'Practical work' }).click();
    await expect(page.frameLocator('iframe').getByRole('rowheader', { name: 'Preparation' }).first()).toBeVisible();
    await expectAccessible(page);
    // What the finder knows of the kept copy is shown at once, not the first that is in it.
    await page.getByLabel('Find a course, move, copy or item').fill('nine plants');
    await page
      .getByRole('option', { name: /Nine plants/ })
      .first()
      .click();
    await expect(page).toHaveURL(/\/bench\?copy=\d+&item=/);
    await expect(preview.getByRole('heading', { name: 'Nine plants' }).first()).toBeVisible();
    await page.goto(`${stack.address}/courses`);
    await page.getByLabel('Filter the courses').fill('saltmarsh');
    await rowOf(page, 'EST 120-01').getByRole('button', { name: 'Move…' }).click();
    await page.getByRole('radio', { name: 'A copy that is kept' }).check();
    await page.getByRole('button', { name: 'Start with the copy' }).click();
    await expect(page.getByRole('link', { name: /Dry fit.*left behind/s })).toBeVisible({ timeout: 90_000 });
    await page.getByRole('link', { name: /Dry fit/ }).click();
    // Checklist, automations, gradebook and their like: no cartridge holds them.
    await expect(page.getByText(/19\s*left behind/).first()).toBeVisible();
    await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
    await page.getByRole('link', { name: 'Go to the delivery' }).click({ timeout: 90_000 });
    await page.getByRole('button', { name: /^Deliver into/ }).click();
    await page.getByRole('link', { name: 'See the check' }).click({ timeout: 90_000 });
    await expect(page.getByRole('list', { name: 'As it is now' }).getByRole('button').first()).toBeVisible();
    const id = /moves\/(\d+)/.exec(page.url())?.[1];
    const check = await (await page.request.get(`${stack.address}/api/moves/${id}/check`)).text();
    expect(check).toContain('Transect drawing');
  });
});

test.describe('Mail', () => {
  test('tells whoever asked that a long job is over, with a link to the place, unless they chose otherwise', async ({
    page,
    stack,
  }) => {
    const mails = async () =>
      (
        (await (await fetch(`${stack.mailbox}/mails`)).json()) as {
          mails: { to: string; subject: string; text: string }[];
        }
      ).mails;
    await expect.poll(async () => (await mails()).map((m) => m.subject)).toContain('LOF 240-01: the fetch failed');
    await expect.poll(async () => (await mails()).map((m) => m.subject)).toContain('LOF 240-01: the fetch is done');
    const all = await mails();
    const done = all.find((m) => m.subject === 'LOF 240-01: the fetch is done');
    expect(done?.to).toBe('admin@marrowick.example');
    const link = /http:\S+/.exec(done?.text ?? '')?.[0] ?? '';
    await signIn(page, stack);
    await page.goto(link);
    await expect(page.getByRole('region', { name: 'The chosen copy' })).toContainText('LOF 240-01');
    await page.getByRole('button', { name: 'Isla Renn' }).click();
    await page.getByRole('menuitem', { name: 'What you are told by mail' }).click();
    await page.getByLabel('when they are done').uncheck();
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Keep the choice' }).click();
    await expect(page.getByRole('dialog')).toHaveCount(0);
    const choice = await page.request.get(`${stack.address}/api/mail-choice`);
    expect(await choice.json()).toEqual({ done: false, failed: true });
  });
});
