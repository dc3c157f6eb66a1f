import { AxeBuilder } from '@axe-core/playwright';
import { expect, test as base, type Page } from '@playwright/test';
import type { ChildProcess } from 'node:child_process';
import { join } from 'node:path';
import { PEOPLE, bringUp } from '../../scripts/demo.mjs';
import { stopAll } from '../../scripts/machine.mjs';

export interface Stack {
  address: string;
  quernhold: string;
  tarnhall: string;
  oxlea: string;
  mailbox: string;
  standins: string[];
  play: string;
  tokens: Record<'quernhold' | 'tarnhall' | 'oxlea', string>;
  /** What server and workers are told, the database's address among it. */
  environment: Record<string, string>;
  workers: ChildProcess[];
  startWorker(): ChildProcess;
  restartDatabase(): Promise<void>;
  stopServer(): Promise<void>;
  startServer(): Promise<void>;
}

function setting(name: string): string {
  const value = process.env[name];
  if (value === undefined) throw new Error(`${name} is not set: run the browser tests by npm test -- e2e`);
  return value;
}

interface Fixtures {
  /** Complaints of the page; none may be left at a test's end. */
  complaints: string[];
}

/** Everything, started once for all tests of a run, on data of its own. */
export const test = base.extend<Fixtures, { stack: Stack; own: string }>({
  /** Files that name one of their own get a stack that no other file has touched. */
  own: ['', { option: true, scope: 'worker' }],
  stack: [
    async ({ own }, use) => {
      try {
        const stack = await bringUp({
          data: join(setting('TREENAIL_E2E_DATA'), own || 'shared'),
          port: Number(setting('TREENAIL_E2E_PORT')),
          web: setting('TREENAIL_E2E_WEB'),
          fresh: true,
          drawn: join(setting('TREENAIL_E2E_DATA'), 'drawn'),
          quick: true,
          pace: 1500,
          films: 0.02,
          // Rows of others would stand beside those that tests look for.
          trials: own === 'into',
          poll: 200,
          // Long enough for a machine that stalls under the browser, short enough to wait for when a worker is killed.
          lease: 3000,
          // A busy machine may take many seconds to pack an export, and says 99 % all the while.
          hang: 20_000,
          mailAfter: 0,
          log: 'warn',
        });
        await use(stack);
      } finally {
        await stopAll();
      }
    },
    { scope: 'worker', timeout: 300_000 },
  ],
  complaints: [
    async ({ page, stack }, use) => {
      const complaints: string[] = [];
      const own = new Set([stack.address, stack.play, ...stack.standins].map((a) => new URL(a).host));
      page.on('console', (message) => {
        if (message.type() === 'error') complaints.push(`console: ${message.text()}`);
      });
      page.on('pageerror', (error) => complaints.push(`error: ${error.message}`));
      page.on('request', (request) => {
        const url = new URL(request.url());
        if (/^https?:$/.test(url.protocol) && !own.has(url.host)) complaints.push(`request: ${request.url()}`);
      });
      await use(complaints);
      expect(complaints, 'nothing is fetched from elsewhere, and the console stays silent').toEqual([]);
    },
    { auto: true },
  ],
});

export { expect };

type Role = 'administrator' | 'instructor';

export async function signIn(page: Page, stack: Stack, path = '/', role: Role = 'administrator'): Promise<void> {
  const person = PEOPLE.find((p) => p.role === role);
  if (!person) throw new Error(`no ${role} in the demo`);
  await page.goto(stack.address + path);
  await page.getByLabel('Mail address').fill(person.email);
  await page.getByLabel('Password').fill(person.password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('navigation', { name: 'Sections' })).toBeVisible();
}

/** Chooses in a list of choices, by what the list is called and the words of the choice. */
export async function choose(page: Page, label: string, words: string | RegExp): Promise<void> {
  await page.getByRole('combobox', { name: label }).click();
  await page.getByRole('option', { name: words, exact: typeof words === 'string' }).click();
}

export async function expectAccessible(page: Page): Promise<void> {
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa'])
    // What a course's author wrote is shown as it is.
    .exclude('iframe')
    .analyze();
  expect(violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(' ')).join(', ')}`)).toEqual([]);
}

/** Nothing may be wider than the window. */
export async function expectNoSidewaysScroll(page: Page): Promise<void> {
  const over = await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth);
  expect(over).toBeLessThanOrEqual(0);
}
