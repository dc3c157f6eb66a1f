import { execFile } from 'node:child_process';
import { promisify } from 'node:util';
import * as z from 'zod';
import type { Page } from '@playwright/test';
import { choose, expect, expectAccessible, signIn, test, type Stack } from './stack';

const Contents = z.object({
  units: z.array(
    z.object({
      title: z.string(),
      entries: z.array(z.object({ id: z.string(), title: z.string(), sort: z.string() })),
    }),
  ),
});
const People = z.object({
  people: z.array(z.object({ name: z.string() })),
  work: z.array(z.object({ id: z.string() })),
});
const Spaces = z.object({ spaces: z.array(z.object({ id: z.string(), code: z.string(), title: z.string() })) });

/** What Tarnhall says of itself, by its own interface. */
async function there<T extends z.ZodType>(stack: Stack, path: string, shape: T, method = 'GET', json?: unknown) {
  const answer = await fetch(`${stack.tarnhall}/api${path}`, {
    method,
    headers: { Authorization: `Key ${stack.tokens.tarnhall}`, 'content-type': 'application/json' },
    ...(json === undefined ? {} : { body: JSON.stringify(json) }),
  });
  return shape.parse(await answer.json());
}

const outline = async (stack: Stack, space: string) =>
  (await there(stack, `/spaces/${space}/contents`, Contents)).units.map(({ title, entries }) => ({
    title,
    entries: entries.map((e) => `${e.sort} ${e.title}`),
  }));

/** A course is fetched, looked into and built; what is to be decided on its way stays undecided. */
async function builtMove(page: Page, stack: Stack, course: string): Promise<void> {
  await signIn(page, stack, `/courses?words=${encodeURIComponent(course)}`);
  await page.getByRole('row', { name: course }).getByRole('button', { name: 'Move…' }).click();
  await page.getByRole('button', { name: 'Start by fetching' }).click();
  await page.waitForURL(/moves\/\d+/);
  await page.getByRole('link', { name: /Dry fit.*(reworked|left behind)/s }).click({ timeout: 120_000 });
  await page.getByRole('button', { name: 'Accept the fit, build the package' }).click();
  await page.getByRole('link', { name: 'Go to the delivery' }).click();
}

