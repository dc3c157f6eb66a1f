import fc from 'fast-check';
import { Parser } from 'htmlparser2';
import { plainText } from './html.ts';
import { addressesInCss, readPage, rewriteReferences, unbased, wholeOf } from './page.ts';

const at = (html: string, span: { start: number; end: number } | null) =>
  span === null ? null : html.slice(span.start, span.end);

describe('A page read in one pass', () => {
  it('tells every reference with the address as it stands in the source', () => {
    const cases: [html: string, use: string, value: string, source: string][] = [
      ['<a href="c%20d.html?x=1&amp;y=2#z">x</a>', 'anchor', 'c%20d.html?x=1&y=2#z', 'c%20d.html?x=1&amp;y=2#z'],
      ["<a href = 'b.html'>x</a>", 'anchor', 'b.html', 'b.html'],
      ['<a href=b.html>x</a>', 'anchor', 'b.html', 'b.html'],
      ['<map><area href="m.html"></map>', 'anchor', 'm.html', 'm.html'],
      ['<img src="p.png">', 'image', 'p.png', 'p.png'],
      ['<video poster="v.jpg"></video>', 'image', 'v.jpg', 'v.jpg'],
      ['<audio src="s.mp3"></audio>', 'media', 's.mp3', 's.mp3'],
      ['<track src="t.vtt">', 'media', 't.vtt', 't.vtt'],
      ['<object data="o.pdf"></object>', 'media', 'o.pdf', 'o.pdf'],
      ['<iframe src="f.html"></iframe>', 'frame', 'f.html', 'f.html'],
      ['<link rel="stylesheet" href="s.css">', 'style', 's.css', 's.css'],
      ['<script src="s.js"></script>', 'script', 's.js', 's.js'],
      ['<p style="background:url(\'b.png\')">x</p>', 'style', 'b.png', 'b.png'],
      ['<style>@import "i.css";</style>', 'style', 'i.css', 'i.css'],
    ];
    for (const [html, use, value, source] of cases) {
      const { references } = readPage(html);
      expect(references.map((r) => [r.use, r.value, at(html, r.at)]))
        .withContext(html)
        .toEqual([[use, value, source]]);
    }
  });

  it('tells each candidate of a srcset, and leaves their descriptors', () => {
    const html = '<img alt="" srcset="a.png 1x, b.png 2x,c.png 100w">';
    expect(readPage(html).references.map((r) => at(html, r.at))).toEqual(['a.png', 'b.png', 'c.png']);
  });

  it('tells elements with their closing tags and their words', () => {
    const html = '<h2 id="t">Title <b>of</b> it</h2><a name="n" href="x">see <i>this</i></a><img src="p">';
    const page = readPage(html);
    expect(page.headings.map((h) => [at(html, h.open), at(html, h.close), h.text])).toEqual([
      ['<h2 id="t">', '</h2>', 'Title of it'],
    ]);
    expect([...page.anchors]).toEqual(['t', 'n']);
    const [link] = page.references;
    expect(link?.element && at(html, wholeOf(link.element))).toBe('<a name="n" href="x">see <i>this</i></a>');
    expect(page.images.map((i) => [i.close, at(html, i.at['src'] ?? null)])).toEqual([[null, 'src="p"']]);
  });

  it('counts rows and header cells of the innermost table', () => {
    const { tables } = readPage(
      '<table><tr><th>a<td><table><tr><td>1</table><tr><td>b</table><table><tr><td>x</table>',
    );
    expect(tables.map((t) => [t.rows, t.headers])).toEqual([
      [2, 1],
      [1, 0],
      [1, 0],
    ]);
  });

  it('tells scripts, handlers, classes, language, base and title', () => {
    const page = readPage(
      '<html lang="gd"><head><title>T</title><base href="b/"></head><body onload="x()" class="a  b"><script>1</script></body></html>',
    );
    expect([page.lang, page.base, page.title, page.text]).toEqual(['gd', 'b/', 'T', '']);
    expect(page.scripts.map((s) => s.name)).toEqual(['body', 'script']);
    expect([...page.classes.keys()]).toEqual(['a', 'b']);
  });

  it('finds addresses in style sheets however they are quoted', () => {
    const css = '@import url("a.css"); @import \'b.css\'; p { background: url( c.png ), url(\'d e.png\'); x: url("") }';
    expect(addressesInCss(css).map((a) => [a.value, css.slice(a.start, a.end)])).toEqual([
      ['a.css', 'a.css'],
      ['b.css', 'b.css'],
      ['c.png', 'c.png'],
      ['d e.png', 'd e.png'],
    ]);
  });

  it('says the same text as the light reading, and never a place outside the source', () => {
    const piece = fc.constantFrom(
      '<a href="',
      '">',
      '</a>',
      '<p>',
      'x',
      '&amp;',
      '<!--',
      '-->',
      '<table>',
      '<td',
      '=',
      "'",
      '<img src=',
      ' ',
      '<style>url(',
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 40 }), (pieces) => {
        const html = pieces.join('');
        const page = readPage(html);
        expect(page.text).toBe(plainText(html));
        for (const { at: span, element } of page.references) {
          expect(span.start).toBeLessThanOrEqual(span.end);
          expect(span.end).toBeLessThanOrEqual(html.length);
          if (element) expect(html.charAt(element.open.start)).toBe('<');
        }
      }),
      { numRuns: 500 },
    );
  });

  it('decodes character references in a title, where tags are none', () => {
    expect(readPage('<title>Caf&eacute; &lt;b> <i> &amp;c</title><p>x').title).toBe('Café <b> <i> &c');
  });

  it('decodes character references as the parser itself would', () => {
    const piece = fc.constantFrom(
      ...[
        '&',
        '&amp;',
        '&copy',
        '&copy=1',
        '&nbsp;',
        '&#8211;',
        '&#x41',
        '&lt;b&gt;',
        'amp;',
        '; ',
        'x',
        '<',
        '< b',
        ' ',
      ],
      ...['<p>', '</p>', '<title>', '</title>', '<textarea>', '</textarea>', '<xmp>', '</xmp>', '<style>', '</style>'],
      ...[
        '<svg>',
        '</svg>',
        '<iframe>',
        '</iframe>',
        '<img alt="',
        '<img alt=',
        "<img alt='",
        '"',
        "'",
        '>',
        '<plaintext>',
      ],
      ...['<script>', '</script>', '<noembed>', '</noembed>', '<![CDATA[', ']]>', '<math>', '<mtext>', '<desc>'],
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 30 }), (pieces) => {
        const html = pieces.join('');
        const { text, images } = readPage(html);
        expect(text).withContext(html).toBe(plainText(html));
        const alts: (string | undefined)[] = [];
        new Parser({ onopentag: (name, attrs) => void (name === 'img' && alts.push(attrs['alt'])) }).end(html);
        expect(images.map((i) => i.attrs['alt']))
          .withContext(html)
          .toEqual(alts);
      }),
      { numRuns: 2000 },
    );
  });

  it('rewrites references wherever they stand, and nothing else', () => {
    const html =
      `<body background="bg.png"><img src=a.png srcset="a.png 1x, b.png 2x"><video poster='p.png'></video><input type="image" src="go.png">` +
      `<svg><image xlink:href="s.svg"/></svg><p style="background: url('u.png')">src="not.png"</p><style>@import "i.css"; p { background: url(c.png) }</style>` +
      `<frame src="f.html"><a href="x.html?a=1&amp;b=2">x</a></body>`;
    const seen: string[] = [];
    const after = rewriteReferences(html, (reference) => {
      seen.push(reference);
      return reference === 'i.css' ? null : `../${reference}`;
    });
    expect(seen).toEqual([
      'bg.png',
      'a.png',
      'a.png',
      'b.png',
      'p.png',
      'go.png',
      's.svg',
      'u.png',
      'i.css',
      'c.png',
      'f.html',
      'x.html?a=1&b=2',
    ]);
    expect(after).toBe(
      html
        .replace('"bg.png"', '"../bg.png"')
        .replace('=a.png', '=../a.png')
        .replace('a.png 1x, b.png', '../a.png 1x, ../b.png')
        .replace("'p.png'", "'../p.png'")
        .replace('"go.png"', '"../go.png"')
        .replace('"s.svg"', '"../s.svg"')
        .replace('u.png', '../u.png')
        .replace('c.png', '../c.png')
        .replace('f.html', '../f.html')
        .replace('x.html', '../x.html'),
    );
  });

  it('of a page that names things from another place are named from the page once anything of it moves', () => {
    const html =
      '<head><base target="_top" href="../media/"></head><img src="x.png"><a href="y.html#z">y</a><a href="#here">h</a><img src="https://a.example/i.png">';
    const told: string[] = [];
    const after = rewriteReferences(html, (reference) => {
      told.push(reference);
      return reference === '../media/x.png' ? 'pictures/x.png' : null;
    });
    expect(told).toEqual(['../media/x.png', '../media/y.html#z', '#here', 'https://a.example/i.png']);
    expect(after).toBe(
      '<head><base target="_top" href=""></head><img src="pictures/x.png"><a href="../media/y.html#z">y</a><a href="#here">h</a><img src="https://a.example/i.png">',
    );
    expect(rewriteReferences(html, () => null)).toBe(html);
    expect(unbased(html)).toContain('<img src="../media/x.png">');
  });
});
