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
  it('leaves one space where there was any', () => {
    fc.assert(
      fc.property(fc.stringMatching(/^[ \n\t\u00a0ab]{0,20}$/), (text) => {
        expect(fold(text)).toBe(text.replace(/\s+/g, ' ').trim());
      }),
    );
  });
});
