import fc from 'fast-check';
import { markDifferences } from './marks.ts';

const stripped = (html: string) => html.replace(/<\/?mark[^>]*>/g, '');
const marked = (html: string) => [...html.matchAll(/<mark[^>]*>(.*?)<\/mark>/gs)].map((m) => m[1]);

describe('Two pages side by side', () => {
  it('have the words marked that only one of them has', () => {
    const { left, right, changes } = markDifferences(
      '<p>Caulk the <b>garboard</b> seam first.</p>',
      '<p class="x">Caulk the <i>sheer</i> seam first, then pay it.</p>',
    );
    expect([marked(left), marked(right)]).toEqual([
      ['garboard', 'first.'],
      ['sheer', 'first, then pay it.'],
    ]);
    expect(changes).toBe(2);
  });

  it('have nothing marked where only the mark-up differs', () => {
    const { left, right, changes } = markDifferences(
      '<h1>Tar</h1><p>hot &amp; thick</p>',
      '<p>Tar hot &amp; thick</p>',
    );
    expect([marked(left), marked(right), changes]).toEqual([[], [], 0]);
  });

  it('have no mark in what nobody reads', () => {
    const { left } = markDifferences('<style>p { color: red }</style><script>a()</script><p>Tar</p>', '<p>Tar</p>');
    expect(marked(left)).toEqual([]);
  });

  it('have a mark for each stretch, so that no tag is torn apart', () => {
    const { right } = markDifferences('<p></p>', '<p>one <b>two three</b> four</p>');
    expect(right.replace(/ style="[^"]*"/g, '')).toBe(
      '<p><mark>one</mark> <b><mark>two three</mark></b> <mark>four</mark></p>',
    );
  });

  it('are said to be too long rather than held against one another for ever', () => {
    const words = (n: number, word: string) => `<p>${Array.from({ length: n }, (_, i) => `${word}${i}`).join(' ')}</p>`;
    expect(markDifferences(words(50_000, 'a'), '<p>b</p>').changes).toBeNull();
    expect(markDifferences(words(5000, 'a'), words(5000, 'b')).changes).toBeNull();
  });

  it('are what they were once the marks are taken away, and alike to themselves', () => {
    const word = fc.constantFrom('tar', 'oakum', 'seam', '&eacute;t&eacute;', 'a&lt;b', 'ropes,', 'Ża', 'مد');
    const part: fc.Arbitrary<string> = fc.oneof(
      fc.array(word, { maxLength: 6 }).map((w) => w.join(' ')),
      fc
        .tuple(fc.constantFrom('p', 'b', 'li', 'script'), fc.array(word, { maxLength: 5 }))
        .map(([t, w]) => `<${t}>${w.join(' ')}</${t}>`),
      fc.constant('<img src="a.png" alt="no word">'),
    );
    const page = fc.array(part, { maxLength: 8 }).map((parts) => parts.join('\n'));
    fc.assert(
      fc.property(page, page, (left, right) => {
        const found = markDifferences(left, right);
        expect([stripped(found.left), stripped(found.right)]).toEqual([left, right]);
        expect(markDifferences(left, left)).toEqual({ left, right: left, changes: 0 });
        // What is marked nowhere is in both, word for word.
        const kept = (html: string) =>
          html
            .replace(/<mark[^>]*>.*?<\/mark>/gs, ' ')
            .replace(/<script>.*?<\/script>/gs, ' ')
            .replace(/<[^>]*>/g, ' ')
            .split(/\s+/)
            .filter(Boolean);
        expect(kept(found.left)).toEqual(kept(found.right));
      }),
      { numRuns: 200 },
    );
  });
});
