import {
  ITEM_KINDS,
  SUBJECT_KINDS,
  courseOf,
  type Course,
  type Item,
  type ItemKind,
  type ItemOf,
  type KindRule,
  type PlaceKind,
  type Profile,
  type QuestionRule,
  type QuestionType,
  type SettingName,
  type SubjectKind,
} from '../model/index.ts';

/** Not carried, and why. */
export interface Never {
  readonly never: string;
}

/** Becomes another kind: why, and which settings it loses by that. */
export interface Becomes {
  readonly as: SubjectKind;
  readonly why: string;
  readonly drops?: readonly SettingName[];
}

/** What a format does with items of a kind: how it writes them, perhaps as another kind, or why it does not. */
export type Decision<Write> =
  | Never
  | (({ readonly as?: never } | Becomes) & { readonly write: Write } & {
      /** The kind bears no title of its own: outside the outline it is called otherwise. Why. */
      readonly untitled?: string;
    });

/** What a format does with folders, headings, and further places of items. */
export type PlaceDecision = 'whole' | Never | Becomes;

/** What a format does with every kind there is: the compiler asks for the one that is missing. */
export type KindTable<To, Out> = {
  readonly [K in ItemKind]: Decision<(item: ItemOf<K>, to: To) => Out>;
} & { readonly [P in PlaceKind]: PlaceDecision };

/** The kinds that keep a setting, and why the others lose it where there is more to say than that there is no place. */
export type SettingDecision = readonly SubjectKind[] | { readonly by: readonly SubjectKind[]; readonly else: string };
export type SettingTable = { readonly [S in SettingName]: SettingDecision };

export type QuestionTable = { readonly [T in QuestionType]: 'whole' | QuestionRule };

export interface FormatTables<To = never, Out = unknown> extends Pick<
  Profile,
  'id' | 'label' | 'questionParts' | 'limits'
> {
  readonly kinds: KindTable<To, Out>;
  readonly settings: SettingTable;
  readonly questions: QuestionTable;
}

const OTHER_RULES = 'the rules of its source give other points for some answers than the key that was read of them';

const OTHER_MANNER = 'the source asks it in a manner that is not written anew';

/** What asks for no more than choices, words and prose. */
export const PLAINLY_ASKED = {
  slider: 'a number is entered, and not set on a slider',
  pointing: 'nobody points at a picture in it',
} satisfies Profile['questionParts'];

/** What a format can hold, from what it does: so that forecast and writer cannot disagree. */
export function profileOf<To, Out>(format: FormatTables<To, Out>): Profile {
  const { id, label, kinds, settings, questions, questionParts, limits } = format;
  const untitled = ITEM_KINDS.flatMap((kind) => {
    const decision = kinds[kind];
    return 'untitled' in decision && decision.untitled !== undefined ? [[kind, decision.untitled]] : [];
  });
  const decided = Object.entries(settings) as [SettingName, SettingDecision][];
  const keeps = SUBJECT_KINDS.map((kind) => [
    kind,
    decided.flatMap(([name, decision]) => (kindsOf(decision).includes(kind) ? [name] : [])),
  ]);
  const reasons = SUBJECT_KINDS.map((kind) => [
    kind,
    Object.fromEntries(
      decided.flatMap(([name, decision]) =>
        'else' in decision && !decision.by.includes(kind) ? [[name, decision.else]] : [],
      ),
    ),
  ]);
  return {
    id,
    label,
    version: 1,
    kinds: Object.fromEntries(SUBJECT_KINDS.flatMap((kind) => ruleOf(kind, kinds[kind]))),
    keeps: Object.fromEntries(keeps) as NonNullable<Profile['keeps']>,
    settings: Object.fromEntries(reasons) as Profile['settings'],
    ...(untitled.length > 0 ? { untitled: Object.fromEntries(untitled) as NonNullable<Profile['untitled']> } : {}),
    questions: Object.fromEntries(Object.entries(questions).filter(([, rule]) => rule !== 'whole')),
    questionParts: { 'rules of scoring': OTHER_RULES, 'manner of asking': OTHER_MANNER, ...questionParts },
    limits,
  };
}

function kindsOf(decision: SettingDecision): readonly SubjectKind[] {
  return 'by' in decision ? decision.by : decision;
}

function ruleOf(kind: SubjectKind, decision: PlaceDecision | Decision<unknown>): [SubjectKind, KindRule][] {
  if (decision === 'whole') return [];
  if ('never' in decision) return [[kind, { carry: 'never', reason: decision.never }]];
  if (decision.as === undefined) return [];
  const { as, why, drops = [] } = decision;
  return [[kind, { carry: 'as', ways: [{ as, reason: why, drops: [...drops] }] }]];
}

/** Whether a format writes items of this kind, as whatever it be. */
export function isWritten<To, Out>(table: KindTable<To, Out>, { kind }: { kind: ItemKind }): boolean {
  return !('never' in table[kind]);
}

/** The course without what a format does not write, and without the places in its outline that were theirs alone. */
export function writtenBy<To, Out>(course: Course, table: KindTable<To, Out>): Course {
  return courseOf(course, (item): item is Item => isWritten(table, item));
}

/** What the format makes of an item; `null` where it does not write it. */
export function writeBy<To, Out>(table: KindTable<To, Out>, item: Item, to: To): Out | null {
  const decision = table[item.kind] as Decision<(item: Item, to: To) => Out>;
  return 'never' in decision ? null : decision.write(item, to);
}

const BESIDE = [
  'announcement',
  'event',
  'checklist',
  'automation',
  'attendance',
  'rubric',
  'groups',
  'category',
  'column',
] as const satisfies readonly ItemKind[];

/** Kinds that hold something beside the content of a course, none of which a format has a place for. */
export function noneBeside(format: string): Record<(typeof BESIDE)[number], Never> {
  const none = { never: `${format} has no place for it` };
  return Object.fromEntries(BESIDE.map((kind) => [kind, none])) as ReturnType<typeof noneBeside>;
}

/** Settings that a format keeps nowhere. */
export const NOWHERE: readonly SubjectKind[] = [];

/** What no reader took can be carried as it stands, but not be written anew. */
export const NOT_READ: SettingDecision = { by: NOWHERE, else: 'what Treenail does not read is not written anew' };
