import { inventory, type Course } from '@treenail/core';
import ExcelJS from 'exceljs';
import { inventoryAsCsv, inventoryAsXlsx, inventorySheets } from './inventory-sheets.ts';

const COURSE: Course = {
  title: 'T',
  origin: { format: 't', version: '1', untouched: true },
  metadata: { keywords: [] },
  outline: [],
  items: [
    { kind: 'page', id: 'a', title: '=HYPERLINK("x")', place: 'a.html', file: 'a.html', settings: {} },
    { kind: 'link', id: 'l', title: 'Link', place: null, url: 'https://x.example/y', settings: {} },
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
    const book = new ExcelJS.Workbook();
    await book.xlsx.load((await inventoryAsXlsx(COURSE, counted)) as never);
    const cell = book.getWorksheet('Items')?.getCell('B2');
    expect([cell?.type, cell?.value]).toEqual([ExcelJS.ValueType.String, '=HYPERLINK("x")']);
  });
});
