import { numberOf } from './days.ts';
import type { KnownDate } from './known.ts';
import type { DateRule, RedatePlan, RuleScope } from './plan.ts';
import { TermWeeks } from './weeks.ts';

/** What is computed of a rule once, for all dates. */
export interface ReadyRule {
  readonly rule: DateRule;
  readonly from: TermWeeks | null;
  readonly to: TermWeeks | null;
}

/** Days before a term and after it in which its dates may lie: what is farther off belongs to something else. */
const NEAR = 60;

export function ready(rule: DateRule): ReadyRule {
  const terms = rule.is === 'term' || rule.is === 'stretch';
  return { rule, from: terms ? new TermWeeks(rule.from) : null, to: terms ? new TermWeeks(rule.to) : null };
}

/** The day that a day becomes; `far` where it is so far from the term that the rule says nothing of it. */
export function movedDay({ rule, from, to }: ReadyRule, day: number): number | 'far' {
  if (rule.is === 'days') return day + numberOf(rule.to) - numberOf(rule.from);
  if (!from || !to) return day;
  if (day < from.first - NEAR || day > from.last + NEAR) return 'far';
  const place = from.place(day);
  const weeks = from.mondays.length;
  if (rule.is === 'term' || place.week < 0) return to.at(place);
  const last = to.mondays.length - 1;
  if (place.week >= weeks) return to.at({ ...place, week: last + place.week - weeks + 1 });
  const stretched = (n: number) => (weeks === 1 ? 0 : Math.round((n * last) / (weeks - 1)));
  const week = stretched(place.week);
  // What lay in a break lies in one where there is one, and never after what came after it.
  const plus = stretched(place.week + 1) > week ? Math.min(place.plus, to.pauseAfter(week)) : 0;
  return to.at({ week, plus, day: place.day });
}

/** The teaching week that a week becomes, counted from 1; `null` where the rule says nothing of weeks. */
export function movedWeek({ rule, from, to }: ReadyRule, week: number): number | null {
  if (!from || !to || week < 1 || week > from.mondays.length) return null;
  if (rule.is === 'term') return week;
  const weeks = from.mondays.length;
  return weeks === 1 ? 1 : Math.round(((week - 1) * (to.mondays.length - 1)) / (weeks - 1)) + 1;
}

/** Finds for each date the rule that counts: of its item, its innermost folder, its name, its kind, or that for all. */
export class Rules {
  private readonly all: ReadyRule;
  private readonly scoped = new Map<string, ReadyRule>();

  constructor(plan: RedatePlan) {
    this.all = ready(plan.rule);
    for (const { scope, rule } of plan.others) this.scoped.set(keyOf(scope), ready(rule));
  }

  for({ item, folders, name, kind }: Pick<KnownDate, 'item' | 'folders' | 'name' | 'kind'>): ReadyRule {
    if (this.scoped.size === 0) return this.all;
    const keys = [
      ...(item === null ? [] : [keyOf({ is: 'item', item })]),
      ...folders.toReversed().map((folder) => keyOf({ is: 'folder', folder })),
      keyOf({ is: 'name', name }),
      keyOf({ is: 'kind', kind }),
    ];
    for (const key of keys) {
      const found = this.scoped.get(key);
      if (found) return found;
    }
    return this.all;
  }
}

const keyOf = (scope: RuleScope): string => Object.values(scope).join(' ');
