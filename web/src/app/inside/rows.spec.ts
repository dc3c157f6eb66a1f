import { momentOf } from '@treenail/core';
import { mostOf } from './date-strip';
import type { Course, Item } from '@treenail/core';
import { rowsOf, type RowsOptions } from './rows';

const page = (id: string, title: string, settings: Item['settings'] = {}): Item => ({
  kind: 'page',
  id,
  title,
  definitionPath: `${id}.html`,
  file: `${id}.html`,
  settings,
});
const COURSE: Course = {
  title: 'T',
  origin: { format: 't', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: [
    {
      id: 'f',
      title: 'Week 1',
      children: [
        { id: 'na', title: 'Caulking, as placed', item: 'a', children: [] },
        { id: 'g', title: 'Deeper', children: [{ id: 'nb', title: 'Paying', item: 'b', children: [] }] },
      ],
    },
  ],
  items: [
    page('a', 'Caulking', { hidden: true, due: momentOf('2026-10-05T09:00:00Z') }),
    page('b', 'Paying', { opens: momentOf('2026-09-14T09:00:00Z'), closes: momentOf('2026-10-01T09:00:00Z') }),
    { kind: 'bank', id: 'k', title: 'Bank', definitionPath: null, settings: {}, questions: [] },
  ],
  files: [
    { path: 'a.html', size: 10, mediaType: 'text/html', role: 'content' },
    { path: 'b.html', size: 2000, mediaType: 'text/html', role: 'content' },
  ],
};
const rows = (options: Partial<RowsOptions> = {}) =>
  rowsOf(COURSE, { order: 'place', only: null, closed: new Set(), relations: null, ...options }).map(
    (r) => `${'-'.repeat(r.depth)}${r.title}${r.detail === '' ? '' : `, ${r.detail}`}`,
  );

describe('The rows of an outline', () => {
  it('stand as the author built them, what has no place last', () => {
    expect(rows()).toEqual([
      'Week 1, 2 items',
      '-Caulking, as placed, page',
      '-Deeper, 1 item',
      '--Paying, page',
      'In no place of the outline, 1 item',
      '-Bank, question bank, 0 questions',
    ]);
  });

  it('tell of places of which something is set, and which of them stand there once more', () => {
    const settings = { hidden: true };
    const outline = [
      { id: 'f', title: 'Later', settings, children: [] },
      { id: 'n1', title: 'Caulking', item: 'a', children: [] },
      { id: 'n2', title: 'Caulking again', item: 'a', settings, children: [] },
    ];
    const all = rowsOf({ ...COURSE, outline }, { order: 'place', only: null, closed: new Set(), relations: null });
    expect(all.slice(0, 3).map((r) => [r.title, r.detail, r.place?.kind ?? null])).toEqual([
      ['Later', '0 items', 'folder'],
      ['Caulking', 'page', null],
      ['Caulking again', 'page, once more', 'occurrence'],
    ]);
  });

  it('name folders and further places by their own dates', () => {
    const settings = { due: momentOf('2026-11-02T00:00:00Z') };
    const outline = [
      { id: 'f', title: 'Week 9', settings, children: [{ id: 'n', title: 'Caulking', item: 'a', children: [] }] },
      { id: 'n2', title: 'Caulking again', item: 'a', settings, children: [] },
    ];
    const dated = rowsOf({ ...COURSE, outline }, { order: 'date', only: null, closed: new Set(), relations: null });
    const november = dated.slice(dated.findIndex((r) => r.title === 'November 2026'));
    expect(november.slice(1, 3).map((r) => [r.title, r.detail, r.place?.kind, r.item?.id])).toEqual([
      ['Week 9', 'due 2 Nov 2026', 'folder', undefined],
      ['Caulking again', 'due 2 Nov 2026', 'occurrence', 'a'],
    ]);
  });

  it('are hidden in folders that are folded, and nowhere else', () => {
    expect(rows({ closed: new Set(['node:g']) })[3]).toBe('In no place of the outline, 1 item');
    expect(rows({ closed: new Set(['node:f', 'loose']) })).toEqual([
      'Week 1, 2 items',
      'In no place of the outline, 1 item',
    ]);
  });

  it('can be gone through by kind, size, state, date and what points at them', () => {
    expect(rows({ order: 'kind' })).toContain('question bank, 1 item');
    expect(rows({ order: 'size' })[0]).toBe('Paying, 2.0\u00a0kB');
    expect(rows({ order: 'state' }).filter((r) => !r.startsWith('-'))).toEqual([
      'hidden, 1 item',
      'shown from a day on, 1 item',
      'shown to everybody, 1 item',
    ]);
    expect(rows({ order: 'date' })).toEqual([
      'September 2026',
      '-Paying, opens 14 Sep 2026',
      'October 2026',
      '-Paying, closes 1 Oct 2026',
      '-Caulking, as placed, due 5 Oct 2026',
      '1 item without a date',
      '-Bank, question bank, 0 questions',
    ]);
    const relations = {
      pointsAt: { a: [{ other: 'b', title: 'Paying', isItem: true, how: 'links to' }] },
      pointedAtBy: { b: [{ other: 'a', title: 'Caulking', isItem: true, how: 'links to' }] },
    };
    expect(rows({ order: 'links', relations })[0]).toBe('Paying, 1 point at it, it points at 0');
    expect(rows({ only: 'bank' })).toEqual(['Bank, question bank, 0 questions']);
  });
});

describe('The stretch of a date strip', () => {
  const day = 86_400_000;
  it('is the whole where dates are spread over it', () => {
    expect(mostOf([0, 10 * day, 20 * day, 30 * day])).toEqual([0, 30 * day]);
    expect(mostOf([5])).toEqual([5, 5]);
  });

  it('is that of the term where one notice is years older', () => {
    const term = Array.from({ length: 14 }, (_, week) => (1500 + week * 7) * day);
    expect(mostOf([0, ...term])).toEqual([1500 * day, (1500 + 13 * 7) * day]);
    // One that comes a little later belongs to it.
    expect(mostOf([0, ...term, 1620 * day]).at(1)).toBe(1620 * day);
  });
});
