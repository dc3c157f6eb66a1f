import { readFileSync, readdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

/** What a refusal or a note says must be found in the documentation by its code. */
describe('The codes of refusals and notes', () => {
  it('are all in docs/formats.md', () => {
    const here = fileURLToPath(new URL('.', import.meta.url));
    const docs = readFileSync(fileURLToPath(new URL('../../docs/formats.md', import.meta.url)), 'utf8');
    const sources = readdirSync(here, { recursive: true, encoding: 'utf8' })
      .filter((name) => name.endsWith('.ts') && !name.endsWith('.spec.ts'))
      .map((name) => readFileSync(here + name, 'utf8'));
    const codes = new Set(
      sources.flatMap((text) =>
        [...text.matchAll(/\b(?:problem|warning|remark|refuse)\(\s*'([a-z-]+)'/g)].map((m) => m[1] ?? ''),
      ),
    );
    expect(codes.size).toBeGreaterThan(30);
    expect([...codes].filter((code) => !docs.includes(`\`${code}\``))).toEqual([]);
  });
});
