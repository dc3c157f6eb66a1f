import * as z from 'zod';
import { Moment, momentOf, momentWords, writtenMoment } from './moment.ts';

/**
 * On what an item hangs: when it is shown, or when something happens. Items and groups are named by their identifiers, per
 * cents are of the whole score. What could not be read is kept as its words.
 */
export type Condition =
  | { is: 'score'; item: string; side: 'at least' | 'below'; percent: number }
  | { is: 'done'; item: string }
  | { is: 'visited'; item: string }
  | { is: 'not visited'; item: string; days: number }
  | { is: 'absent'; times: number }
  | { is: 'date'; side: 'from' | 'until'; at: Moment }
  | { is: 'member'; group: string }
  | { is: 'all of' | 'any of' | 'none of'; conditions: Condition[] }
  | { is: 'unread'; words: string };

export const Condition: z.ZodType<Condition> = z.union([
  z.object({ is: z.literal('score'), item: z.string(), side: z.enum(['at least', 'below']), percent: z.number() }),
  z.object({ is: z.literal('done'), item: z.string() }),
  z.object({ is: z.literal('visited'), item: z.string() }),
  z.object({ is: z.literal('not visited'), item: z.string(), days: z.number() }),
  z.object({ is: z.literal('absent'), times: z.number() }),
  z.object({ is: z.literal('date'), side: z.enum(['from', 'until']), at: Moment }),
  z.object({ is: z.literal('member'), group: z.string() }),
  z.object({
    is: z.enum(['all of', 'any of', 'none of']),
    get conditions() {
      return z.array(Condition);
    },
  }),
  z.object({ is: z.literal('unread'), words: z.string() }),
]);

/** Words of a text that could each be the identifier of an item. */
const WORD = /[^\s,=]+/g;

/**
 * Every item that a condition speaks of, once. Of what could not be read any word may be one: whoever asks knows which are.
 */
export function itemsOfCondition(condition: Condition): string[] {
  if ('conditions' in condition) return [...new Set(condition.conditions.flatMap(itemsOfCondition))];
  if (condition.is === 'unread') return [...new Set(condition.words.match(WORD))];
  return 'item' in condition ? [condition.item] : [];
}

/** A condition that speaks of its items by other names. */
export function renamedCondition(condition: Condition, name: (id: string) => string): Condition {
  if ('conditions' in condition) {
    return { ...condition, conditions: condition.conditions.map((c) => renamedCondition(c, name)) };
  }
  if (condition.is === 'unread') return { ...condition, words: condition.words.replace(WORD, name) };
  return 'item' in condition ? { ...condition, item: name(condition.item) } : condition;
}

/** A condition as a person reads it after “when”. */
export function conditionWords(condition: Condition, name: (id: string) => string = (id) => id): string {
  switch (condition.is) {
    case 'score':
      return `the score of ${name(condition.item)} is ${condition.side} ${condition.percent} %`;
    case 'done':
      return `${name(condition.item)} is done`;
    case 'visited':
      return `${name(condition.item)} was opened`;
    case 'not visited':
      return `${name(condition.item)} was not opened for ${condition.days} ${condition.days === 1 ? 'day' : 'days'}`;
    case 'absent':
      return `somebody was absent ${condition.times} ${condition.times === 1 ? 'time' : 'times'}`;
    case 'date':
      return `it is ${condition.side === 'from' ? 'after' : 'before'} ${momentWords(condition.at)}`;
    case 'member':
      return `somebody is in the group “${condition.group}”`;
    case 'all of':
    case 'any of': {
      const joined = condition.is === 'all of' ? ' and ' : ' or ';
      return condition.conditions.map((c) => within(c, name)).join(joined) || 'nothing is asked';
    }
    case 'none of':
      return `none of these is so: ${condition.conditions.map((c) => within(c, name)).join(', ')}`;
    case 'unread':
      return condition.words.replace(WORD, name);
  }
}

function within(condition: Condition, name: (id: string) => string): string {
  const words = conditionWords(condition, name);
  return 'conditions' in condition && condition.conditions.length > 1 ? `(${words})` : words;
}

/**
 * A condition that somebody wrote down in words, as far as they are understood: as Treenail itself wrote them once, and as
 * descriptions of archives give them. All else is kept as it stands.
 */
export function conditionOfWords(words: string): Condition {
  const score = /^score of (\S+) (at least|below) (\d+(?:\.\d+)?) %$/.exec(words);
  if (score) {
    const [, item = '', side, percent] = score;
    return { is: 'score', item, side: side === 'below' ? 'below' : 'at least', percent: Number(percent) };
  }
  const opened = /^(\S+) not opened for (\d+) days$/.exec(words);
  if (opened) return { is: 'not visited', item: opened[1] ?? '', days: Number(opened[2]) };
  const [, side, at] = /^(from|until) (\d{4}-\d\d-\d\d\S*)$/.exec(words) ?? [];
  if (at !== undefined && momentOf(at).is !== 'unread') {
    return { is: 'date', side: side === 'until' ? 'until' : 'from', at: momentOf(at) };
  }
  const absent = /^absent (\d+) times$/.exec(words);
  return absent ? { is: 'absent', times: Number(absent[1]) } : { is: 'unread', words };
}

/** A condition in words that are understood again, as far as there are such; see `conditionOfWords`. */
export function writtenCondition(condition: Condition): string {
  switch (condition.is) {
    case 'score':
      return `score of ${condition.item} ${condition.side} ${condition.percent} %`;
    case 'not visited':
      return `${condition.item} not opened for ${condition.days} days`;
    case 'absent':
      return `absent ${condition.times} times`;
    case 'date':
      // Words that are no date are said as any other, so that they are not taken for one.
      return condition.at.is === 'unread'
        ? conditionWords(condition)
        : `${condition.side} ${writtenMoment(condition.at)}`;
    default:
      return conditionWords(condition);
  }
}
