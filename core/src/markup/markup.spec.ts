import fc from 'fast-check';
import { fold, parseXml, plainText, toXhtml } from './index.ts';

describe('HTML as XHTML', () => {
  const bits = fc.constantFrom(
    '<p>',
    '</p>',
    '<br>',
    '<b😀>',
    '<a href=x',
    ' on"=1',
    '>',
    '<',
    '&',
    '&nbsp;',
    '&lt;',
    'a',
    ' ',
    '"',
    "'",
    'Ł',
    '<img src=y>',
    '<!-- x -->',
    '<script>x</script>',
    '<i 1a=2>',
    ']]>',
  );
  const html = fc.array(bits, { maxLength: 14 }).map((list) => list.join(''));

  it('is always well-formed XML, and says the same when it is read again', () => {
    fc.assert(
      fc.property(html, (text) => {
        const made = toXhtml(text);
        expect(() => parseXml(`<x>${made}</x>`, 'x')).not.toThrow();
        expect(plainText(toXhtml(made))).toBe(plainText(made));
      }),
      { numRuns: 3000 },
    );
  });

  it('says what the text said, and runs nothing', () => {
    const sayable = fc
      .array(fc.constantFrom('<p>', '</p>', '<br>', '<b😀>', '&lt;', '&amp;', 'a', ' ', 'Ł', '<em>', '</em>'), {
        maxLength: 12,
      })
      .map((list) => list.join(''));
    fc.assert(
      fc.property(sayable, (text) => expect(plainText(toXhtml(text))).toBe(plainText(text))),
      { numRuns: 2000 },
    );
    expect(toXhtml('<p onclick="x()">a</p><script>y()</script>')).toBe('<p>a</p>');
  });
});

describe('Folding white space', () => {
  /** Everything that is white space, of which there is none beyond the first plane. */
  const spaces = Array.from({ length: 0x10000 }, (_, code) => String.fromCharCode(code)).filter((c) => /\s/.test(c));

  it('leaves one space where there was any', () => {
    expect(spaces.length).toBe(25);
    fc.assert(
      fc.property(fc.array(fc.constantFrom(...spaces, ' ', ' ', 'a', 'b'), { maxLength: 20 }), (letters) => {
        const text = letters.join('');
        expect(fold(text)).toBe(text.replace(/\s+/g, ' ').trim());
      }),
    );
  });
});
