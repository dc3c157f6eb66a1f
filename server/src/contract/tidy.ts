import { Decision, Finding, Match, Moment, Rule, Weight } from '@treenail/core';
import * as z from 'zod';
import { FurtherState } from './further.ts';

/** Findings, and what is decided of them. */

/** A kind of finding, in words for the destination of the move. */
export const FindingKindAnswer = z.object({
  id: z.string(),
  label: z.string(),
  weight: Weight,
  why: z.string(),
  mends: z.array(z.string()),
});
export type FindingKindAnswer = z.infer<typeof FindingKindAnswer>;

export const RuleSummary = z.object({ id: z.number(), rule: Rule });
export type RuleSummary = z.infer<typeof RuleSummary>;

/** Everything there is to decide of a course before it is moved. */
export const TidyAnswer = z.object({
  findings: z.array(Finding),
  kinds: z.array(FindingKindAnswer),
  decisions: z.array(Decision),
  rules: z.array(RuleSummary),
  failed: z.array(z.object({ key: z.string(), decision: z.string(), why: z.string() })),
  leftOut: z.array(z.string()),
  pulledIn: z.array(z.object({ item: z.string(), by: z.string() })),
  dangling: z.array(z.object({ item: z.string(), to: z.string(), words: z.string() })),
  /** From when on what goes can be seen; `null` where at once. */
  hiddenUntil: Moment.nullable(),
  /** Of a part that goes where others went before; `null` of the first. */
  further: FurtherState.nullable(),
  /** Whether all that went goes once more with it. */
  comesAgain: z.boolean(),
  /** Whether the working copy has everything in it that was decided. */
  current: z.boolean(),
  /** Whether decisions can still be made: until the fit is accepted. */
  open: z.boolean(),
});
export type TidyAnswer = z.infer<typeof TidyAnswer>;

/** What goes, said by what does not, and from when on it can be seen. */
export const ChosenToGo = z.object({ leftOut: z.array(z.string()).max(200_000), hiddenUntil: Moment.nullable() });
export type ChosenToGo = z.infer<typeof ChosenToGo>;

export const NewDecision = z.object({
  match: Match,
  mend: z.string().max(60),
  params: z.record(z.string(), z.string().max(2000)),
  reason: z.string().trim().max(300),
});
export type NewDecision = z.infer<typeof NewDecision>;

export const BeforeAfterAnswer = z.object({
  before: z.string(),
  after: z.string(),
  line: z.number().nullable(),
  why: z.string().nullable(),
});
export type BeforeAfterAnswer = z.infer<typeof BeforeAfterAnswer>;

/** Moves that a rule could be used for, with how many of their findings it fits. */
export const RuleUse = z.object({ moveId: z.number(), course: z.string(), title: z.string(), findings: z.number() });
export type RuleUse = z.infer<typeof RuleUse>;
