import fc from 'fast-check';
import { TextIndex, excerptAround, folded, markWords, wordsAsked } from './search.ts';

describe('The search in a course', () => {
  const index = new TextIndex();
  index.add('a', 'Caulking', 'Cotton is rolled in, never stuffed. Cotton tells you.');
  index.add('b', 'Żegluga przybrzeżna', 'Słowa i zwyczaje');
  index.add('c', 'Cotton', '');
  index.add('c', 'Cotton', 'the seam');
  index.add('d', 'الملاحة', 'القوارب الساحلية');

  const found = (question: string) => index.search(question).hits.map((h) => h.item);

  it('finds any part of a word, without regard to capitals and accents, titles first', () => {
    expect(found('cotton')).toEqual(['c', 'a']);
    expect(found('ROLLED')).toEqual(['a']);
    expect(found('zegluga slowa')).toEqual(['b']);
    expect(found('القوارب')).toEqual(['d']);
    expect(found('cotton seam')).toEqual(['c']);
    expect(found('"never stuffed"')).toEqual(['a']);
    expect(found('"stuffed never"')).toEqual([]);
    expect(found('  ')).toEqual([]);
  });

  it('counts, and shows what stands around', () => {
    const [, hit] = index.search('cotton').hits;
    expect(hit?.times).toBe(2);
    expect(excerptAround('Cotton is rolled in', hit?.at ?? -1, wordsAsked('cotton'))).toEqual({
      text: 'Cotton is rolled in',
      marks: [[0, 6]],
    });
  });

  it('folds without moving a letter', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), (text) => {
        expect(folded(text).length).toBe(text.length);
        expect(folded(folded(text))).toBe(folded(text));
      }),
      { numRuns: 2000, examples: [['ᜪİu'], ['Ǿǿ']] },
    );
    for (let code = 0; code < 0x2fff; code++) {
      const letter = String.fromCharCode(code);
      expect(folded(folded(letter))).toBe(folded(letter));
    }
    // A dotted capital has no small letter of one unit, and is found by the plain one.
    expect(folded('İŁÓDŹ Ångström')).toBe('ilodz angstrom');
  });

  it('marks what a reader sees, and nothing else', () => {
    const page = '<title>Seam</title><p class="seam">A <b>Seam</b> &amp; seam<script>seam()</script></p>';
    expect(markWords(page, ['seam'])).toBe(
      '<title>Seam</title><p class="seam">A <b><mark>Seam</mark></b> &amp; <mark>seam</mark><script>seam()</script></p>',
    );
  });
});
