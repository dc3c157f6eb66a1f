import writeExcelFile from 'write-excel-file/node';

type Cell = string | number;

export interface Sheet {
  name: string;
  /** The first row names the columns. */
  rows: readonly (readonly Cell[])[];
  /** In letters. */
  widths: readonly number[];
}

/** A workbook (ECMA-376): the first row of each sheet is bold and stays in view. Cells are typed, so a text is no formula. */
export async function workbook(sheets: readonly Sheet[]): Promise<Buffer> {
  const made = sheets.map(({ name, rows, widths }) => ({
    sheet: name,
    stickyRowsCount: 1,
    columns: widths.map((width) => ({ width })),
    data: rows.map((row, i) =>
      row.map((value) =>
        typeof value === 'number'
          ? { value, type: Number }
          : { value, type: String, ...(i === 0 ? { fontWeight: 'bold' as const } : {}) },
      ),
    ),
  }));
  return writeExcelFile(made).toBuffer();
}
