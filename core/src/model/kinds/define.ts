import * as z from 'zod';
import type { Question, RichText } from '../question.ts';
import { Settings } from '../settings/index.ts';

/** What items of every kind have. */
export const common = {
  /** The identifier that the item had in its package or on its platform. */
  id: z.string(),
  title: z.string(),
  /** Path of the file that holds the item's definition, if it has one of its own. */
  definitionPath: z.string().nullable(),
  settings: Settings,
  /** Fingerprint of the text without mark-up, or of the bytes; set by the survey. */
  fingerprint: z.string().optional(),
};

export interface Common {
  id: string;
  title: string;
  definitionPath: string | null;
  settings: Settings;
  fingerprint?: string | undefined;
}

/** Puts a text through; `part` tells where in the item it stands. */
export type ChangeText = (part: string, text: RichText) => RichText;

/** A piece of an item as it is shown: whoever shows it decides on the mark-up. */
export type Block =
  | { is: 'text'; text: RichText }
  | { is: 'address'; url: string; words: string }
  | { is: 'steps'; steps: readonly string[] }
  | { is: 'table'; rows: readonly TableRow[] }
  | { is: 'terms'; entries: readonly { term: string; definition: RichText; pictures: readonly string[] }[] }
  | { is: 'questions'; questions: readonly Question[] };

export interface TableCell {
  text: string;
  /** Said in a heavier hand before the text. */
  first?: string;
  head?: 'row' | 'column';
  /** How many columns it takes. */
  span?: number;
  marked?: boolean;
}
export type TableRow = readonly TableCell[];

/** What a kind may be shown beside: the other items of its course. */
export interface Beside {
  readonly items: readonly (Common & { kind: string })[];
}

/** One kind of item, and all that Treenail has to know of it. */
export interface KindDefinition<K extends string, T extends Common> {
  readonly kind: K;
  /** What one of it is called: `external tool`. */
  readonly label: string;
  readonly schema: z.ZodType<T, unknown>;
  /** Part of what learners go through, which formats for content hold. */
  readonly content: boolean;
  /** The item with each of its texts that may bear mark-up put through `change`. */
  readonly texts: (item: T, change: ChangeText) => T;
  /** Package paths of what the item is made of or shows by itself; attachments and files in texts are settings. */
  readonly files: (item: T) => readonly string[];
  /** Pictures that are shown beside its texts. */
  readonly shows: (item: T) => readonly string[];
  /** The file that is the item: a page, or a file to be had. */
  readonly body: (item: T) => string | null;
  readonly questions: (item: T) => readonly Question[];
  /** What it says, without mark-up and identifiers: so that it is found again after a platform renumbers it. */
  readonly fingerprint: (item: T, readable: (text: RichText) => string) => string;
  /** The item as its author reads it, below its title. */
  readonly preview: (item: T, beside: Beside) => readonly Block[];
  /** The item as a page for learners, for formats that hold nothing else; `null` where it can't be one. */
  readonly asPage: ((item: T) => readonly Block[]) | null;
  /** Whether a text can lead to it though it has no page or file of its own. */
  readonly ledTo: boolean;
  /** The fields of what older courses kept as lines of a table. */
  readonly fromRows?: (rows: readonly (readonly string[])[]) => object;
}

type Given<K extends string, S extends z.ZodType<Common & { kind: K }, unknown>> = {
  kind: K;
  label: string;
  schema: S;
} & Partial<Omit<KindDefinition<K, z.output<S>>, 'kind' | 'label' | 'schema' | 'fingerprint'>> &
  Pick<KindDefinition<K, z.output<S>>, 'fingerprint'>;

/** A kind; what is not said is as it is for most. */
export function defineKind<K extends string, S extends z.ZodType<Common & { kind: K }, unknown>>(
  given: Given<K, S>,
): KindDefinition<K, z.output<S>> & { schema: S } {
  const most = {
    content: false,
    texts: (item: z.output<S>) => item,
    files: () => [],
    shows: () => [],
    body: () => null,
    questions: () => [],
    preview: given.asPage ?? (() => []),
    asPage: null,
    ledTo: false,
  };
  // What is given replaces what is so for most; the compiler loses context of that in a spread of optional parts.
  return { ...most, ...given } as KindDefinition<K, z.output<S>> & { schema: S };
}

/** The text of an item that is mostly a text. */
export const textBlock = ({ text }: { text: RichText }): Block => ({ is: 'text', text });

/** The parts that a kind with one text has of it. */
export const ofText = {
  texts: <T extends { text: RichText }>(item: T, change: ChangeText): T => ({
    ...item,
    text: change('text', item.text),
  }),
  fingerprint: (item: { text: RichText }, readable: (text: RichText) => string) => readable(item.text),
};
