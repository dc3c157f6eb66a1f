import type { Type } from '@angular/core';

/** One screen: its address, its name, who may see it, where it stands in the navigation, and the keys that it hears. */
export interface ScreenDefinition {
  readonly path: string;
  readonly title: string;
  readonly who: 'anyone' | 'signed in' | 'administrator';
  readonly load: () => Promise<Type<unknown>>;
  /** Its place in the navigation, and the key that leads there after `g`. */
  readonly section?: { readonly name: string; readonly key: string };
  readonly keys?: readonly Key[];
}

/** A key, and what it does. */
export type Key = readonly [key: string, does: string];

/** What every list hears. */
const LIST_KEYS: readonly Key[] = [
  ['/', 'filter the list'],
  ['j  k', 'next and previous row'],
];
const CHOOSABLE_KEYS: readonly Key[] = [...LIST_KEYS, ['x', 'choose the row'], ['Shift j  k', 'choose on the way']];

/** Every screen, in the order of the navigation. One is added by its line here. */
export const SCREENS: readonly ScreenDefinition[] = [
  {
    path: 'sign-in',
    title: 'Sign in',
    who: 'anyone',
    load: () => import('./sign-in/sign-in').then((m) => m.SignInPage),
  },
  {
    path: 'courses',
    title: 'Courses',
    who: 'administrator',
    load: () => import('./courses/courses').then((m) => m.CoursesPage),
    section: { name: 'Courses', key: 'c' },
    keys: [...CHOOSABLE_KEYS, ['Enter', 'open its move, or begin one']],
  },
  {
    path: 'moves',
    title: 'Moves',
    who: 'administrator',
    load: () => import('./moves/moves').then((m) => m.MovesPage),
    section: { name: 'Moves', key: 'm' },
    keys: [...LIST_KEYS, ['Enter', 'open the move']],
  },
  ...['moves/:id', 'moves/:id/:step'].map((path): ScreenDefinition => ({
    path,
    title: 'Move',
    who: 'administrator',
    load: () => import('./moves/move').then((m) => m.MovePage),
    keys: [
      ['{  }', 'previous and next step of the move'],
      ['[  ]', 'the same; at the fit and the check, line that is not whole'],
    ],
  })),
  {
    path: 'bench',
    title: 'Bench',
    who: 'administrator',
    load: () => import('./bench/bench').then((m) => m.BenchPage),
    section: { name: 'Bench', key: 'b' },
  },
  {
    path: 'bench/describe',
    title: 'Describe an archive',
    who: 'administrator',
    load: () => import('./describe/describe').then((m) => m.DescribePage),
  },
  {
    path: 'strongroom',
    title: 'Strongroom',
    who: 'administrator',
    load: () => import('./strongroom/strongroom').then((m) => m.StrongroomPage),
    section: { name: 'Strongroom', key: 's' },
    keys: LIST_KEYS,
  },
  {
    path: 'platforms',
    title: 'Platforms',
    who: 'administrator',
    load: () => import('./platforms/platforms').then((m) => m.PlatformsPage),
    section: { name: 'Platforms', key: 'p' },
  },
  {
    path: 'reports',
    title: 'Reports',
    who: 'signed in',
    load: () => import('./reports/reports').then((m) => m.ReportsPage),
    section: { name: 'Reports', key: 'r' },
    keys: [...LIST_KEYS, ['Enter', 'open the report']],
  },
  {
    path: 'reports/:id',
    title: 'Transfer report',
    who: 'signed in',
    load: () => import('./reports/report').then((m) => m.ReportPage),
  },
];

export interface Section {
  readonly path: string;
  readonly name: string;
  readonly key: string;
}

/** The sections of the navigation that somebody of this role has. */
export function sectionsFor(role: string | undefined): Section[] {
  return SCREENS.flatMap(({ path, who, section }) =>
    section && (who !== 'administrator' || role === 'administrator') ? [{ path: `/${path}`, ...section }] : [],
  );
}

/** The keys that are heard on a screen by somebody of this role: those of every screen, and its own. */
export function keysOn(path: string | undefined, role: string | undefined): Key[] {
  const own = SCREENS.find((s) => s.path === path)?.keys ?? [];
  return [
    ...(role === 'administrator' ? [[own.some(([key]) => key === '/') ? 'g /' : '/', 'search'] as const] : []),
    ...sectionsFor(role).map(({ name, key }): Key => [`g ${key}`, name]),
    ...own,
    ['?', 'this list'],
  ];
}
