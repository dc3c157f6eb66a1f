import * as z from 'zod';
import { CheckedLine, type Comparison } from '../compare/index.ts';
import { Totals } from '../fit/index.ts';
import type { Finding } from '../inspect/index.ts';
import { ON_DEMAND } from '../model/index.ts';
import { withTitles } from './words.ts';

/** The transfer report: what became of every item of a move. */
export const TransferReport = z.object({
  course: z.object({ code: z.string(), section: z.string(), term: z.string(), title: z.string() }),
  source: z.string(),
  destination: z.string(),
  /** Where the course is now. */
  place: z.string(),
  sentAt: z.string(),
  checkedAt: z.string(),
  /** The package that was sent. */
  packageFile: z.string(),
  packageSha256: z.string(),
  /** The kept copy that it was made of. */
  copyFile: z.string().default(''),
  copySha256: z.string().default(''),
  /** What was known to be missing before anything moved, or was left out of what was sent: a sentence each. */
  missing: z.array(z.string()).default([]),
  /** What was found in the course and nobody decided on, by kind of finding. */
  open: z
    .array(z.object({ label: z.string(), findings: z.array(z.object({ title: z.string(), what: z.string() })) }))
    .default([]),
  totals: Totals,
  /** Lines whose outcome is not the one foretold. */
  otherwise: z.number().int(),
  /** Everything that is not whole, in the order of the outline. */
  lines: z.array(CheckedLine),
});
export type TransferReport = z.infer<typeof TransferReport>;

export function transferReport(
  head: Omit<z.input<typeof TransferReport>, 'totals' | 'otherwise' | 'lines'>,
  comparison: Comparison,
  /** Titles of what was sent, by the identifiers by which conditions name items. */
  titles: ReadonlyMap<string, string> = new Map(),
): TransferReport {
  return TransferReport.parse({
    ...head,
    totals: comparison.totals,
    otherwise: comparison.otherwise,
    lines: withTitles(
      comparison.lines.filter((line) => line.outcome !== 'whole'),
      titles,
    ).map(withoutSecrets),
  });
}

/** Passwords are in no report: who may know one asks for it, and that is written down. */
function withoutSecrets(line: CheckedLine): CheckedLine {
  const settings = line.settings.map((s) =>
    s.name === 'password' ? { ...s, was: s.was && ON_DEMAND, is: s.is && ON_DEMAND } : s,
  );
  return { ...line, settings };
}

/** What was found in a course and not decided on, by kind of finding; a kind with the most comes first. */
export function openFindings(
  findings: readonly Finding[],
  decided: ReadonlyMap<string, unknown>,
  labels: readonly { id: string; label: string }[],
): TransferReport['open'] {
  return labels
    .map(({ id, label }) => ({
      label,
      findings: findings
        .filter((f) => f.kind === id && !decided.has(f.key))
        .map((f) => ({ title: f.title, what: f.evidence.slice(0, 300) })),
    }))
    .filter((kind) => kind.findings.length > 0)
    .sort((a, b) => b.findings.length - a.findings.length);
}
