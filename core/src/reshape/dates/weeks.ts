import type { Stretch, Term } from '../../model/index.ts';
import { mondayOf, numberOf, weekdayOf } from './days.ts';

/** Where a day lies in a term: the teaching week, from 0, how many weeks of a break after it, and the day of the week. */
export interface Place {
  /** Below 0 and beyond the last: weeks before and after the term. */
  week: number;
  /** Weeks of a break since that week; 0 in teaching weeks. */
  plus: number;
  /** 0 is Monday. */
  day: number;
}

/** The weeks of a term in which is taught. Weeks of which every working day is a break are stepped over. */
export class TermWeeks {
  /** Days on which teaching weeks begin. */
  readonly mondays: readonly number[];
  readonly first: number;
  readonly last: number;
  private readonly breaks: readonly { name: string; from: number; to: number }[];

  constructor({ from, to, breaks }: Term) {
    this.first = numberOf(from);
    this.last = numberOf(to);
    this.breaks = breaks.map((b: Stretch) => ({ name: b.name, from: numberOf(b.from), to: numberOf(b.to) }));
    const mondays: number[] = [];
    for (let monday = mondayOf(this.first); monday <= this.last; monday += 7) {
      const days = [0, 1, 2, 3, 4].map((d) => monday + d).filter((d) => d >= this.first && d <= this.last);
      // A week of which only its end lies in the term is one that is taught in, whatever is made of it.
      if (days.length === 0 || days.some((d) => this.breakOn(d) === null)) mondays.push(monday);
    }
    this.mondays = mondays.length > 0 ? mondays : [mondayOf(this.first)];
  }

  /** The break that a day falls into. */
  breakOn(day: number): string | null {
    return this.breaks.find((b) => b.from <= day && day <= b.to)?.name ?? null;
  }

  has(day: number): boolean {
    return this.first <= day && day <= this.last;
  }

  /** Weeks of a break between a teaching week and the next. */
  pauseAfter(week: number): number {
    const [monday, next] = [this.mondays[week], this.mondays[week + 1]];
    return monday === undefined || next === undefined ? 0 : (next - monday) / 7 - 1;
  }

  place(of: number): Place {
    const monday = mondayOf(of);
    const day = weekdayOf(of);
    const [first = 0] = this.mondays;
    if (monday < first) return { week: (monday - first) / 7, plus: 0, day };
    let week = this.mondays.length - 1;
    while (week > 0 && (this.mondays[week] ?? 0) > monday) week--;
    const after = (monday - (this.mondays[week] ?? 0)) / 7;
    return week === this.mondays.length - 1 ? { week: week + after, plus: 0, day } : { week, plus: after, day };
  }

  at({ week, plus, day }: Place): number {
    const { mondays } = this;
    const [first = 0] = mondays;
    const last = mondays.length - 1;
    const monday = week < 0 ? first + week * 7 : (mondays[week] ?? (mondays[last] ?? 0) + (week - last) * 7);
    return monday + plus * 7 + day;
  }
}
