import fc from 'fast-check';
import { FINDING_SETTINGS } from './findings/contract.ts';
import { matchesOf, patternOf, whyUnfit } from './patterns.ts';

const all = (source: string, text: string) => [...matchesOf(source, text)].map((m) => [m.text, m.index]);

describe('Patterns of the house', () => {
  it('find every place, small and capital letters alike, with its offset', () => {
    expect(all('(staff|tutor) no\\.? ?\\d{2}', 'Ask Tutor no. 12, then STAFF NO 07 — ☺ tutor no.33')).toEqual([
      ['Tutor no. 12', 4],
      ['STAFF NO 07', 23],
      ['tutor no.33', 39],
    ]);
    expect(patternOf('a+b').fits('xxaab')).toBeTrue();
    expect(patternOf('a+b').fits('xxaa')).toBeFalse();
  });

  it('end on any text, whatever the pattern', () => {
    const hard = `${'7'.repeat(200_000)}!`;
    for (const source of ['(\\d|\\d\\d)+X', '(a+)+$', '(\\w+\\s?)+:', '(7*)*8']) {
      const began = performance.now();
      expect(all(source, hard)).withContext(source).toEqual([]);
      // The engine that is built in would not be done before the sun is out.
      expect(performance.now() - began)
        .withContext(source)
        .toBeLessThan(60_000);
    }
  });

  it('find what the engine that is built in finds, where both can do it', () => {
    const sources = ['[a-c]{2,3}', 'a(b|c)*d', '\\bM\\d{2}\\b', 'x?y+', '[^ ]+@b'];
    fc.assert(
      fc.property(fc.constantFrom(...sources), fc.stringMatching(/^[abcdxyM0-9@ ]{0,40}$/), (source, text) => {
        expect(all(source, text)).toEqual([...text.matchAll(new RegExp(source, 'gi'))].map((m) => [m[0], m.index]));
      }),
    );
  });

  it('are tried when they are entered, and refused in words that say why', () => {
    for (const source of [
      ...FINDING_SETTINGS.placeholders,
      FINDING_SETTINGS.peopleFiles,
      '(\\d|\\d\\d)+X',
      'enrol(l)?ment',
    ])
      expect(whyUnfit(source, () => 0))
        .withContext(source)
        .toBeNull();
    expect(whyUnfit('a*')).toBe('fits what is empty');
    expect(whyUnfit('.', () => 0)).toBe('fits nearly every letter');
    for (const source of ['(', '(?<!a)b', '(a)\\1']) expect(whyUnfit(source)).toContain('can not be read');
  });

  it('are refused where they are slow each time that they are tried, and not where they were so once', () => {
    let [calls, seconds] = [0, 0];
    const slowFor = (many: number) => () => (calls++ < many ? (seconds += 2) : seconds) * 1000;
    expect(whyUnfit('tutor@', slowFor(2))).toBeNull();
    calls = 0;
    expect(whyUnfit('tutor@', slowFor(Number.POSITIVE_INFINITY))).toBe('takes too long on an ordinary page');
  });
});
