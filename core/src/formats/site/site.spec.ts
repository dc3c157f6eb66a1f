import { bytesSource, openPackage } from '../../container/index.ts';
import type { Course, OutlineNode } from '../../model/index.ts';
import { foreignZipOf, packageOf, type Files } from '../../testing/packages.ts';
import { readCourse } from '../index.ts';

const html = (title: string, body = '') => `<html><head><title>${title}</title></head><body>${body}</body></html>`;
const read = async (files: Files) => readCourse(await packageOf(files));
/** The outline as indented titles. */
const drawn = ({ outline }: Course): string[] => {
  const lines: string[] = [];
  const draw = (nodes: readonly OutlineNode[], depth: number) => {
    for (const n of nodes) {
      lines.push('  '.repeat(depth) + n.title);
      draw(n.children, depth + 1);
    }
  };
  draw(outline, 0);
  return lines;
};

describe('A folder of pages without a manifest', () => {
  it('is read by its folders: the first page first, numbers by their value, pages before folders', async () => {
    const { course, notes } = await read({
      'unit 10/a.html': html('Ten'),
      'unit 2/b.html': html('Two'),
      'unit 2/index.html': html('Start of two'),
      'zebra.html': html('Zebra'),
      'index.html': html('Wooden boats'),
      'unit 2/deep/c.html': html('Deep'),
    });
    expect([course.title, course.origin.format]).toEqual(['Wooden boats', 'site']);
    expect(drawn(course)).toEqual([
      'Wooden boats',
      'Zebra',
      'unit 2',
      '  Start of two',
      '  Two',
      '  deep',
      '    Deep',
      'unit 10',
      '  Ten',
    ]);
    expect(notes.map((n) => n.code)).toEqual(['no-manifest']);
  });

  it('shows pages and documents, and not what pages are made of', async () => {
    const { course } = await read({
      'a.html': html('A', '<img src="i.png"><script src="x.js"></script>'),
      'i.png': 'p',
      'x.js': 'x',
      'look.css': 'c',
      'chart.pdf': 'pdf',
    });
    expect(course.items.map((i) => [i.kind, i.title])).toEqual([
      ['page', 'A'],
      ['file', 'chart'],
    ]);
    expect(course.files.map((f) => f.path).sort()).toEqual(['a.html', 'chart.pdf', 'i.png', 'look.css', 'x.js']);
  });

  it('names a page without a title by its file, and keeps names in any script', async () => {
    const { course } = await read({ 'no title.html': '<p>x</p>', 'Łódź.html': html('Łodzie'), 'سفن.html': '<p>y</p>' });
    expect(course.items.map((i) => i.title).sort()).toEqual(['no title', 'Łodzie', 'سفن'].sort());
    expect(course.title).toBe('Folder of pages');
  });

  it('reads on where one page is damaged, and says which', async () => {
    const zip = Buffer.from(await foreignZipOf({ 'a.html': html('A'), 'b.html': html('B', 'spoil me') }, false));
    zip.write('spoilt!!', zip.indexOf('spoil me'));
    const spoilt = await openPackage(bytesSource(zip));
    const { course, notes } = await readCourse(spoilt);
    expect(course.items.map((i) => i.title)).toEqual(['A', 'b']);
    expect(notes.map((n) => [n.code, n.weight])).toEqual(
      jasmine.arrayWithExactContents([
        ['no-manifest', 'remark'],
        ['entry-damaged', 'warning'],
      ]),
    );
  });
});

describe('A website that was written from a course', () => {
  const first = `<html lang="ga"><head><title>Báid</title><meta name="description" content="About">
    <meta name="keywords" content="boats"><meta name="keywords" content="oak"><meta name="dcterms.rights" content="CC BY">
    </head><body><ol class="course-outline">
    <li data-node="n1" data-item="p1"><a href="pages/one%20page.html">One</a></li>
    <li data-node="n2">Week 1<ol><li data-node="n3" data-item="f1"><a href="m/chart.pdf">Chart</a></li>
    <li data-node="n4" data-item="l1"><a href="https://tides.example/">Tides</a></li></ol></li>
    <li data-node="n5" data-item="gone"><a href="../../etc/passwd">Out</a></li>
    </ol></body></html>`;

  it('is read by the outline in its first page, with its words about itself', async () => {
    const { course } = await read({ 'index.html': first, 'pages/one page.html': html('x'), 'm/chart.pdf': 'p' });
    expect(course.items.map((i) => [i.id, i.kind, i.title])).toEqual([
      ['p1', 'page', 'One'],
      ['f1', 'file', 'Chart'],
      ['l1', 'link', 'Tides'],
    ]);
    expect(course.title).toBe('Báid');
    expect(course.metadata).toEqual({
      keywords: ['boats', 'oak'],
      description: 'About',
      rights: 'CC BY',
      language: 'ga',
    });
    expect(drawn(course).map((t) => t.trim())).toEqual(['One', 'Week 1', 'Chart', 'Tides', 'Out']);
    // The page that holds the outline is no part of the course.
    expect(course.files.map((f) => f.path).sort()).toEqual(['m/chart.pdf', 'pages/one page.html']);
  });
});
