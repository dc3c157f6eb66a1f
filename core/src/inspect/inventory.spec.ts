import { momentOf } from '../model/index.ts';
import type { Course } from '../model/index.ts';
import { inventory } from './inventory.ts';
import type { CourseLink } from './links.ts';

const file = (path: string, size: number, mediaType = 'text/html'): Course['files'][number] => ({
  path,
  size,
  mediaType,
  role: 'content',
});
const common = (id: string) => ({ id, title: id, definitionPath: null, settings: {} });
const COURSE: Course = {
  title: 'T',
  origin: { format: 'cc', version: '1.1', untouched: true },
  metadata: { keywords: [], rights: 'Share alike' },
  outline: [{ id: 'f', title: 'F', children: [{ id: 'n', title: 'a', item: 'a', children: [] }] }],
  items: [
    {
      ...common('a'),
      kind: 'page',
      file: 'a.html',
      settings: { embeds: ['p.png'], due: momentOf('2026-10-05T09:00:00Z') },
    },
    { ...common('l'), kind: 'link', url: 'https://Tables.example/x' },
    { ...common('t'), kind: 'tool', url: 'https://calc.example/launch', description: '' },
    {
      ...common('e'),
      kind: 'event',
      text: { format: 'plain', text: '' },
      settings: { opens: momentOf('2026-09-14T09:00:00Z') },
    },
  ],
  files: [
    file('a.html', 10),
    file('p.png', 500, 'image/png'),
    file('s.css', 20, 'text/css'),
    file('u.bin', 70, 'application/octet-stream'),
  ],
};
const link = (value: string, path: string | null = null): CourseLink => ({
  item: 'a',
  part: 'page',
  file: 'a.html',
  use: 'anchor',
  value,
  line: 1,
  at: { start: 0, end: 0 },
  inStyle: false,
  element: null,
  state: path === null ? 'outside' : 'inside',
  path,
  to: null,
  course: null,
  near: null,
  lost: false,
});

describe('An inventory', () => {
  const links = [
    link('https://tables.example/y'),
    link('//films.example/z'),
    link('mailto:x@y.example'),
    link('s.css', 's.css'),
  ];
  const found = inventory(
    COURSE,
    links,
    new Map([
      ['en', 3],
      ['gd', 9],
    ]),
  );

  it('sums by its name what was not read, with where it stands', () => {
    const part = { name: 'timer', file: 'quiz.xml', line: 3, times: 2 };
    const items = COURSE.items.map((i) => (i.id === 'a' ? { ...i, settings: { ...i.settings, unread: [part] } } : i));
    const settings = { unread: [{ ...part, file: 'imsmanifest.xml', times: 1 }] };
    expect(inventory({ ...COURSE, settings, items }).unread).toEqual([
      {
        name: 'timer',
        times: 3,
        places: [
          { file: 'imsmanifest.xml', line: 3, item: null },
          { file: 'quiz.xml', line: 3, item: 'a' },
        ],
      },
    ]);
    expect(found.unread).toEqual([]);
    const uncounted = { ...COURSE, origin: { ...COURSE.origin, format: 'tarnhall' } };
    expect(inventory(uncounted).unread).toBeNull();
  });

  it('counts what is there, and what nothing uses', () => {
    expect([found.items, found.folders, found.depth, found.entries, found.files, found.bytes]).toEqual([
      4, 1, 1, 1, 4, 600,
    ]);
    expect([found.unused, found.unusedBytes]).toEqual([['u.bin'], 70]);
    expect(found.kinds).toEqual([
      { kind: 'page', items: 1, bytes: 510 },
      { kind: 'link', items: 1, bytes: 0 },
      { kind: 'tool', items: 1, bytes: 0 },
      { kind: 'event', items: 1, bytes: 0 },
    ]);
  });

  it('names the biggest files with who uses them, sites, tools, languages, dates and licence', () => {
    expect(found.biggest[0]).toEqual({ path: 'p.png', size: 500, mediaType: 'image/png', item: 'a' });
    const own: Course['items'][number] = { ...common('own'), kind: 'file', file: 'p.png' };
    // A page that shows a picture stands before the picture's own item, which is still what the file is.
    const [first] = inventory({ ...COURSE, items: [...COURSE.items, own] }, links).biggest;
    expect(first?.item).toBe('own');
    expect(found.biggest.at(-1)).toEqual({ path: 'a.html', size: 10, mediaType: 'text/html', item: 'a' });
    expect(found.hosts).toEqual([
      { host: 'tables.example', links: 2 },
      { host: 'films.example', links: 1 },
    ]);
    expect(found.tools).toEqual([{ host: 'calc.example', items: 1 }]);
    expect(found.languages.map((l) => l.language)).toEqual(['gd', 'en']);
    expect(found.dates).toEqual({ from: '2026-09-14T09:00:00Z', to: '2026-10-05T09:00:00Z', items: 2 });
    expect(found.licence).toBe('Share alike');
    expect(inventory({ ...COURSE, items: [], metadata: { keywords: [] } }).dates).toBeNull();
  });
});
