import { KIND_LABELS, type Course } from '@treenail/core';
import { stringify } from 'csv-stringify/sync';
import type { InventoryAnswer } from '../contract/index.ts';
import { workbook } from './workbook.ts';

type Cell = string | number;

/** What is in a course, sheet by sheet: the first row of each names its columns. */
export function inventorySheets(course: Course, inventory: InventoryAnswer): { name: string; rows: Cell[][] }[] {
  const titles = new Map(course.items.map((i) => [i.id, i.title]));
  const labels = KIND_LABELS as Record<string, string>;
  return [
    {
      name: 'Kinds',
      rows: [['Kind', 'Items', 'Bytes'], ...inventory.kinds.map((k) => [labels[k.kind] ?? k.kind, k.items, k.bytes])],
    },
    {
      name: 'Items',
      rows: [
        ['Kind', 'Title', 'Identifier', 'Place'],
        ...course.items.map((i) => [labels[i.kind] ?? i.kind, i.title, i.id, i.definitionPath ?? '']),
      ],
    },
    { name: 'Questions', rows: [['Type', 'Questions'], ...inventory.questions.map((q) => [q.type, q.count])] },
    {
      name: 'File types',
      rows: [['Type', 'Files', 'Bytes'], ...inventory.byMedia.map((m) => [m.mediaType, m.files, m.bytes])],
    },
    {
      name: 'Biggest files',
      rows: [
        ['File', 'Bytes', 'Type', 'Used by'],
        ...inventory.biggest.map((f) => [f.path, f.size, f.mediaType, titles.get(f.item ?? '') ?? '']),
      ],
    },
    { name: 'Unused files', rows: [['File'], ...inventory.unused.map((path) => [path])] },
    { name: 'Sites', rows: [['Site', 'Links'], ...inventory.hosts.map((h) => [h.host, h.links])] },
    { name: 'Tools', rows: [['Site', 'Tools'], ...inventory.tools.map((t) => [t.host, t.items])] },
    {
      name: 'Not read',
      rows: [
        [inventory.unread ? 'What' : 'What (not counted in archives of this kind)', 'Times', 'First in', 'Line'],
        ...(inventory.unread ?? []).map((u) => [u.name, u.times, u.places[0]?.file ?? '', u.places[0]?.line ?? '']),
      ],
    },
    { name: 'Languages', rows: [['Language', 'Pages'], ...inventory.languages.map((l) => [l.language, l.pages])] },
  ];
}

/** One table under another. Titles that a spreadsheet would take for a formula are defused. */
export function inventoryAsCsv(course: Course, inventory: InventoryAnswer): string {
  const rows = inventorySheets(course, inventory).flatMap(({ name, rows: lines }) => [[name], ...lines, []]);
  return stringify(rows, { escape_formulas: true, bom: true });
}

export function inventoryAsXlsx(course: Course, inventory: InventoryAnswer): Promise<Buffer> {
  return workbook(
    inventorySheets(course, inventory).map(({ name, rows }) => ({
      name,
      rows,
      widths: (rows[0] ?? []).map((_cell, i) => (i === 0 || name === 'Items' ? 36 : 14)),
    })),
  );
}
