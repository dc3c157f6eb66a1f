import { plainText } from '../../markup/index.ts';
import {
  writtenCondition,
  writtenMoment,
  type Condition,
  type Item,
  type ItemOf,
  type Moment,
  partsOf,
  type Question,
  type QuestionType,
  type RichText,
} from '../../model/index.ts';

/** What Quernhold's archive writes for an item of each kind. */

/** Among the folders as a node of a sort, beside them as a record, or a line of the gradebook's one record. */
export type ItemRecord =
  | { sort: string; has: object }
  | { k: string; ref?: string; ttl?: string; has: object }
  | { ledger: 'categories' | 'columns'; line: object };

/** What a record is made with. */
export interface RecordContext {
  /** A text with its references as seen from the root of the archive. */
  moved: (item: Item, text: RichText) => string;
  /** What the outline calls an item. */
  titleOf: (item: Item) => string;
  /** The questions of an item as Quernhold holds them. */
  held: (item: ItemOf<'quiz' | 'bank'>) => readonly Question[];
}

const at = (moment: Moment | undefined): string | null => (moment === undefined ? null : writtenMoment(moment));

export function page({ file, settings: { audience, intendedUse } }: ItemOf<'page'>): ItemRecord {
  const tutorsOnly = audience === 'Instructor';
  const shownTo = tutorsOnly || audience === undefined ? {} : { shownTo: audience };
  return { sort: 'page', has: { path: file, tutorsOnly, use: intendedUse ?? null, ...shownTo } };
}

export function file(item: ItemOf<'file'>): ItemRecord {
  return { sort: 'file', has: { path: item.file } };
}

export function link({ url, settings: { linkTarget } }: ItemOf<'link'>): ItemRecord {
  const newWindow = linkTarget === '_blank';
  const window = newWindow || linkTarget === undefined ? {} : { window: linkTarget };
  return { sort: 'link', has: { url, newWindow, ...window } };
}

export function tool({ url, description, settings }: ItemOf<'tool'>): ItemRecord {
  return { sort: 'tool', has: { url, about: description, parameters: settings.customParameters ?? {} } };
}

export function talk(item: ItemOf<'discussion'>, { moved }: RecordContext): ItemRecord {
  return { sort: 'talk', has: { text: moved(item, item.text), attached: item.settings.attachments ?? [] } };
}

export function task(item: ItemOf<'assignment'>, { moved }: RecordContext): ItemRecord {
  const { points, submissionFormats, instructorNotes, attachments } = item.settings;
  return {
    sort: 'task',
    has: {
      text: moved(item, item.text),
      points: points ?? null,
      ways: submissionFormats ?? [],
      notes: instructorNotes ?? null,
      attached: attachments ?? [],
    },
  };
}

export function quiz(item: ItemOf<'quiz'>, context: RecordContext): ItemRecord {
  const { instructions, attempts, timeLimit } = item.settings;
  return {
    sort: 'quiz',
    has: {
      intro: instructions === undefined ? '' : context.moved(item, { format: 'html', text: instructions }),
      tries: typeof attempts === 'number' ? attempts : null,
      minutes: timeLimit ?? null,
      questions: questions(item, context),
    },
  };
}

export function glossary(item: ItemOf<'glossary'>, { moved }: RecordContext): ItemRecord {
  return {
    sort: 'words',
    has: {
      about: moved(item, item.text),
      words: item.entries.map((e) => ({ word: e.term, means: moved(item, e.definition), pictures: e.pictures })),
    },
  };
}

/** A bank has no place in the archive's outline, and bears what its course called it. */
export function bank(item: ItemOf<'bank'>, context: RecordContext): ItemRecord {
  return { k: 'bank', ref: item.id, ttl: context.titleOf(item), has: { questions: questions(item, context) } };
}

const named = ({ id, title }: Item) => ({ ref: id, title });

export function notice(item: ItemOf<'announcement'>, { moved }: RecordContext): ItemRecord {
  return {
    k: 'notices',
    has: { ...named(item), text: moved(item, item.text), posted: at(item.settings.posted) ?? '' },
  };
}

export function event(item: ItemOf<'event'>): ItemRecord {
  const [from, to] = [at(item.settings.opens) ?? '', at(item.settings.closes) ?? ''];
  return { k: 'events', has: { ...named(item), text: plain(item.text), from, to } };
}

export function checklist(item: ItemOf<'checklist'>): ItemRecord {
  return { k: 'checklists', has: { ...named(item), steps: item.steps } };
}

