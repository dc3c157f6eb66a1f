import { House } from '../data/house';
import type { HarnessLoader } from '@angular/cdk/testing';
import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { provideHttpClient } from '@angular/common/http';
import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { TestBed, type ComponentFixture } from '@angular/core/testing';
import { MatCheckboxHarness } from '@angular/material/checkbox/testing';
import { MatSelectHarness } from '@angular/material/select/testing';
import { provideRouter } from '@angular/router';
import type { Profile } from '@treenail/core';
import type { PlatformSummary } from '@treenail/server/contract';
import { Screen } from '../testing/screen';
import { PlatformsPage } from './platforms';

const at = '2026-11-24T05:00:00.000Z';
const platform = (id: number, name: string, more: Partial<PlatformSummary>): PlatformSummary => ({
  id,
  name,
  platform: 'tarnhall',
  label: 'Tarnhall',
  baseUrl: 'http://127.0.0.1:1',
  gives: false,
  fetches: false,
  takes: false,
  leaving: false,
  listedAt: at,
  trouble: null,
  health: { ok: true, checkedAt: at, took: 12, queue: 0, each: 5, problem: null },
  cutOff: null,
  courses: 3,
  withoutCopy: 0,
  forms: [],
  exportsCount: false,
  pausedAt: null,
  patienceMinutes: 840,
  quiet: null,
  failedJobs: 0,
  takesAs: [],
  profileVersion: null,
  ...more,
});
const PROFILE: Profile = {
  id: 'tarnhall',
  label: 'Tarnhall',
  version: 1,
  kinds: { checklist: { carry: 'never', reason: 'none there' } },
  settings: {},
  questions: {},
  questionParts: {},
  limits: {},
};

async function turn(): Promise<void> {
  await new Promise<void>((done) => setTimeout(done));
  TestBed.tick();
}

