import fc from 'fast-check';
import { Refusal } from '../model/index.ts';
import { escapeXml, openTagsWith, parseXml, splice, textOf, xml, type XmlElement } from './index.ts';

/** Whatever may stand at the end of a piece: signs of two units, line ends, tags, references. */
const parts = fc.constantFrom(
  '😀',
  '\r\n',
  '\r',
  '\n',
  '&amp;',
  '&#x1F4A7;',
  'w',
  '<b k="v\n😀">t</b>',
  '<!-- < -->',
  '<![CDATA[<]]>',
  '<c/>',
);

/** The same text, as an XML processor gives it (XML 1.0, 2.11 and 2.4). */
function asRead(part: string): string {
  if (part.startsWith('<b')) return 't';
  if (part.startsWith('<![')) return '<';
  if (part.startsWith('<')) return '';
  return part.replace(/\r\n?/g, '\n').replace('&amp;', '&').replace('&#x1F4A7;', '💧');
}

function all(element: XmlElement): XmlElement[] {
  return [element, ...element.children.flatMap((c) => (typeof c === 'string' ? [] : all(c)))];
}

describe('XML as a tree', () => {
  it('reads the same wherever a long text is cut into pieces', () => {
    fc.assert(
      fc.property(fc.integer({ min: 4060, max: 4100 }), fc.array(parts, { maxLength: 30 }), (before, tail) => {
        // The text before it moves the pieces' ends through what follows.
        const text = `<a>${'x'.repeat(before)}${tail.join('')}</a>`;
        const root = parseXml(text, 'a.xml');
        // Two line ends that meet are one.
        const expected = tail.join('\u0000').replaceAll('\r\u0000\n', '\r\n').split('\u0000').map(asRead).join('');
        expect(textOf(root)).toBe('x'.repeat(before) + expected);
        for (const element of all(root)) {
          expect(text.slice(element.start, element.openEnd)).toMatch(/^<[abc][^<]*>$/);
          expect(text.slice(element.closeStart, element.end)).toMatch(/^(<\/[abc]>)?$/);
        }
      }),
      { numRuns: 400 },
    );
  });

  it('says the line of what is wrong, however far down', () => {
    const text = `<a>\n${'<b>x</b>\n'.repeat(3000)}<c></d></a>`;
    try {
      parseXml(text, 'far.xml');
      fail('was read');
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      expect([error.problem.code, error.problem.file, error.problem.line]).toEqual(['xml-malformed', 'far.xml', 3002]);
    }
  });

  it('keeps lines of elements', () => {
    const root = parseXml(`<a>\n${'<b/>\n'.repeat(2000)}</a>`, 'x');
    const lines = root.children.flatMap((c) => (typeof c === 'string' ? [] : [c.line]));
    expect(lines).toEqual(Array.from({ length: 2000 }, (_, i) => i + 2));
  });

  it('writes what it reads', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (any) => {
        // What XML can not hold (XML 1.0, 2.2) is no part of a text.
        // eslint-disable-next-line no-control-regex
        const words = any.replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|\p{Cs}|\r/gu, '');
        const root = parseXml(xml('a', { k: words }, escapeXml(words)), 'x');
        expect(textOf(root)).toBe(words);
        // Line ends and tabs in a value are spaces (XML 1.0, 3.3.3) unless they are written as references.
        expect(root.attrs['k']?.replace(/\s/g, ' ')).toBe(words.replace(/\s/g, ' '));
      }),
    );
  });

  it('replaces ranges and keeps the rest', () => {
    const text = '<a><b>one</b><b>two</b></a>';
    const [first, second] = all(parseXml(text, 'x')).slice(1);
    if (!first || !second) throw new Error('two elements');
    const changed = splice(text, [
      { start: second.openEnd, end: second.closeStart, text: '2' },
      { start: first.start, end: first.end, text: '' },
    ]);
    expect(changed).toBe('<a><b>2</b></a>');
    const overlapping = [
      { start: 0, end: 5, text: '' },
      { start: 4, end: 6, text: '' },
    ];
    expect(() => splice(text, overlapping)).toThrowError(RangeError);
  });

  it('has the same open tags that hold a word, without being parsed', () => {
    const piece = fc.constantFrom(
      'words" >',
      '&lt;a k="word"&gt;',
      '<!-- <c k="word"> -->',
      '<!-- <c k=" -->',
      '<![CDATA[<d word>]]>',
      '<?do <e word> ?>',
      '<b k="word > 0" j=\'" word\'/>',
      '<p:word xmlns:p="urn:p"\n k="">t</p:word>',
      '<f k="none"><!-- > --></f>',
      '<w>word</w>',
    );
    fc.assert(
      fc.property(fc.array(piece), (pieces) => {
        const text = `<?xml version="1.0"?><!DOCTYPE a [<!ELEMENT a ANY>]><a>${pieces.join('')}</a>`;
        const tags = all(parseXml(text, 'a.xml'))
          .map((e) => ({ start: e.start, tag: text.slice(e.start, e.openEnd) }))
          .filter(({ tag }) => tag.includes('word'));
        expect([...openTagsWith(text, /word/g)]).toEqual(tags);
      }),
      { numRuns: 1000 },
    );
  });
});