/** Looks at a course of the destination and chooses to go into it. */
async function chooseInto(page: Page, course: RegExp, way: 'beside' | 'into' | 'in place of'): Promise<void> {
  await page.getByRole('button', { name: /Into a course that is there…|Another course…/ }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('radio', { name: course }).check();
  const named = { beside: /^Beside/, into: /^Into what/, 'in place of': /^In place of/ }[way];
  await dialog.getByRole('radio', { name: named }).check();
  await dialog.getByRole('button', { name: `Go ${way} what is there` }).click();
}

async function checked(page: Page): Promise<void> {
  await page.getByRole('link', { name: 'See the check' }).click({ timeout: 120_000 });
  await expect(page.getByRole('link', { name: /Hand over.*report ready/s })).toBeVisible({ timeout: 120_000 });
}

/** How many jobs of a kind a move has, how the newest stands, and how many steps all of them have finished: asked of the database, often. */
async function progressOf(stack: Stack, moveId: string, kind: string) {
  const { DB_HOST, DB_PORT, DB_USER, DB_PASSWORD, DB_NAME } = stack.environment;
  const of = `j.move_id = ${Number(moveId)} AND j.kind = '${kind}'`;
  const asked = `SELECT COUNT(*), COALESCE((SELECT j.state FROM jobs j WHERE ${of} ORDER BY j.id DESC LIMIT 1), ''),
    (SELECT COUNT(*) FROM job_steps s JOIN jobs j ON j.id = s.job_id WHERE ${of}) FROM jobs j WHERE ${of}`;
  const { stdout } = await promisify(execFile)(
    'mariadb',
    ['--no-defaults', '-h', `${DB_HOST}`, '-P', `${DB_PORT}`, '-u', `${DB_USER}`, '-N', '-e', asked, `${DB_NAME}`],
    { env: { ...process.env, MYSQL_PWD: `${DB_PASSWORD}` } },
  );
  const [jobs = '', state = '', steps = ''] = stdout.replace('\n', '').split('\t');
  return { jobs: Number(jobs), state, steps: Number(steps) };
}

/**
 * Lets a job of a move run, and kills the worker whenever a step of it is seen to be finished; what is set aside for that is
 * tried again. Gives how often a worker died.
 */
async function withDeaths(
  page: Page,
  stack: Stack,
  { moveId, kind, press }: { moveId: string; kind: string; press: () => Promise<void> },
): Promise<number> {
  const address = `${stack.address}/api/moves/${moveId}`;
  // One that was done before is not the one that is waited for.
  const before = await progressOf(stack, moveId, kind);
  let seen = before.steps;
  let deaths = 0;
  await press();
  await expect
    .poll(
      async () => {
        const { jobs, state, steps } = await progressOf(stack, moveId, kind);
        if (jobs === before.jobs) return 'not there yet';
        if (state === 'failed') {
          const answer = await page.request.post(`${address}/retry`, { headers: { origin: stack.address } });
          expect(answer.ok()).toBe(true);
        } else if (steps > seen && state !== 'done') {
          seen = steps;
          deaths++;
          for (const worker of stack.workers.splice(0)) worker.kill('SIGKILL');
          stack.startWorker();
        }
        return state;
      },
      { timeout: 220_000, intervals: [5] },
    )
    .toBe('done');
  return deaths;
}

// Courses of the same code that others delivered would be among those that are there.
test.use({ own: 'into' });
test.describe.configure({ mode: 'serial' });

test.describe('A delivery into a course that is there', () => {
  test('goes beside nothing into the shell that the registrar made, and its people stay', async ({ page, stack }) => {
    await builtMove(page, stack, 'SAI 160-01');
    await page.getByRole('button', { name: 'Into a course that is there…' }).click();
    const dialog = page.getByRole('dialog');
    // Suggested by what they have in common, and by nothing else.
    await expect(dialog.getByRole('radio').first()).toHaveAccessibleName(/SAI 160-03.*same code/);
    // One that is shut is told for that, and not gone into.
    await dialog.getByRole('radio', { name: /HIS 150-T1/ }).check();
    await expect(dialog.getByText('It is shut: nothing in it can be changed any more')).toBeVisible();
    await expect(dialog.getByRole('button', { name: 'Go beside what is there' })).toBeDisabled();
    // Nor is one that the key may read, and not change.
    await dialog.getByRole('radio', { name: /NET 130-T1/ }).check();
    await expect(dialog.getByText(/can only be read with the key that Treenail has/)).toBeVisible();
    await expect(dialog.getByRole('button', { name: 'Go beside what is there' })).toBeDisabled();
    await dialog.getByRole('radio', { name: /SAI 160-03/ }).check();
    await expect(dialog.getByText('Sailmaking holds nothing. 5 learners and 1 tutor are in it.')).toBeVisible();
    await expectAccessible(page);
    await dialog.getByRole('button', { name: 'Go beside what is there' }).click();
    await expect(page.getByText(/Nothing is in it yet/)).toBeVisible();
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Deliver beside what is there' }).click();
    await checked(page);
    expect((await there(stack, '/spaces/s2/people', People)).people).toHaveLength(6);
    expect((await outline(stack, 's2')).length).toBeGreaterThan(3);
    // It stands in no second shell.
    const { spaces } = await there(stack, '/spaces', Spaces);
    expect(spaces.filter((s) => s.code === 'SAI 160')).toHaveLength(1);
  });

  test('is not taken back once learners have worked in it, and is before that', async ({ page, stack }) => {
    await signIn(page, stack, '/moves');
    await page
      .getByRole('link', { name: /SAI 160-01/ })
      .first()
      .click();
    await page.getByRole('link', { name: /^Deliver/ }).click();
    const { units } = await there(stack, '/spaces/s2/contents', Contents);
    const [entry] = units.flatMap((u) => u.entries.filter((e) => e.sort !== 'heading'));
    const work = { entry: entry?.id, person: 'Bram Hollis' };
    await there(stack, '/spaces/s2/work', z.object({ id: z.string() }), 'POST', work);
    await page.getByRole('button', { name: 'Take this delivery back…' }).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog.getByText('Learners have worked in it meanwhile: 1 item that came')).toBeVisible();
    await expect(dialog.getByRole('button', { name: 'Take it back' })).toBeDisabled();
    await expectAccessible(page);
    expect((await there(stack, '/spaces/s2/people', People)).work).toHaveLength(1);
  });

  test('goes in place of what is there, once a copy of that is kept and its loss is meant; and is taken back', async ({
    page,
    stack,
    complaints,
  }) => {
    const before = await outline(stack, 's3');
    const { people } = await there(stack, '/spaces/s3/people', People);
    await builtMove(page, stack, 'RIG 140-01');
    await chooseInto(page, /MET 115-T1/, 'in place of');
    await expect(page.getByText('3 things that learners did there will be gone with it')).toBeVisible();
    const deliver = page.getByRole('button', { name: 'Deliver in place of what is there' });
    await expect(deliver).toBeDisabled();
    await page.getByLabel(/^Type/).fill('Weather for Mariners, a trial');
    // Somebody works there between the look and the press: nothing is sent, and what is there now is shown.
    await there(stack, '/spaces/s3/work', z.object({ id: z.string() }), 'POST', { entry: 'e12', person: 'Pia Sedge' });
    await deliver.click();
    await expect(
      page.getByRole('alert').getByText(/was changed since it was looked at.*Nothing was sent/),
    ).toBeVisible();
    await expect(page.getByText('4 things that learners did there will be gone with it')).toBeVisible();
    // The refusal is what was asked for.
    expect(complaints.splice(0)).toHaveLength(1);
    expect(await outline(stack, 's3')).toEqual(before);
    // There is no room for the package: that is found before anything is taken out.
    await fetch(`${stack.tarnhall}/practice`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ failure: 'room', times: 1 }),
    });
    await deliver.click();
    const full = page.getByText(/has no room for the package: nothing was taken out of any course/);
    await expect(full.first()).toBeVisible({ timeout: 60_000 });
    expect(await outline(stack, 's3')).toEqual(before);
    await page.getByRole('button', { name: 'Try this step again' }).click();
    await checked(page);
    const after = await outline(stack, 's3');
    expect(after.map((u) => u.title)).not.toContain('Reading the sky');
    const now = await there(stack, '/spaces/s3/people', People);
    expect([now.people, now.work]).toEqual([people, []]);
    // The copy of what stood there lies in the strongroom.
    const copies = await page.request.get(`${stack.address}/api/copies?words=weather`);
    const { rows } = z
      .object({ rows: z.array(z.object({ title: z.string(), from: z.string() })) })
      .parse(await copies.json());
    expect(rows).toContainEqual({ title: 'Weather for Mariners, a trial', from: 'Marrowick New' });

    await page.getByRole('link', { name: /^Deliver/ }).click();
    await page.getByRole('button', { name: 'Take this delivery back…' }).click();
    await expect(page.getByRole('dialog').getByText(/comes again from the kept copy/)).toBeVisible();
    await page.getByRole('button', { name: 'Take it back' }).click();
    await expect(page.getByText('What was delivered was taken back')).toBeVisible({ timeout: 120_000 });
    expect(await outline(stack, 's3')).toEqual(before);
    expect((await there(stack, '/spaces/s3/people', People)).people).toEqual(people);
    // A change of mind: it goes into a new shell, and that is taken back too.
    await page.getByRole('button', { name: /^Deliver into RIG 140/ }).click();
    await checked(page);
    const shells = async () => (await there(stack, '/spaces', Spaces)).spaces.filter((s) => s.code === 'RIG 140');
    expect(await shells()).toHaveLength(1);
    await page.getByRole('link', { name: /^Deliver/ }).click();
    await page.getByRole('button', { name: 'Take this delivery back…' }).click();
    await page.getByRole('button', { name: 'Take it back' }).click();
    await expect(page.getByRole('button', { name: /^Deliver into RIG 140/ })).toBeVisible({ timeout: 120_000 });
    expect(await shells()).toEqual([]);
  });

  test('goes beside what is there, of which nothing is touched, and what came by it is taken out again', async ({
    page,
    stack,
  }) => {
    const before = await outline(stack, 's3');
    await builtMove(page, stack, 'CHT 210-01');
    await chooseInto(page, /MET 115-T1/, 'beside');
    await expect(page.getByText(/What is there stays: 4 items/)).toBeVisible();
    await page.getByRole('button', { name: 'Deliver beside what is there' }).click();
    await checked(page);
    await page.getByRole('link', { name: /^Check/ }).click();
    await expect(page.getByText('Of what stood there before, 4 items stayed as they were.')).toBeVisible();
    const after = await outline(stack, 's3');
    expect(after.slice(0, before.length)).toEqual(before);
    expect(after.length).toBeGreaterThan(before.length);
    await page.getByRole('link', { name: /^Deliver/ }).click();
    await page.getByRole('button', { name: 'Take this delivery back…' }).click();
    await page.getByRole('button', { name: 'Take it back' }).click();
    await expect(page.getByText('What was delivered was taken back')).toBeVisible({ timeout: 120_000 });
    expect(await outline(stack, 's3')).toEqual(before);
  });

  test('is matched item by item with what is there: each of both stays, goes or is called otherwise as was decided', async ({
    page,
    stack,
  }) => {
    const before = await outline(stack, 's3');
    await builtMove(page, stack, 'MET 115-01');
    await chooseInto(page, /MET 115-T1/, 'into');
    await expect(
      page.getByText(/^2 items there will be taken out, and ours will be there for them: .*“Pressure: what to know”/),
    ).toBeVisible();
    await choose(page, 'What becomes of Fronts: what to know', 'both are there');
    const name = page.getByLabel('What ours is called where both are there');
    await name.fill('{title} ({section})');
    await name.press('Tab');
    await expect(page.getByText('1 item of ours will be called otherwise: “Fronts: what to know (01)”.')).toBeVisible();
    await expect(page.getByText(/^1 item there will be taken out/)).toBeVisible();
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Deliver into what is there' }).click();
    await checked(page);
    // A line of its log that nobody knew is given words, and has them from then on.
    await page.getByRole('link', { name: /^Deliver/ }).click();
    const line = page.getByRole('row', { name: /T-611 IDX s=3 anew/ });
    await expect(line.getByText('Not known what this means.')).toBeVisible();
    await line.getByRole('button', { name: 'Say what it means…' }).click();
    await page.getByLabel('In plain words').fill('The index of the whole course was made anew.');
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Keep these words' }).click();
    await expect(line.getByText('The index of the whole course was made anew.')).toBeVisible();
    await page.reload();
    await expect(line.getByText('The index of the whole course was made anew.')).toBeVisible();
    await page.getByRole('link', { name: /^Check/ }).click();
    await expect(
      page.getByText(
        /^Of what stood there before, 3 items stayed as they were; ours took the place of 1: “Pressure: what to know”\.$/,
      ),
    ).toBeVisible();
    const [sky, wind, ...ours] = await outline(stack, 's3');
    expect(sky).toEqual(before[0]);
    expect(wind?.entries).toEqual(['talk What did the glass say?']);
    const came = ours.flatMap((unit) => unit.entries);
    expect(came).toContain('text Pressure: what to know');
    expect(came).toContain('text Fronts: what to know (01)');
    expect(came).not.toContain('text Fronts: what to know');
    // All came as it was foretold, by the names that it was sent under.
    const Lines = z.object({
      comparison: z.object({
        lines: z.array(z.object({ title: z.string(), outcome: z.string(), predicted: z.string().nullable() })),
      }),
    });
    const moveId = /moves\/(\d+)/.exec(page.url())?.[1] ?? '';
    const { lines } = Lines.parse(
      await (await page.request.get(`${stack.address}/api/moves/${moveId}/check`)).json(),
    ).comparison;
    expect(lines.find((l) => l.title === 'Fronts: what to know (01)')?.predicted).toBe('whole');
    expect(lines.filter((l) => l.predicted !== null && l.predicted !== l.outcome)).toEqual([]);
    await page.getByRole('link', { name: /^Deliver/ }).click();
    await page.getByRole('button', { name: 'Take this delivery back…' }).click();
    await page.getByRole('button', { name: 'Take it back' }).click();
    await expect(page.getByText('What was delivered was taken back')).toBeVisible({ timeout: 120_000 });
    expect(await outline(stack, 's3')).toEqual(before);
  });

  test('is done once, and taken back once, though the worker dies after step upon step', async ({ page, stack }) => {
    test.setTimeout(480_000);
    const before = await outline(stack, 's3');
    const { people } = await there(stack, '/spaces/s3/people', People);
    await signIn(page, stack, '/moves');
    await page
      .getByRole('link', { name: /CHT 210-01/ })
      .first()
      .click();
    await page.getByRole('link', { name: /^Deliver/ }).click();
    const moveId = /moves\/(\d+)/.exec(page.url())?.[1] ?? '';
    await chooseInto(page, /MET 115-T1/, 'in place of');
    const deliver = () => page.getByRole('button', { name: 'Deliver in place of what is there' }).click();
    expect(await withDeaths(page, stack, { moveId, kind: 'deliver', press: deliver })).toBeGreaterThan(3);
    await checked(page);
    const lines = z.object({ comparison: z.object({ totals: z.record(z.string(), z.number()) }) });
    const { comparison } = lines.parse(
      await (await page.request.get(`${stack.address}/api/moves/${moveId}/check`)).json(),
    );
    const once = await outline(stack, 's3');
    const entries = once.flatMap((u) => u.entries.map((e) => `${u.title}: ${e}`));
    expect(new Set(entries).size).toBe(entries.length);
    expect(once.map((u) => u.title)).not.toContain('Reading the sky');
    expect(comparison.totals['whole']).toBeGreaterThan(10);
    await page.getByRole('link', { name: /^Deliver/ }).click();
    await page.getByRole('button', { name: 'Take this delivery back…' }).click();
    const back = () => page.getByRole('button', { name: 'Take it back' }).click();
    expect(await withDeaths(page, stack, { moveId, kind: 'take-back', press: back })).toBeGreaterThan(3);
    expect(await outline(stack, 's3')).toEqual(before);
    expect((await there(stack, '/spaces/s3/people', People)).people).toEqual(people);
  });
});
