import fc from 'fast-check';
import { baseName, folderOf, relativePath, resolvePath } from './paths.ts';

/** Segment by segment, as RFC 3986, 5.2.4 takes dots out; without a look at whether there are any. */
function bySegments(folder: string, relative: string): string | null {
  const bare = relative.split(/[?#]/, 1)[0] ?? '';
  const out: string[] = [];
  for (const segment of (bare.startsWith('/') ? bare : folder + bare).split('/')) {
    if (segment === '..' && out.pop() === undefined) return null;
    if (!['', '.', '..'].includes(segment)) out.push(segment);
  }
  return out.join('/');
}

describe('Package paths', () => {
  const segment = fc.constantFrom('a', 'b.html', '..', '.', '', '.hidden', '...', 'knots & bends', 'ł', 'c?d#e', '#f');
  const reference = fc.array(segment, { maxLength: 6 }).map((s) => s.join('/'));
  const folder = fc.constantFrom('', 'a/', 'a/b/', '.x/');

  it('are resolved the same whether or not they are roundabout', () => {
    fc.assert(
      fc.property(folder, reference, (from, to) => expect(resolvePath(from, to)).toBe(bySegments(from, to))),
      { numRuns: 2000 },
    );
  });

  it('never leave the package', () => {
    expect(resolvePath('a/', '../../b')).toBeNull();
    expect(resolvePath('', '..')).toBeNull();
    expect(resolvePath('a/', '/b')).toBe('b');
  });

  it('seen from another and resolved again are what they were', () => {
    const plain = fc.array(fc.constantFrom('a', 'b', 'c.html', 'ł d'), { minLength: 1, maxLength: 5 });
    fc.assert(
      fc.property(plain, plain, (a, b) => {
        const [from, to] = [a.join('/'), b.join('/')];
        expect(resolvePath(folderOf(from), relativePath(from, to))).toBe(to);
        expect(folderOf(to) + baseName(to)).toBe(to);
      }),
    );
  });
});
