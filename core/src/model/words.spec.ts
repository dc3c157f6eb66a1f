import fc from 'fast-check';
import { count, plural, readableSize, withArticle } from './words.ts';
import { KIND_LABELS } from './kinds/index.ts';

describe('Numbers and names in words', () => {
  it('have sizes in the unit that reads best, with two or three figures', () => {
    expect([0, 999, 1000, 9_950, 99_900, 999_499, 999_500, 180e6, 4.2e9, 7e15].map(readableSize)).toEqual([
      '0\u00a0B',
      '999\u00a0B',
      '1.0\u00a0kB',
      '9.9\u00a0kB',
      '100\u00a0kB',
      '999\u00a0kB',
      '1.0\u00a0MB',
      '180\u00a0MB',
      '4.2\u00a0GB',
      '7000\u00a0TB',
    ]);
    fc.assert(
      fc.property(fc.nat(Number.MAX_SAFE_INTEGER), (bytes) => {
        const [value, unit] = readableSize(bytes).split('\u00a0');
        const exact = bytes / 1000 ** ['B', 'kB', 'MB', 'GB', 'TB'].indexOf(unit ?? '');
        expect(Math.abs(Number(value) - exact)).toBeLessThanOrEqual(exact < 10 ? 0.0501 : 0.501);
      }),
    );
  });

  it('have as many as there are', () => {
    expect([count(0, 'quiz'), count(1, 'quiz'), count(2, 'quiz')]).toEqual(['0 quizzes', '1 quiz', '2 quizzes']);
    expect(['grade category', 'address', 'switch', 'day', 'box', 'wish'].map(plural)).toEqual([
      'grade categories',
      'addresses',
      'switches',
      'days',
      'boxes',
      'wishes',
    ]);
    expect(count(2, 'course of one kind', 'courses of one kind')).toBe('2 courses of one kind');
  });

  it('have the article that they are spoken with', () => {
    expect(['page', 'assignment', 'event', 'quiz', 'attendance register'].map(withArticle)).toEqual([
      'a page',
      'an assignment',
      'an event',
      'a quiz',
      'an attendance register',
    ]);
    for (const label of Object.values(KIND_LABELS)) expect(withArticle(label)).toMatch(/^(a [^aeiou]|an [aeiou])/);
  });
});
