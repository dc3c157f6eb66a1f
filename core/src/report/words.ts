import { KIND_LABELS, SETTING_LABELS } from '../model/index.ts';
import type { Line } from '../fit/index.ts';

/** Says no more than the outcome does. */
const NOT_THERE = 'it is not there';

/** Why a line is not whole, in one sentence a person can act on. */
export function explain(line: Pick<Line, 'reasons' | 'settings' | 'parts'>): string {
  const settings = line.settings
    .filter((s) => s.outcome !== 'whole')
    .map((s) => `${SETTING_LABELS[s.name]}: ${s.outcome}${s.reason && s.reason !== NOT_THERE ? ` (${s.reason})` : ''}`);
  const parts = line.parts.map((p) => `question “${p.title}”: ${p.reason}`);
  return [...line.reasons, ...settings, ...parts].join('; ');
}

export function kindWords(line: Pick<Line, 'kind' | 'as'>): string {
  return line.as === null || line.as === line.kind
    ? KIND_LABELS[line.kind]
    : `${KIND_LABELS[line.kind]}, now ${KIND_LABELS[line.as]}`;
}
