import {
  KIND_LABELS,
  SETTING_LABELS,
  baseName,
  type SettingName,
  type SettingValue,
  conditionWords,
  evenMonths,
  renamedCondition,
  type Condition,
} from '../model/index.ts';
import type { Line } from '../fit/index.ts';

/** Says no more than the outcome does. */
const NOT_THERE = 'it is not there';

/** Why a line is not whole, in one sentence a person can act on. */
export function explain(line: Pick<Line, 'reasons' | 'settings' | 'parts'>): string {
  const settings = line.settings
    .filter((s) => s.outcome !== 'whole')
    .map(({ name, was, outcome, reason }) => {
      const value = was === null ? '' : ` ${settingValueWords(name, was)}`;
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

const MOMENT = new Intl.DateTimeFormat('en-GB', {
  weekday: 'short',
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
  timeZone: 'UTC',
});

/**
 * A moment as it is entered again: `Fri 16 Oct 2026 17:00 UTC`. A wall-clock time that names no zone is shown as it stands,
 * and anything that is no moment stays as it is.
 */
export function momentWords(said: string): string {
  if (!/^\d{4}-\d\d-\d\dT\d\d:\d\d/.test(said)) return said;
  const zoned = /(Z|[+-]\d\d:?\d\d)$/.test(said);
  const at = new Date(zoned ? said : `${said}Z`);
  if (Number.isNaN(at.getTime())) return said;
  return `${evenMonths(MOMENT.format(at)).replaceAll(',', '')}${zoned ? ' UTC' : ''}`;
}

/** Said in place of a value that is shown on demand only. */
export const ON_DEMAND = 'set; shown on demand';

/** The value of a setting, so that a person can enter it again. What is secret is not among it. */
export function settingValueWords(name: SettingName, value: SettingValue): string {
  if (name === 'password') return `(${ON_DEMAND})`;
  if (value === true) return 'yes';
  if (value === false) return 'no';
  if (Array.isArray(value)) {
    return value
      .map((one) => {
        if (typeof one !== 'string') return conditionWords(one);
        return name === 'attachments' || name === 'embeds' ? baseName(one) : momentWords(one);
      })
      .join(', ');
  }
  if (name === 'leads' && typeof value === 'object') return Object.values(value).join(', ');
  if (typeof value === 'object') {
    return Object.entries(value)
      .map(([k, v]) => `${k}=${v}`)
      .join(', ');
  }
  const words = momentWords(
    String(value)
      .replace(/<[^>]+>/g, ' ')
      .replace(/\s+/g, ' ')
      .trim(),
  );
  if (words.length > LONG_VALUE) return `“${words.slice(0, LONG_VALUE)}…”`;
  // What ends as a sentence does would run into what is said of it.
  return /\s.*[.!?…]$/.test(words) ? `“${words}”` : words;
}

/** Letters of a value that are said in a line: a text of more is entered again from the kept copy. */
const LONG_VALUE = 240;

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

/** Settings whose value names items by their identifiers. */
const REFERRING: ReadonlySet<SettingName> = new Set([
  'visibleWhen',
  'doneWhen',
  'usesRubric',
  'category',
  'gradesItem',
  'variants',
]);

/** The value of a setting with the titles of the items that it names in place of their identifiers. */
export function namedValue(name: SettingName, value: SettingValue, titles: ReadonlyMap<string, string>): SettingValue {
  if (!REFERRING.has(name)) return value;
  const named = (text: string) =>
    text.replace(/[^\s,=]+/g, (word) => {
      const title = titles.get(word);
      return title === undefined ? word : `“${title}”`;
    });
  if (typeof value === 'string') return named(value);
  if (!Array.isArray(value)) return value;
  return isConditions(value)
    ? value.map((condition) => renamedCondition(condition, (id) => named(id)))
    : value.map(named);
}

function isConditions(value: readonly string[] | readonly Condition[]): value is Condition[] {
  return value.some((one) => typeof one !== 'string');
}

/** Lines that speak of items by their titles. Both sides are named by one course, since identifiers may be kept. */
export function withTitles<L extends Pick<Line, 'settings'>>(
  lines: readonly L[],
  titles: ReadonlyMap<string, string>,
): L[] {
  const of = (name: SettingName, value: SettingValue | null) =>
    value === null ? null : namedValue(name, value, titles);
  return lines.map((line) => ({
    ...line,
    settings: line.settings.map((s) => ({ ...s, was: of(s.name, s.was), is: of(s.name, s.is) })),
  }));
}
