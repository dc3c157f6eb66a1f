import { bytesSource, inventory, openPackage, type Course } from '@treenail/core';
import { nodeEngine } from '@treenail/core/node';
import { inventoryAsCsv, inventoryAsXlsx, inventorySheets } from './inventory-sheets.ts';

const COURSE: Course = {
  title: 'T',
  origin: { format: 't', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: [],
  items: [
    { kind: 'page', id: 'a', title: '=HYPERLINK("x")', definitionPath: 'a.html', file: 'a.html', settings: {} },
    { kind: 'link', id: 'l', title: 'Link', definitionPath: null, url: 'https://x.example/y', settings: {} },
  ],
  files: [
    { path: 'a.html', size: 10, mediaType: 'text/html', role: 'content' },
    { path: '+unused.bin', size: 5, mediaType: 'application/octet-stream', role: 'content' },
  ],
};

describe('An inventory as a file', () => {
  const counted = inventory(COURSE);

  it('has a sheet for each thing it counts, each under the names of its columns', () => {
    const sheets = inventorySheets(COURSE, counted);
    expect(sheets.map((s) => s.name)).toEqual([
      'Kinds',
      'Items',
      'Questions',
      'File types',
      'Biggest files',
      'Unused files',
      'Sites',
      'Tools',
      'Not read',
      'Languages',
    ]);
    for (const { rows } of sheets) expect(rows.every((r) => r.length === rows[0]?.length)).toBeTrue();
    expect(sheets.find((s) => s.name === 'Biggest files')?.rows[1]).toEqual([
      'a.html',
      10,
      'text/html',
      '=HYPERLINK("x")',
    ]);
  });

  it('defuses what a spreadsheet would take for a formula', async () => {
    const csv = inventoryAsCsv(COURSE, counted);
    expect(csv).not.toMatch(/(^|,)"?[=+]/m);
    expect(csv).toContain('unused.bin');
    const book = await openPackage(bytesSource(await inventoryAsXlsx(COURSE, counted)), { engine: nodeEngine });
    const text = async (path: string) => new TextDecoder().decode(await book.bytes(path));
    expect([...book.entries.keys()].filter((p) => /^xl\/worksheets\/sheet\d\.xml$/.test(p)).length).toBe(9);
    // A cell that is a text (ECMA-376, 18.18.11: `s`), and none that is reckoned.
    const items = await text('xl/worksheets/sheet2.xml');
    expect(items).toMatch(/<c r="B2"[^>]* t="s">/);
    expect(items).not.toContain('<f>');
    expect(await text('xl/sharedStrings.xml')).toContain('=HYPERLINK("x")');
  });
});
