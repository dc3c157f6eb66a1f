import * as z from 'zod';
import { CheckedLine, type Comparison } from '../compare/index.ts';
import { Totals } from '../fit/index.ts';

/** The transfer report: what became of every item of a move. */
export const TransferReport = z.object({
  course: z.object({ code: z.string(), section: z.string(), term: z.string(), title: z.string() }),
  source: z.string(),
  destination: z.string(),
  /** Where the course is now. */
  place: z.string(),
  sentAt: z.string(),
  checkedAt: z.string(),
  packageFile: z.string(),
  packageSha256: z.string(),
  totals: Totals,
  /** Lines whose outcome is not the one foretold. */
  otherwise: z.number().int(),
  /** Everything that is not whole, in the order of the outline. */
  lines: z.array(CheckedLine),
});
export type TransferReport = z.infer<typeof TransferReport>;

export function transferReport(
  head: Omit<TransferReport, 'totals' | 'otherwise' | 'lines'>,
  comparison: Comparison,
): TransferReport {
  return {
    ...head,
    totals: comparison.totals,
    otherwise: comparison.otherwise,
    lines: comparison.lines.filter((line) => line.outcome !== 'whole'),
  };
}
