import type { ListColumn } from './column';

export type SheetFormat = 'csv' | 'xlsx';

/** Rows of a list as a file that spreadsheets open; what writes it is loaded when it is first asked for. */
export async function sheetOf<T>(
  format: SheetFormat,
  name: string,
  columns: readonly ListColumn<T>[],
  rows: readonly T[],
): Promise<Blob> {
  if (format === 'csv') {
    const { stringify } = await import('csv-stringify/browser/esm/sync');
    const text = stringify(
      rows.map((row) => columns.map((c) => c.value(row))),
      // A cell that a program would take for a formula is not one.
      { header: true, columns: columns.map((c) => c.name), escape_formulas: true, bom: true },
    );
    return new Blob([text], { type: 'text/csv' });
  }
  const { default: writeExcelFile } = await import('write-excel-file/browser');
  const head = columns.map((c) => ({ value: c.name, fontWeight: 'bold' as const }));
  const cell = (column: ListColumn<T>, row: T) => {
    const value = column.value(row);
    if (value === null || value === '') return null;
    if (column.is === 'date') return { value: new Date(value), type: Date, format: 'yyyy-mm-dd hh:mm' };
    return typeof value === 'number' ? { value, type: Number } : { value, type: String };
  };
  return writeExcelFile([head, ...rows.map((row) => columns.map((c) => cell(c, row)))], {
    sheet: name.slice(0, 31),
  }).toBlob();
}

/** Gives a person a file that was made here. */
export function give(blob: Blob, fileName: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(blob);
  link.download = fileName;
  link.click();
  URL.revokeObjectURL(link.href);
}
