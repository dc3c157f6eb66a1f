import { stringify } from 'csv-stringify/browser/esm/sync';
import { KIND_LABELS } from '../model/index.ts';
import type { TransferReport } from './transfer-report.ts';
import { explain } from './words.ts';

/** The report's lines as CSV (RFC 4180, with BOM so that spreadsheets take it for UTF-8). Formulas are defused. */
export function reportToCsv(report: TransferReport): string {
  const rows = report.lines.map((line) => ({
    folder: line.trail.join(' › '),
    item: line.title,
    kind: KIND_LABELS[line.kind],
    now: line.as === null ? '' : KIND_LABELS[line.as],
    outcome: line.outcome,
    foretold: line.predicted ?? '',
    what: explain(line),
  }));
  return stringify(rows, {
    header: true,
    bom: true,
    record_delimiter: 'windows',
    escape_formulas: true,
    columns: [
      { key: 'folder', header: 'Folder' },
      { key: 'item', header: 'Item' },
      { key: 'kind', header: 'Kind' },
      { key: 'now', header: 'Arrived as' },
      { key: 'outcome', header: 'Outcome' },
      { key: 'foretold', header: 'Foretold' },
      { key: 'what', header: 'What is not as it was' },
    ],
  });
}
