import * as z from 'zod';
import { Moment, Refusal, SubjectKind, Term, problem } from '../../model/index.ts';
import { DateName } from './known.ts';

/** Where a date goes. */
export const DateRule = z.discriminatedUnion('is', [
  /** The same teaching week and day of the week of another term. */
  z.object({ is: z.literal('term'), from: Term, to: Term }),
  /** Pressed or stretched into a term of another length, week by week. */
  z.object({ is: z.literal('stretch'), from: Term, to: Term }),
  /** As many days on as one first day lies after the other. */
  z.object({ is: z.literal('days'), from: z.iso.date(), to: z.iso.date() }),
  z.object({ is: z.literal('away') }),
  z.object({ is: z.literal('keep') }),
]);
export type DateRule = z.infer<typeof DateRule>;

/** What a rule beside that for all is about. */
export const RuleScope = z.discriminatedUnion('is', [
  z.object({ is: z.literal('item'), item: z.string() }),
  /** All that stands below a folder. */
  z.object({ is: z.literal('folder'), folder: z.string() }),
  z.object({ is: z.literal('kind'), kind: SubjectKind }),
  z.object({ is: z.literal('name'), name: DateName }),
]);
export type RuleScope = z.infer<typeof RuleScope>;

/** What became of a date that is written in a text: put in as proposed, left as it is, or other words. */
export const TextChoice = z.discriminatedUnion('is', [
  z.object({ is: z.literal('taken') }),
  z.object({ is: z.literal('left') }),
  z.object({ is: z.literal('words'), words: z.string().min(1).max(200) }),
]);
export type TextChoice = z.infer<typeof TextChoice>;

/** What is decided of the dates of a course. */
export const RedatePlan = z.object({
  rule: DateRule,
  others: z.array(z.object({ scope: RuleScope, rule: DateRule })),
  /** Dates that a person set, by their keys; `null` where it was taken away. */
  byHand: z.record(z.string(), Moment.nullable()),
  /** Dates in texts, by the keys of their findings. */
  texts: z.record(z.string(), TextChoice),
  /** Those in texts that nobody decided on are put in as proposed. */
  allTexts: z.boolean(),
});
export type RedatePlan = z.infer<typeof RedatePlan>;

/** Nothing is changed by it. */
export const NO_REDATING: RedatePlan = { rule: { is: 'keep' }, others: [], byHand: {}, texts: {}, allTexts: false };

/** Whether anything may be other than it was. */
export function changesNothing({ rule, others, byHand, texts }: RedatePlan): boolean {
  return (
    rule.is === 'keep' &&
    others.every((o) => o.rule.is === 'keep') &&
    Object.keys(byHand).length === 0 &&
    Object.values(texts).every((t) => t.is !== 'words')
  );
}

/** @throws Refusal `rules-contradict` where two rules speak of the same, `term-dates` where a term ends before it begins */
export function checkPlan(plan: RedatePlan): void {
  const seen = new Map<string, number>();
  plan.others.forEach(({ scope }, i) => {
    const key = JSON.stringify(scope);
    const before = seen.get(key);
    if (before !== undefined) {
      throw new Refusal(
        problem(
          'rules-contradict',
          `Rules ${before + 1} and ${i + 1} both say where the dates of ${scopeWords(scope)} go.`,
        ),
      );
    }
    seen.set(key, i);
  });
  for (const { rule } of [{ rule: plan.rule }, ...plan.others]) {
    if (rule.is !== 'term' && rule.is !== 'stretch') continue;
    for (const term of [rule.from, rule.to]) {
      if (term.from > term.to) {
        throw new Refusal(problem('term-dates', `The dates of ${term.name} are not in order.`));
      }
    }
  }
}

function scopeWords(scope: RuleScope): string {
  switch (scope.is) {
    case 'item':
      return `the item ${scope.item}`;
    case 'folder':
      return `the folder ${scope.folder}`;
    case 'kind':
      return `each ${scope.kind}`;
    case 'name':
      return `what is “${scope.name}”`;
  }
}
