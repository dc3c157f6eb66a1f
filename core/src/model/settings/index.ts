import * as z from 'zod';
import { Condition } from '../condition.ts';
import { Moment } from '../moment.ts';
import * as access from './access.ts';
import * as dates from './dates.ts';
import { plainWords, type Readable, type SettingDefinition } from './define.ts';
import * as grading from './grading.ts';
import { Lom, fileLom, lom } from './lom.ts';
import * as references from './references.ts';
import { Section, sections } from './sections.ts';
import * as texts from './texts.ts';
import * as tracking from './tracking.ts';
import { UnreadParts, unread } from './unread.ts';

/** Every setting that some reader can find, by its name. One is added by its definition in a file of this folder. */
const DEFINITIONS = {
  ...grading,
  sections,
  ...texts,
  lom,
  fileLom,
  ...references,
  ...dates,
  ...access,
  ...tracking,
  unread,
};

export type SettingName = keyof typeof DEFINITIONS;
export const SETTINGS = Object.keys(DEFINITIONS) as SettingName[];
export const SettingName = z.enum(SETTINGS);

/** Settings that are a moment, in the order in which they come about. */
export const DATE_SETTINGS = ['posted', 'opens', 'due', 'closes'] as const satisfies readonly SettingName[];

/** Settings that say how something is used in a course, and nothing of what it is: they go over from one thing to another like it. */
export const SETTINGS_OF_USE = [
  'points',
  'attempts',
  'timeLimit',
  'masteryScore',
  'weight',
  'dropLowest',
  'equalPoints',
  'bonus',
  ...DATE_SETTINGS,
  'hidden',
  'password',
  'lockdown',
  'originality',
] as const satisfies readonly SettingName[];

export type Settings = { [K in SettingName]?: z.output<(typeof DEFINITIONS)[K]['schema']> };

/** The value of any setting. */
export const SettingValue = z.union([
  z.string(),
  z.number(),
  z.boolean(),
  z.array(z.string()),
  z.array(Section),
  z.array(UnreadParts),
  z.array(Condition),
  z.array(Moment),
  Moment,
  z.record(z.string(), z.string()),
  Lom,
  z.record(z.string(), Lom),
]);
export type SettingValue = NonNullable<Settings[SettingName]>;

export const SETTING_LABELS = Object.fromEntries(SETTINGS.map((name) => [name, DEFINITIONS[name].label])) as Record<
  SettingName,
  string
>;

/** All that is known of a setting, whatever its value is. */
export function definitionOf(name: SettingName): SettingDefinition {
  return DEFINITIONS[name];
}

function isName(name: string): name is SettingName {
  return Object.hasOwn(DEFINITIONS, name);
}

/** Reads what is there, each by its own definition; what is set to nothing is not set. */
export const Settings: z.ZodType<Settings, unknown> = z
  .record(z.string(), z.unknown())
  .transform((given, context): Settings => {
    const read: Partial<Record<SettingName, unknown>> = {};
    for (const [name, value] of Object.entries(given)) {
      if (value === undefined) continue;
      const parsed = isName(name) ? definitionOf(name).schema.safeParse(value) : null;
      if (parsed?.success) read[name as SettingName] = parsed.data;
      else {
        const message = parsed?.error.issues[0]?.message ?? 'there is no such setting';
        context.addIssue({ code: 'custom', message, path: [name] });
      }
    }
    return read as Settings;
  });

/** What is set of an item or a place; `null` where nothing is, as where attempts are said to be without limit. */
export function settingOf({ settings }: { settings: Settings }, name: SettingName): SettingValue | null {
  const value = settings[name];
  return value === undefined || definitionOf(name).isNothing?.(value) === true ? null : value;
}

/** A value that is a list of names, paths or words; none where it is anything else. */
export function listIn(value: unknown): string[] {
  return Array.isArray(value) ? value.filter((one) => typeof one === 'string') : [];
}

/** Whether two values of a setting say the same. */
export function sameSetting(name: SettingName, one: SettingValue, other: SettingValue, readable: Readable): boolean {
  const { comparable } = definitionOf(name);
  return JSON.stringify(comparable(one, readable)) === JSON.stringify(comparable(other, readable));
}

/** Whether nobody would read anything of a value that is a text: mark-up alone, or a tag that is never closed. */
export function saysNothing(name: SettingName, value: SettingValue, readable: Readable): boolean {
  return definitionOf(name).comparable(value, readable) === '';
}

/** Said in place of a value that is shown on demand only. */
export const ON_DEMAND = 'set; shown on demand';

/** The value of a setting, so that a person can enter it again. What is secret is not among it. */
export function settingWords(name: SettingName, value: SettingValue): string {
  return definitionOf(name).secret ? `(${ON_DEMAND})` : openSettingWords(name, value);
}

/** As `settingWords`, where the person may see what is secret. Values that an older Treenail kept are read first. */
export function openSettingWords(name: SettingName, value: SettingValue): string {
  const { schema, words } = definitionOf(name);
  const read = schema.safeParse(value);
  return read.success ? words(read.data) : plainWords(value);
}

/** The value of a setting with the titles of the items that it names in place of their identifiers. */
export function namedSetting(
  name: SettingName,
  value: SettingValue,
  titles: ReadonlyMap<string, string>,
): SettingValue {
  const { schema, renamed } = definitionOf(name);
  if (!renamed) return value;
  const read = schema.safeParse(value);
  if (!read.success) return value;
  const title = (id: string) => {
    const known = titles.get(id);
    return known === undefined ? id : `“${known}”`;
  };
  return renamed(read.data, title) as SettingValue;
}
