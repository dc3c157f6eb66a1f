import * as z from 'zod';
import { Condition, conditionOfWords, conditionWords, renamedCondition } from '../condition.ts';
import { defineSetting, text, texts, yes } from './define.ts';

/** Who sees an item, when, and when it counts as done. */

/** Before conditions were data they were written down in words. */
const Conditions = z
  .union([text.transform((words) => [words]), z.array(z.union([text, Condition]))])
  .transform((all) => all.map((one) => (typeof one === 'string' ? conditionOfWords(one) : one)));

const WORD = /[^\s,=]+/g;

export const hidden = defineSetting({ label: 'hidden in the outline', schema: yes });
export const audience = defineSetting({ label: 'shown to', schema: text });
export const visibleWhen = defineSetting({
  label: 'shown only when',
  schema: Conditions,
  words: (all) => all.map((one) => conditionWords(one)).join(', '),
  renamed: (all, name) => all.map((one) => renamedCondition(one, name)),
  rule: true,
});
export const doneWhen = defineSetting({
  label: 'counts as done when',
  schema: text,
  renamed: (words, name) => words.replace(WORD, name),
  rule: true,
});
export const prerequisites = defineSetting({ label: 'prerequisites', schema: text, rule: true });
export const sequencing = defineSetting({ label: 'sequencing rules', schema: z.union([text, texts]), rule: true });
export const onlyFor = defineSetting({ label: 'only for the group', schema: text, rule: true });
export const password = defineSetting({ label: 'password', schema: text, secret: true });
export const lockdown = defineSetting({ label: 'locked-down browser', schema: yes });
export const originality = defineSetting({ label: 'originality check', schema: yes });
