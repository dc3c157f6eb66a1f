import { readFileSync, readdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { CODES } from './model/index.ts';

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url));

/** What stands in the docs: by chapter, each code with when it is given, what to do, and its status. */
function documented(): Record<string, Record<string, string[]>> {
  const chapters = readFileSync(at('../../docs/problems.md'), 'utf8').split(/^## /m).slice(1);
  return Object.fromEntries(
    chapters.map((chapter) => [
      chapter.slice(0, chapter.indexOf('\n')),
      Object.fromEntries(
        [...chapter.matchAll(/^\| `([a-z0-9-]+)` +\| (.*?) +\| (.*?) +\| (\d*) *\|/gm)].map((m) => [
          m[1],
          [m[2], m[3], m[4]],
        ]),
      ),
    ]),
  );
}

function sourcesIn(folder: string): string[] {
  return readdirSync(at(folder), { recursive: true, encoding: 'utf8' })
    .filter((name) => name.endsWith('.ts') && !name.endsWith('.spec.ts') && !name.endsWith('codes.ts'))
    .map((name) => readFileSync(`${at(folder)}/${name}`, 'utf8'));
}

/** What a refusal or a note says must be found in the documentation by its code. */
describe('The codes of refusals and notes', () => {
  it('are in docs/problems.md just as in the list', () => {
    const listed = Object.entries(CODES).map(([chapter, codes]) => [
      chapter,
      Object.fromEntries(
        Object.entries(codes).map(([code, { when, act, ...more }]) => {
          // Notes are told beside what was read; only a refusal has a status.
          const status = 'status' in more ? String(more.status) : chapter === 'Notes' ? '' : '422';
          return [code, [when, act, status]];
        }),
      ),
    ]);
    expect(documented()).toEqual(Object.fromEntries(listed) as Record<string, Record<string, string[]>>);
  });

  it('are all given somewhere, and none is given that is not in the list', () => {
    const sources = ['.', '../../server/src', '../../web/src/app'].flatMap(sourcesIn).join('\n');
    const listed = Object.values(CODES).flatMap((codes) => Object.keys(codes));
    expect(listed.length).toBeGreaterThan(100);
    expect(listed.filter((code) => !sources.includes(`'${code}'`))).toEqual([]);
    const given = [...sources.matchAll(/\b(?:problem|warning|remark|refuse)\(\s*'([a-z0-9-]+)'/g)].map(
      (m) => m[1] ?? '',
    );
    expect(given.filter((code) => !listed.includes(code))).toEqual([]);
  });
});
