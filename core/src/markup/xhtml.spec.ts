import { parseXml } from './xml.ts';
import { descendants } from './xml-tree.ts';
import { toXhtml } from './xhtml.ts';

describe('HTML as XHTML, with what stands in it by other rules', () => {
  it('keeps mathematics and drawings in their namespaces, their names as they were written', () => {
    const xml = toXhtml(
      '<P CLASS=a>x <math><mi>x</mi></math> <svg viewBox="0 0 9 9" onload="go()"><linearGradient id="g" gradientUnits="userSpaceOnUse"/><use xlink:href="#g"/><foreignObject><DIV>in</DIV></foreignObject></svg><br></P>',
    );
    expect(xml).not.toContain('onload');
    const root = parseXml(`<body xmlns="urn:b" xmlns:xlink="urn:other">${xml}</body>`, 'x');
    const named = descendants(root).map((e) => [e.name, e.ns.replace(/^.*\//, '')]);
    expect(named).toEqual([
      ['p', 'urn:b'],
      ['math', 'MathML'],
      ['mi', 'MathML'],
      ['svg', 'svg'],
      ['linearGradient', 'svg'],
      ['use', 'svg'],
      ['foreignObject', 'svg'],
      ['div', 'xhtml'],
      ['br', 'urn:b'],
    ]);
    expect(xml).toContain('viewBox="0 0 9 9"');
    expect(xml).toContain('gradientUnits="userSpaceOnUse"');
    expect(xml).toContain('<use xlink:href="#g"></use>');
    expect(xml).toContain('xmlns:xlink="http://www.w3.org/1999/xlink"');
    expect(toXhtml(xml)).toBe(xml);
  });
});
