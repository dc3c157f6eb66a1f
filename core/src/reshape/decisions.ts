import * as z from 'zod';
import { underGroupKey, type Finding } from '../inspect/index.ts';

/** What a decision is about: one finding, all that are alike, or all of a kind. */
const MatchNow = z.object({
  kind: z.string(),
  /** `null` where it is about all of the kind. */
  groupKey: z.string().nullable(),
  /** `null` where it is about more than one. */
  key: z.string().nullable(),
});
export type Match = z.infer<typeof MatchNow>;
export const Match: z.ZodType<Match, unknown> = z.preprocess(underGroupKey, MatchNow);

/** The mend that leaves a finding as it is, with a reason. */
export const LEAVE = 'leave';

export const Decision = z.object({
  id: z.string(),
  match: Match,
  /** A mend's identifier, or `leave`. */
  mend: z.string(),
  /** Empty where each finding's own suggestion is taken. */
  params: z.record(z.string(), z.string()),
  reason: z.string(),
});
export type Decision = z.infer<typeof Decision>;

/** A decision under a name, to be used for other courses. It speaks of no single finding. */
export const Rule = z.object({
  name: z.string().trim().min(1).max(80),
  match: z.preprocess(underGroupKey, MatchNow.extend({ key: z.null() })),
  mend: z.string(),
  params: z.record(z.string(), z.string()),
  reason: z.string(),
});
export type Rule = z.infer<typeof Rule>;

export function matches({ kind, groupKey, key }: Match, finding: Finding): boolean {
  if (kind !== finding.kind) return false;
  if (key !== null) return key === finding.key;
  return groupKey === null || groupKey === finding.groupKey;
}

/** How narrowly a decision speaks: the narrower one counts, and of two the later. */
function narrowness({ groupKey, key }: Match): number {
  return key !== null ? 2 : groupKey !== null ? 1 : 0;
}

/** The decision that counts for each finding that has one, by the finding's key. */
export function decided(findings: readonly Finding[], decisions: readonly Decision[]): Map<string, Decision> {
  const byKind = new Map<string, Decision[]>();
  for (const decision of decisions) {
    const list = byKind.get(decision.match.kind);
    if (list) list.push(decision);
    else byKind.set(decision.match.kind, [decision]);
  }
  const found = new Map<string, Decision>();
  for (const finding of findings) {
    let best: Decision | undefined;
    for (const decision of byKind.get(finding.kind) ?? []) {
      if (!matches(decision.match, finding)) continue;
      if (!best || narrowness(decision.match) >= narrowness(best.match)) best = decision;
    }
    if (best) found.set(finding.key, best);
  }
  return found;
}

/** What a mend needs to know for one finding: what the decision says, or what the finding itself suggests. */
export function paramsFor(
  finding: Finding,
  { mend, params }: Pick<Decision, 'mend' | 'params'>,
): Record<string, string> {
  const own = finding.suggestions.find((s) => s.mend === mend)?.params ?? {};
  return Object.keys(params).length > 0 ? { ...own, ...params } : own;
}
