import * as z from 'zod';

/** Turns mark-up into what a person reads; given by whoever compares, since the model knows no HTML. */
export type Readable = (html: string) => string;

/** One setting of items: what may stand in it, and all that Treenail has to know of it. */
export interface SettingDefinition<S extends z.ZodType = z.ZodType> {
  readonly schema: S;
  /** What it is called on screen and in reports, with its unit: `time limit, minutes`. */
  readonly label: string;
  /** The part of the value on which it hangs whether two are the same; compared as JSON. */
  readonly comparable: (value: z.output<S>, readable: Readable) => unknown;
  /** The value as a person reads it, so that it can be entered again. */
  readonly words: (value: z.output<S>) => string;
  /** The value with the items that it names called otherwise. Not given where it names none. */
  readonly renamed?: (value: z.output<S>, name: (id: string) => string) => z.output<S>;
  /** Whether the value says no more than if it were not set. */
  readonly isNothing?: (value: z.output<S>) => boolean;
  /** Shown on demand only. */
  readonly secret: boolean;
  /** Told as a sentence (`inspect/sentences.ts`), not as a name with a value. */
  readonly rule: boolean;
  /** Paths of files in the package: compared by what the files hold. */
  readonly files: boolean;
  /** That the destination sets it by itself is no news. */
  readonly mayAppear: boolean;
}

type Given<S extends z.ZodType> = Pick<SettingDefinition<S>, 'schema'> & {
  label: string;
  unit?: string;
} & Partial<Omit<SettingDefinition<S>, 'schema' | 'label'>>;

/** A setting; what is not said is as it is for most. */
export function defineSetting<S extends z.ZodType>({ label, unit, ...given }: Given<S>): SettingDefinition<S> {
  return {
    comparable: sorted,
    words: plainWords,
    secret: false,
    rule: false,
    files: false,
    mayAppear: false,
    ...given,
    label: unit === undefined ? label : `${label}, ${unit}`,
  };
}

/** Records with their names in order, so that two of the same content are written the same. */
function sorted(value: unknown): unknown {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return value;
  return Object.entries(value).sort(([x], [y]) => (x < y ? -1 : 1));
}

/** Letters of a value that are said in a line: a text of more is entered again from the kept copy. */
const LONG = 240;

/** A value of any shape that says itself. */
export function plainWords(value: unknown): string {
  if (value === true) return 'yes';
  if (value === false) return 'no';
  if (Array.isArray(value)) return value.map(plainWords).join(', ');
  if (typeof value === 'object' && value !== null) {
    return Object.entries(value)
      .map(([name, one]) => `${name}=${String(one)}`)
      .join(', ');
  }
  const words = String(value)
    .replace(/<[^>]+>/g, ' ')
    .replace(/\s+/g, ' ')
    .trim();
  if (words.length > LONG) return `“${words.slice(0, LONG)}…”`;
  // What ends as a sentence does would run into what is said of it.
  return /\s.*[.!?…]$/.test(words) ? `“${words}”` : words;
}

/** Text that may bear mark-up: compared by what it says, since platforms and formats write mark-up anew. */
export const comparableText = (value: string, readable: Readable): string => readable(value);

/** Shapes that several settings have. */
export const text = z.string();
export const texts = z.array(z.string());
export const named = z.record(z.string(), z.string());
export const yes = z.boolean();
export const number = z.number();
