import type { Rule } from '@treenail/core';
import type {
  BeforeAfterAnswer,
  ChosenToGo,
  NewDecision,
  RuleSummary,
  RuleUse,
  TidyAnswer,
} from '@treenail/server/contract';
import type { Observable } from 'rxjs';

/** Where findings come from and decisions go to: a move on the server, or what lies on the Bench. */
export interface TidySource {
  decide(decision: NewDecision): Observable<TidyAnswer>;
  undo(decision: string): Observable<TidyAnswer>;
  choose(goes: ChosenToGo): Observable<TidyAnswer>;
  beforeAfter(asked: { key: string; mend: string; params: Record<string, string> }): Observable<BeforeAfterAnswer>;
  /** Takes a person's own file. Answers the address that mends know it by. */
  give(file: File): Observable<string>;
  /** Shows an item that went and changed since, as it was and as it is. */
  showChange?(item: string): void;
  /** Rules are kept by the server; nothing of them on the Bench. */
  rules: RuleSource | null;
}

export interface RuleSource {
  save(rule: Rule): Observable<RuleSummary[]>;
  remove(id: number): Observable<RuleSummary[]>;
  uses(id: number): Observable<RuleUse[]>;
  apply(id: number, moveIds: readonly number[]): Observable<unknown>;
}
