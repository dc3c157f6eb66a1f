import { ChangeDetectionStrategy, Component, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { TestbedHarnessEnvironment } from '@angular/cdk/testing/testbed';
import { MatMenuHarness } from '@angular/material/menu/testing';
import { Router, provideRouter, withRouterConfig } from '@angular/router';
import type { JobSummary, Person } from '@treenail/server/contract';
import { of, throwError, type Observable } from 'rxjs';
import { App } from './app';
import { Api } from './data/api';
import { JobsService } from './data/jobs';
import { KeepingService } from './data/keeping';
import { SessionService } from './data/session';
import { Screen } from './testing/screen';

@Component({ selector: 'tn-page', changeDetection: ChangeDetectionStrategy.OnPush, template: '<h1>A page</h1>' })
class Page {}

describe('The frame of every screen', () => {
  const person = signal<Pick<Person, 'name' | 'role'> | null>(null);
  let screen: Screen<App>;
  let router: Router;
  let signOut: Observable<unknown>;
  let slow: Promise<typeof Page>;
  let come: () => void;
  const here = () => router.url;
  const press = async (key: string, more: KeyboardEventInit = {}, on: EventTarget = document) => {
    on.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, ...more }));
    await screen.settle();
  };

  beforeEach(async () => {
    person.set({ name: 'Ina Rowe', role: 'administrator' });
    signOut = of(null);
    slow = new Promise((done) => (come = () => done(Page)));
    const sections = ['courses', 'moves', 'bench', 'strongroom', 'platforms', 'reports', 'sign-in'];
    TestBed.configureTestingModule({
      providers: [
        provideRouter(
          [
            ...sections.map((path) => ({ path, component: Page })),
            { path: 'slow', loadComponent: () => slow },
            { path: 'gone', loadComponent: () => Promise.reject(new Error('404')) },
          ],
          withRouterConfig({ resolveNavigationPromiseOnError: true }),
        ),
        { provide: Api, useValue: { search: () => of([]), zone: () => of('Europe/London') } },
        { provide: SessionService, useValue: { person, signOut: () => signOut } },
        { provide: JobsService, useValue: { jobs: signal<JobSummary[]>([]), lost: signal(null) } },
        { provide: KeepingService, useValue: { sending: signal([]) } },
      ],
    });
    screen = new Screen(TestBed.createComponent(App));
    router = TestBed.inject(Router);
    await router.navigateByUrl('/courses');
    await screen.settle();
  });

  it('says that a page is on its way where its script is long in coming', async () => {
    const going = router.navigateByUrl('/slow');
    await screen.until(() => screen.host.textContent.includes('Opening the page…'));
    come();
    await going;
    await screen.settle();
    expect(screen.host.textContent).not.toContain('Opening the page…');
    expect(here()).toBe('/slow');
  });

  it('shows an administrator all sections, an instructor the reports only, and nobody nothing', async () => {
    expect(screen.texts('nav a')).toEqual(['Courses', 'Moves', 'Bench', 'Strongroom', 'Platforms', 'Reports']);
    expect(screen.words('nav .on')).toBe('Courses');
    expect(screen.words('.me')).toBe('IR');
    person.set({ name: 'Ina Rowe', role: 'instructor' });
    await screen.settle();
    expect(screen.texts('nav a')).toEqual(['Reports']);
    expect([screen.host.querySelector('tn-finder'), screen.host.querySelector('tn-tideline')]).toEqual([null, null]);
    person.set(null);
    await screen.settle();
    expect(screen.host.querySelector('header')).toBeNull();
  });

  it('goes to a section by g and its letter, but not while somebody types', async () => {
    await press('g');
    await press('s');
    expect(here()).toBe('/strongroom');
    await press('s');
    expect(here()).toBe('/strongroom');
    const field = document.createElement('input');
    document.body.append(field);
    await press('g', {}, field);
    await press('m', {}, field);
    await press('g', { ctrlKey: true });
    await press('m');
    field.remove();
    expect(here()).toBe('/strongroom');
    // A letter without a section ends it.
    await press('g');
    await press('z');
    await press('m');
    expect(here()).toBe('/strongroom');
  });

  it('goes to the search by a slash', async () => {
    document.body.append(screen.host);
    await press('/');
    expect(document.activeElement?.tagName).toBe('INPUT');
  });

  it('says when a page’s script could not be had, stays where it is, and offers to load it anew', async () => {
    await router.navigateByUrl('/gone');
    await screen.settle();
    expect(screen.words('[role=alert]')).toContain('This page did not come');
    expect(screen.host.querySelector('[role=alert] a')?.getAttribute('href')).toBe('/gone');
    expect(screen.words('main h1')).toBe('A page');
    await router.navigateByUrl('/moves');
    await screen.settle();
    expect(screen.host.querySelector('[role=alert]')).toBeNull();
  });

  it('signs out, or says that one is still signed in', async () => {
    const choose = async () => {
      const menu = await TestbedHarnessEnvironment.loader(screen.fixture).getHarness(MatMenuHarness);
      await menu.clickItem({ text: 'Sign out' });
      await screen.settle();
    };
    signOut = throwError(() => new Error('no'));
    await choose();
    expect(screen.words('[role=alert]')).toContain('You are still signed in.');
    expect(here()).toBe('/courses');
    signOut = of(null);
    await choose();
    expect(screen.host.querySelector('[role=alert]')).toBeNull();
    expect(here()).toBe('/sign-in');
  });
});