describe('The platforms', () => {
  let fixture: ComponentFixture<PlatformsPage>;
  let http: HttpTestingController;
  let element: HTMLElement;
  let loader: HarnessLoader;

  beforeEach(async () => {
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting(), provideRouter([])] });
    http = TestBed.inject(HttpTestingController);
    fixture = TestBed.createComponent(PlatformsPage);
    element = fixture.nativeElement as HTMLElement;
    loader = TestbedHarnessEnvironment.loader(fixture);
    fixture.detectChanges();
    TestBed.tick();
    http.expectOne('/api/platforms').flush([
      platform(1, 'New', { takes: true, profileVersion: 1 }),
      platform(2, 'Old', {
        gives: true,
        health: {
          ok: false,
          checkedAt: at,
          took: 9,
          queue: 0,
          each: 0,
          problem: 'The platform refuses the credentials.',
        },
        cutOff: { at: new Date(Date.now() + 5 * 86_400_000).toISOString(), why: 'it is switched off' },
        withoutCopy: 2,
      }),
    ]);
    // The page is not stable before its next question is answered: give it a turn to ask.
    await turn();
    http.expectOne('/api/platforms/1/profile').flush({ profile: PROFILE, history: [] });
    await fixture.whenStable();
  });

  it('say how each is, and what threatens it', () => {
    expect(element.querySelector('h1')?.textContent).toContain('2 connected instances, 1 of them does not work');
    const [, old] = [...element.querySelectorAll('tbody tr')].map((tr) => tr.textContent?.replace(/\s+/g, ' '));
    expect(old).toContain('does not work');
    expect(old).toContain('5 days left');
  });

  it('say of a queue how old its number is', async () => {
    fixture = TestBed.createComponent(PlatformsPage);
    element = fixture.nativeElement as HTMLElement;
    fixture.detectChanges();
    TestBed.tick();
    const asked = (minutes: number) => new Date(Date.now() - minutes * 60_000).toISOString();
    const health = { ok: true, took: 12, each: 30, problem: null };
    http
      .expectOne('/api/platforms')
      .flush([
        platform(1, 'p1', { gives: true, health: { ...health, queue: 3, checkedAt: asked(7) } }),
        platform(2, 'p2', { gives: true, health: { ...health, queue: 0, checkedAt: asked(130) } }),
      ]);
    await turn();
    http.match('/api/platforms/1/profile').forEach((one) => one.flush({ profile: PROFILE, history: [] }));
    await turn();
    const [first, second] = [...element.querySelectorAll('tbody tr')].map((tr) => tr.textContent?.replace(/\s+/g, ' '));
    expect(first).toContain('3 jobs, about 2 min, 7 min ago');
    expect(second).toContain('empty 2 hours ago');
  });

  it('say when one goes today or is gone, and nothing where there is time', async () => {
    const now = new Date();
    const tonight = new Date(now.getFullYear(), now.getMonth(), now.getDate(), 23, 59, 59, 999);
    const goes = (id: number, on: number) =>
      platform(id, `p${id}`, { cutOff: { at: new Date(on).toISOString(), why: 'it is switched off' } });
    fixture = TestBed.createComponent(PlatformsPage);
    element = fixture.nativeElement as HTMLElement;
    fixture.detectChanges();
    TestBed.tick();
    http
      .expectOne('/api/platforms')
      .flush([goes(1, tonight.getTime()), goes(2, now.getTime() - 1000), goes(3, now.getTime() + 90 * 86_400_000)]);
    await turn();
    for (const asked of http.match(() => true)) asked.flush([]);
    await fixture.whenStable();
    const tags = [...element.querySelectorAll('tbody tr')].map((tr) => tr.querySelector('.tag')?.textContent ?? '');
    expect(tags.slice(0, 3)).toEqual(['today', 'gone', '']);
  });

  it('keep a new version of a profile only with what changed and why', async () => {
    await new Screen(fixture).choose('How a checklist arrives', 'as a page');
    expect(element.querySelector('.changes')?.textContent).toContain(
      'checklist: left behind before, carried as page now',
    );
    const note = element.querySelector<HTMLInputElement>('.changes input');
    const form = element.querySelector('.changes form');
    form?.dispatchEvent(new Event('submit'));
    http.expectNone('/api/platforms/1/profile');
    if (note) note.value = 'seen in the rehearsal';
    form?.dispatchEvent(new Event('submit'));
    const asked = http.expectOne('/api/platforms/1/profile');
    expect(asked.request.method).toBe('PUT');
    const body = asked.request.body as { profile: Profile; note: string };
    expect(body.note).toBe('seen in the rehearsal');
    expect(body.profile.kinds.checklist).toEqual({
      carry: 'as',
      ways: [{ as: 'page', reason: 'none there', drops: [] }],
    });
    asked.flush({ profile: { ...body.profile, version: 2 }, history: [] });
    await turn();
    http.expectOne('/api/platforms').flush([]);
  });

  it('are paused and gone on with, and waited for as long as is chosen', async () => {
    const changed = () => http.expectOne('/api/platforms/1');
    const box = await loader.getHarness(MatCheckboxHarness.with({ label: /^paused/ }));
    // The page is not stable before its questions are answered.
    const checking = box.check();
    await turn();
    const paused = changed();
    expect([paused.request.method, paused.request.body]).toEqual(['PUT', { paused: true }]);
    paused.flush([]);
    await turn();
    http.expectOne('/api/platforms').flush([platform(1, 'New', { takes: true, profileVersion: 1, pausedAt: at })]);
    await turn();
    http.match('/api/platforms/1/profile').forEach((asked) => asked.flush({ profile: PROFILE, history: [] }));
    await checking;
    expect(element.textContent).toContain('paused since');
    const [patience, quiet] = await loader.getAllHarnesses(MatSelectHarness);
    if (!patience || !quiet) throw new Error('no choices');
    expect(await quiet.getValueText()).toBe('none');
    expect(await patience.getValueText()).toBe('14 hours');
    await patience.open();
    const choices = await Promise.all((await patience.getOptions()).map((o) => o.getText()));
    expect(choices).toContain('14 hours');
    const choosing = patience.clickOptions({ text: choices[0] ?? '' });
    await turn();
    const waited = changed();
    expect(Object.keys(waited.request.body as object)).toEqual(['patienceMinutes']);
    waited.flush(
      { detail: 'No.', action: 'Ask.', type: '', title: '', status: 403, code: 'x' },
      { status: 403, statusText: 'x' },
    );
    await choosing;
    await turn();
    fixture.detectChanges();
    expect(element.querySelector('[role=alert]')?.textContent).toContain('No.');
  });

  it('say what is missing of a cut-off or a token, and keep neither by halves', async () => {
    const alert = () => [...element.querySelectorAll('[role=alert]')].map((a) => a.textContent);
    const submit = async (label: string) => {
      element.querySelector(`[aria-label="${label}"]`)?.closest('form')?.dispatchEvent(new Event('submit'));
      await fixture.whenStable();
    };
    await submit('Last day');
    expect(alert()).toEqual(['Enter the last day, and why it will be gone after it.']);
    [...element.querySelectorAll('button')].find((b) => b.textContent?.includes('Replace…'))?.click();
    await fixture.whenStable();
    await submit('New token');
    expect(alert()).toEqual(['Enter the new token first.']);
    http.verify();
    for (const [label, value] of [
      ['Last day', '31 March 2027'],
      ['Why it will be gone', 'it was a trial'],
    ]) {
      const field = element.querySelector<HTMLInputElement>(`[aria-label="${label}"]`);
      if (!field) throw new Error(`no ${label}`);
      field.value = value ?? '';
      // A day is read when the field is left.
      for (const event of ['input', 'change']) field.dispatchEvent(new Event(event));
    }
    await fixture.whenStable();
    // Nobody knows yet when that day ends.
    await submit('Last day');
    expect(alert()).toEqual(['The time zone of the house could not be had: reload the page, and try again.']);
    TestBed.inject(House).load();
    http.expectOne('/api/zone').flush('Europe/London');
    await submit('Last day');
    const { request } = http.expectOne('/api/platforms/1');
    expect([request.method, alert()]).toEqual(['PUT', []]);
    const { cutOff } = request.body as { cutOff: { at: string; why: string } };
    // Three days into summer time.
    expect(cutOff).toEqual({ at: '2027-03-31T22:59:00.000Z', why: 'it was a trial' });
  });
});