export function automation(item: ItemOf<'automation'>): ItemRecord {
  const { visibleWhen = [], audience } = item.settings;
  const mailTo = audience === 'tutor' ? 'tutor' : 'learner';
  return { k: 'automations', has: { ...named(item), ...ruleOf(visibleWhen), mailTo, text: plain(item.text) } };
}

export function attendance(item: ItemOf<'attendance'>): ItemRecord {
  const marks = item.marks.map(({ code, label, percent }) => ({ code, label, share: percent }));
  return {
    k: 'attendance',
    has: { ...named(item), marks, sessions: (item.settings.sessions ?? []).map(writtenMoment) },
  };
}

export function rubric(item: ItemOf<'rubric'>): ItemRecord {
  const rows = item.criteria.map(({ title, levels }) => ({ title, cells: levels }));
  return { k: 'rubrics', has: { ...named(item), rows } };
}

export function groups(item: ItemOf<'groups'>): ItemRecord {
  return { k: 'groups', has: { ...named(item), names: item.names } };
}

export function category(item: ItemOf<'category'>): ItemRecord {
  const { weight = 0, dropLowest = 0, equalPoints } = item.settings;
  return { ledger: 'categories', line: { ...named(item), weight, dropLowest, equal: equalPoints === true } };
}

export function column(item: ItemOf<'column'>): ItemRecord {
  const { points = 0, category: of, gradesItem, bonus } = item.settings;
  const line = { ...named(item), points, category: of ?? null, item: gradesItem ?? null, bonus: bonus === true };
  return { ledger: 'columns', line };
}

/** What an automation waits for: one of three things that Quernhold knows, or words. */
function ruleOf(conditions: readonly Condition[]): object {
  const [first] = conditions;
  if (conditions.length === 1 && first) {
    if (first.is === 'score' && first.side === 'below')
      return { when: 'score-below', item: first.item, value: first.percent };
    if (first.is === 'not visited') return { when: 'not-opened', item: first.item, value: first.days };
    if (first.is === 'absent') return { when: 'absent', item: null, value: first.times };
  }
  return { when: 'said', item: null, value: 0, said: conditions.map(writtenCondition).join('; ') };
}

/** Dates, conditions and locks of an item or a folder, in a record of their own; `null` where nothing is set. */
export function rules({ id, settings }: Pick<Item, 'id' | 'settings'>): ItemRecord | null {
  const { visibleWhen = [], doneWhen, password, lockdown, originality, onlyFor, usesRubric, starterPost } = settings;
  const { opens, due, closes } = settings;
  const all = [opens, due, closes, doneWhen, password, lockdown, originality, onlyFor, usesRubric, starterPost];
  if (settings.visibleWhen === undefined && all.every((value) => value === undefined)) return null;
  const [first] = visibleWhen;
  const after = first?.is === 'score' && first.side === 'at least' ? { item: first.item, score: first.percent } : null;
  return {
    k: 'rules',
    has: {
      item: id,
      opens: at(opens),
      due: at(due),
      closes: at(closes),
      after,
      also: (after ? visibleWhen.slice(1) : visibleWhen).map(writtenCondition),
      done: doneWhen ?? null,
      password: password ?? null,
      lockdown: lockdown === true,
      originality: originality === true,
      group: onlyFor ?? null,
      rubric: usesRubric ?? null,
      starter: starterPost ?? null,
    },
  };
}

const TYPES: Partial<Record<QuestionType, string>> = {
  choice: 'choice',
  'multiple response': 'several',
  'true/false': 'truth',
  'short answer': 'blank',
  pattern: 'pattern',
};

function questions(item: ItemOf<'quiz' | 'bank'>, { held, moved }: RecordContext): object[] {
  const text = (rich: RichText) => moved(item, rich);
  return held(item).map((q) => {
    const { general, solution } = q.feedback;
    const { choices, answers } = partsOf(q);
    return {
      ref: q.id,
      title: q.title,
      prompt: text(q.prompt),
      points: q.points,
      topic: q.category ?? null,
      type: TYPES[q.type] ?? 'essay',
      choices: choices.map((c) => ({ text: text(c.text), right: c.correct })),
      answers: answers.map((a) => a.text),
      exact: answers.flatMap((a, i) => (a.caseSensitive ? [i + 1] : [])),
      feedback: general ? text(general) : null,
      model: solution ? text(solution) : null,
      marked: true,
    };
  });
}

function plain(rich: RichText): string {
  return rich.format === 'plain' ? rich.text : plainText(rich.text);
}
