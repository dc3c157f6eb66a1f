import * as z from 'zod';
import type { Question } from '../question.ts';
import { announcement } from './announcement/index.ts';
import { assignment } from './assignment/index.ts';
import { attendance } from './attendance/index.ts';
import { automation } from './automation/index.ts';
import { bank } from './bank/index.ts';
import { category } from './category/index.ts';
import { checklist } from './checklist/index.ts';
import { column } from './column/index.ts';
import type { ChangeText, KindDefinition } from './define.ts';
import { discussion } from './discussion/index.ts';
import { event } from './event/index.ts';
import { file } from './file/index.ts';
import { foreign } from './foreign/index.ts';
import { glossary } from './glossary/index.ts';
import { groups } from './groups/index.ts';
import { link } from './link/index.ts';
import { page } from './page/index.ts';
import { quiz } from './quiz/index.ts';
import { rubric } from './rubric/index.ts';
import { tool } from './tool/index.ts';

/** Every kind of item, in the order in which they are listed. */
const KINDS = {
  page,
  file,
  link,
  tool,
  assignment,
  discussion,
  quiz,
  bank,
  glossary,
  announcement,
  event,
  checklist,
  automation,
  attendance,
  rubric,
  groups,
  category,
  column,
  foreign,
};

export type ItemKind = keyof typeof KINDS;
export type ItemOf<K extends ItemKind> = K extends ItemKind ? z.output<(typeof KINDS)[K]['schema']> : never;
export type Item = ItemOf<ItemKind>;
export const ITEM_KINDS = Object.keys(KINDS) as ItemKind[];

/** All that is known of an item's kind. */
export function kindOf<T extends Item>(item: { kind: T['kind'] } | T): KindDefinition<T['kind'], T> {
  return KINDS[item.kind] as unknown as KindDefinition<T['kind'], T>;
}

const ByKind = z.discriminatedUnion(
  'kind',
  Object.values(KINDS).map((k) => k.schema) as unknown as [z.ZodObject<{ kind: z.ZodLiteral<ItemKind> }>],
);

/** What items were called by in courses that were kept before. */
const Before = z.looseObject({
  kind: z.string(),
  place: z.string().nullable().optional(),
  print: z.string().optional(),
  rows: z.array(z.array(z.string())).optional(),
});

/** Items of courses that were kept before some of their fields had other names, and some kinds fields of their own. */
function asNow(given: unknown): unknown {
  if (typeof given !== 'object' || given === null || 'definitionPath' in given) return given;
  const before = Before.safeParse(given);
  if (!before.success) return given;
  const { place, print, rows, ...item } = before.data;
  const definition = Object.hasOwn(KINDS, item.kind) ? kindOf({ kind: item.kind as ItemKind }) : undefined;
  return {
    ...item,
    ...(place === undefined ? {} : { definitionPath: place }),
    ...(print === undefined ? {} : { fingerprint: print }),
    ...(rows === undefined ? {} : definition?.fromRows?.(rows)),
  };
}

export const Item = z.preprocess(asNow, ByKind) as unknown as z.ZodType<Item, unknown>;

/**
 * Folders and headings are places in the outline, not items, and so is where an item stands once more; forecasts and
 * comparisons speak of all of them, and of the course itself where something is set of it.
 */
const PLACES = { course: 'course', folder: 'folder', heading: 'heading', occurrence: 'further place' } as const;
export type PlaceKind = keyof typeof PLACES;
export type SubjectKind = PlaceKind | ItemKind;

/** Whether it is a place by itself, and no item. */
export function isPlace(kind: SubjectKind): kind is PlaceKind {
  return kind in PLACES;
}

export const SUBJECT_KINDS = [...Object.keys(PLACES), ...ITEM_KINDS] as SubjectKind[];
export const SubjectKind = z.enum(SUBJECT_KINDS);

export const KIND_LABELS = {
  ...PLACES,
  ...Object.fromEntries(ITEM_KINDS.map((kind) => [kind, KINDS[kind].label])),
} as Record<SubjectKind, string>;

/** The file that is the item: of a page, and of a file to be had. */
export function bodyOf(item: Item): string | null {
  return kindOf(item).body(item);
}

/** The questions that an item holds: those of quizzes and banks. */
export function questionsOf(item: Item | null | undefined): readonly Question[] {
  return item ? kindOf(item).questions(item) : [];
}

/** Whether the kind is one that holds questions, be it none. */
export function holdsQuestions(item: Item): item is ItemOf<'quiz' | 'bank'> {
  return 'questions' in item;
}

/** Whether the item is one file: a page, or a file to be had. */
export function isOneFile(item: Item): item is ItemOf<'page' | 'file'> {
  return 'file' in item;
}

/** Whether a text can lead to such an item though it has no page or file of its own. */
export function isLedTo({ kind }: { kind: SubjectKind }): boolean {
  return !isPlace(kind) && kindOf({ kind }).ledTo;
}

/** The item with its own texts put through `change`; settings that are texts are not among them. */
export function changeOwnTexts(item: Item, change: ChangeText): Item {
  return kindOf(item).texts(item, change);
}
