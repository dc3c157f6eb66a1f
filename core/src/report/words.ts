import {
  KIND_LABELS,
  SETTING_LABELS,
  namedSetting,
  settingWords,
  type SettingName,
  type SettingValue,
} from '../model/index.ts';
import type { Line } from '../fit/index.ts';

/** Says no more than the outcome does. */
const NOT_THERE = 'it is not there';

/** Why a line is not whole, in one sentence a person can act on. */
export function explain(line: Pick<Line, 'reasons' | 'settings' | 'parts'>): string {
  const settings = line.settings
    .filter((s) => s.outcome !== 'whole')
    .map(({ name, was, outcome, reason }) => {
      const value = was === null ? '' : ` ${settingWords(name, was)}`;
      return `${SETTING_LABELS[name]}${value}: ${outcome}${reason && reason !== NOT_THERE ? ` (${reason})` : ''}`;
    });
  const parts = line.parts.map((p) => `question “${p.title}”: ${p.reason}`);
  return [...line.reasons, ...settings, ...parts].join('; ');
}

export function kindWords(line: Pick<Line, 'kind' | 'as'>): string {
  return line.as === null || line.as === line.kind
    ? KIND_LABELS[line.kind]
    : `${KIND_LABELS[line.kind]}, now ${KIND_LABELS[line.as]}`;
}

/** Lines that say the same of different items: they are one line that opens. */
export function likeLines<L extends Pick<Line, 'kind' | 'as' | 'outcome' | 'reasons' | 'settings' | 'parts'>>(
  lines: readonly L[],
): L[][] {
  const groups = new Map<string, L[]>();
  for (const line of lines) {
    const { kind, as, outcome, reasons, settings, parts } = line;
    const lost = settings.filter((s) => s.outcome !== 'whole').map((s) => [s.name, s.outcome, s.reason]);
    // Questions are named: what is said of one is said of no other.
    const alone = parts.length > 0 ? groups.size : '';
    const key = JSON.stringify([kind, as, outcome, reasons, lost, alone]);
    groups.set(key, [...(groups.get(key) ?? []), line]);
  }
  return [...groups.values()];
}

/** Lines that speak of items by their titles. Both sides are named by one course, since identifiers may be kept. */
export function withTitles<L extends Pick<Line, 'settings'>>(
  lines: readonly L[],
  titles: ReadonlyMap<string, string>,
): L[] {
  const of = (name: SettingName, value: SettingValue | null) =>
    value === null ? null : namedSetting(name, value, titles);
  return lines.map((line) => ({
    ...line,
    settings: line.settings.map((s) => ({ ...s, was: of(s.name, s.was), is: of(s.name, s.is) })),
  }));
}
