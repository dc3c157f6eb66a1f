import * as z from 'zod';
import { SettingName, SettingValue, SubjectKind } from '../model/index.ts';

/** What becomes of an item or a setting. */
export const Outcome = z.enum(['whole', 'reworked', 'left behind', 'extra', 'unsure']);
export type Outcome = z.infer<typeof Outcome>;

/** One setting of one item. */
export const SettingLine = z.object({
  name: SettingName,
  was: SettingValue.nullable(),
  is: SettingValue.nullable(),
  outcome: Outcome,
  reason: z.string(),
});
export type SettingLine = z.infer<typeof SettingLine>;

/** One question of a quiz or bank that is not whole. */
export const PartLine = z.object({ title: z.string(), outcome: Outcome, reason: z.string() });
export type PartLine = z.infer<typeof PartLine>;

/** One item or folder. The same shape serves the forecast and the check, so that the two can be held together. */
export const Line = z.object({
  /** Subject's key in the source, `null` for extras. */
  source: z.string().nullable(),
  /** Subject's key in the destination, `null` if it is (or will be) not there; forecasts know no keys yet. */
  arrived: z.string().nullable(),
  title: z.string(),
  kind: SubjectKind,
  /** Titles of the folders above, outermost first. */
  trail: z.array(z.string()),
  /** What it is (or will be) there. */
  as: SubjectKind.nullable(),
  outcome: Outcome,
  reasons: z.array(z.string()),
  settings: z.array(SettingLine),
  parts: z.array(PartLine),
});
export type Line = z.infer<typeof Line>;

export const Totals = z.record(Outcome, z.number().int());
export type Totals = z.infer<typeof Totals>;

export function totalsOf(lines: readonly { outcome: Outcome }[]): Totals {
  const totals: Totals = { whole: 0, reworked: 0, 'left behind': 0, extra: 0, unsure: 0 };
  for (const line of lines) totals[line.outcome]++;
  return totals;
}

/**
 * Compares what two ways keep: positive where the first keeps more. What is left behind weighs most, then what is not
 * whole.
 */
export function keepsMore(first: Totals, second: Totals): number {
  const of = (totals: Totals, outcome: Outcome) => totals[outcome] ?? 0;
  return of(second, 'left behind') - of(first, 'left behind') || of(first, 'whole') - of(second, 'whole');
}
