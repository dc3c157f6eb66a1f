import * as z from 'zod';
import { defineSetting, number, text, yes } from './define.ts';

/** What is counted, how often and by which rule. */

const oneItem = { schema: text, renamed: (id: string, name: (id: string) => string) => name(id) };

export const points = defineSetting({ label: 'points', schema: number });
export const attempts = defineSetting({
  label: 'attempts allowed',
  schema: z.union([number, text]),
  isNothing: (value) => value === 'unlimited',
});
export const timeLimit = defineSetting({ label: 'time limit', unit: 'minutes', schema: number });
export const masteryScore = defineSetting({ label: 'score to pass', unit: 'per cent', schema: number });
export const completionThreshold = defineSetting({ label: 'share that completes it', schema: text });
export const usesRubric = defineSetting({ label: 'rubric', ...oneItem });
export const category = defineSetting({ label: 'grade category', ...oneItem });
export const gradesItem = defineSetting({ label: 'grades the item', ...oneItem });
export const weight = defineSetting({ label: 'weight', unit: 'per cent', schema: number });
export const dropLowest = defineSetting({ label: 'lowest scores dropped', schema: number });
export const equalPoints = defineSetting({ label: 'all worth the same', schema: yes });
export const bonus = defineSetting({ label: 'bonus', schema: yes });

/** How many questions, or `all`, by the identifier of each bank. */
export const draws = defineSetting({
  label: 'questions drawn from banks',
  schema: z.record(text, text),
  // Banks are called otherwise after a platform has renumbered them; how many are drawn from how many stays.
  comparable: (value) => Object.values(value).sort(),
  words: (value) =>
    Object.entries(value)
      .map(([bank, many]) => `${Number(many) > 0 ? many : 'all'} of ${bank}`)
      .join(', '),
  renamed: (value, name) => Object.fromEntries(Object.entries(value).map(([bank, many]) => [name(bank), many])),
});
