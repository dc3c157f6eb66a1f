import type { Course, Item } from '../model/index.ts';
import { readPage } from '../markup/index.ts';
import { LinkResolver, type KnownAddresses } from './links.ts';

const KNOWN: KnownAddresses = {
  platform: ['https://learn.old.example'],
  course: 'q1',
  items: ['/course/(?<course>[^/?#]+)/item/(?<item>[^/?#]+)'],
  courses: ['/course/(?<course>[^/?#]+)'],
  repository: ['https://learn.old.example/repository/'],
};
const page = (id: string): Item => ({
  kind: 'page',
  id,
  title: id,
  definitionPath: `p/${id}.html`,
  file: `p/${id}.html`,
  settings: {},
});
const COURSE: Course = {
  title: 'T',
  origin: { format: 't', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: [],
  items: [
    page('a'),
    page('b'),
    { kind: 'quiz', id: 'z', title: 'Z', definitionPath: null, settings: {}, questions: [] },
  ],
  files: [],
};
const PATHS = ['p/a.html', 'p/b.html', 'p/Sheet One.pdf', 'p/deep/x.png', 'files/tool-book.pdf', 'p/a+b&c.txt'];
const resolver = new LinkResolver(COURSE, PATHS, KNOWN);

function led(reference: string, more = '') {
  const reading = readPage(`${more}<a href="${reference.replaceAll('&', '&amp;')}">x</a>`);
  const link = resolver.resolve(reading, { item: 'a', part: 'page', file: 'p/a.html' }).at(-1);
  if (!link) throw new Error('no link');
  const { state, path, to, course, near, lost } = link;
  return [state, path ?? to ?? course ?? near?.path ?? '', ...(near ? [near.how] : []), ...(lost ? ['lost'] : [])].join(
    ' ',
  );
}

describe('Where a reference leads', () => {
  const cases: [reference: string, to: string][] = [
    ['b.html', 'inside p/b.html'],
    ['./b.html?v=1#top', 'inside p/b.html'],
    ['../p/b.html', 'inside p/b.html'],
    ['Sheet%20One.pdf', 'inside p/Sheet One.pdf'],
    ['Sheet One.pdf', 'inside p/Sheet One.pdf'],
    ['a+b&c.txt', 'inside p/a+b&c.txt'],
    ['/files/tool-book.pdf', 'inside files/tool-book.pdf'],
    ['$IMS-CC-FILEBASE$/files/tool-book.pdf', 'inside files/tool-book.pdf'],
    ['sheet%20one.pdf', 'broken p/Sheet One.pdf case'],
    ['Sheet%2520One.pdf', 'broken p/Sheet One.pdf encoded'],
    ['SHEET%2520ONE.pdf', 'broken p/Sheet One.pdf case'],
    ['deep\\x.png', 'broken p/deep/x.png backslash'],
    ['../../etc/passwd', 'broken '],
    ['gone.html', 'broken '],
    ['#there', 'fragment  lost'],
    ['#top', 'fragment '],
    ['https://learn.old.example/course/q1/item/b', 'item b'],
    ['http://learn.old.example/course/q1/item/z?x=1', 'item z'],
    ['//LEARN.old.example/course/q1/item/b', 'item b'],
    ['https://learn.old.example/course/q9/item/b', 'elsewhere q9'],
    ['https://learn.old.example/course/q1/item/none', 'platform '],
    ['https://learn.old.example/help', 'platform '],
    ['https://learn.old.example.evil.example/x', 'platform '],
    ['https://learn.old.example/repository/s/tool-book.pdf', 'repository files/tool-book.pdf encoded'],
    ['https://learn.old.example/repository/s/other.pdf', 'repository '],
    ['https://elsewhere.example/x', 'outside '],
    ['mailto:a@b.example', 'outside '],
  ];
  for (const [reference, to] of cases.filter(([r]) => !r.includes('evil'))) {
    it(`of ${reference} is told`, () => expect(led(reference)).toBe(to));
  }

  it('is told by the host, not by the letters it begins with', () => {
    expect(led('https://learn.old.example.evil.example/course/q1/item/b')).toBe('outside ');
    expect(led('https://learn.old.example:8443/help')).toBe('outside ');
  });

  it('follows a base, and a place that the page has', () => {
    expect(led('x.png', '<base href="deep/">')).toBe('inside p/deep/x.png');
    expect(led('#there', '<h2 id="there">x</h2>')).toBe('fragment ');
  });
});
