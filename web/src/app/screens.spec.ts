import { routes } from './routes';
import { SCREENS, keysOn, sectionsFor } from './screens';

describe('Screens', () => {
  it('have each a route that is guarded as it says, and a path and key of its own', () => {
    for (const { path, who, title } of SCREENS) {
      const route = routes.find((r) => r.path === path);
      expect(route?.title).toBe(`${title} · Treenail`);
      expect(route?.canActivate?.length).toBe(who === 'anyone' ? 0 : who === 'signed in' ? 1 : 2);
    }
    const paths = SCREENS.map((s) => s.path);
    const keys = SCREENS.flatMap((s) => s.section?.key ?? []);
    expect([new Set(paths).size, new Set(keys).size]).toEqual([paths.length, keys.length]);
  });

  it('stand in the navigation of whoever may see them, and their keys in the list of keys', () => {
    expect(sectionsFor('administrator').map((s) => s.name)).toEqual([
      'Courses',
      'Moves',
      'Bench',
      'Strongroom',
      'Platforms',
      'Reports',
    ]);
    expect(sectionsFor('instructor').map((s) => s.path)).toEqual(['/reports']);
    expect(keysOn('courses', 'administrator').map(([key]) => key)).toEqual([
      'g /',
      ...['g c', 'g m', 'g b', 'g s', 'g p', 'g r'],
      ...['/', 'j  k', 'x', 'Shift j  k', 'Enter', '?'],
    ]);
    expect(keysOn('bench', 'administrator').map(([key]) => key)[0]).toBe('/');
    expect(keysOn('reports', 'instructor').map(([key]) => key)).toEqual(['g r', '/', 'j  k', 'Enter', '?']);
  });

  it('are loaded when they are first shown', async () => {
    for (const { load } of SCREENS) expect(typeof (await load())).toBe('function');
  });
});
