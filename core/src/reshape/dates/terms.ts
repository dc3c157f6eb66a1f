import type { Term } from '../../model/index.ts';
import { onClock, type Zone } from './clock.ts';
import { dayOf } from './days.ts';
import type { KnownDate } from './known.ts';

/** Names of the term that a course is of, by where most of its dates lie, else by its name, and of the one after it. */
export function termsOfDates(
  dates: readonly KnownDate[],
  { terms, zone }: { terms: readonly Term[]; zone: Zone },
  name?: string,
): [from: string | null, to: string | null] {
  const days = dates.flatMap(({ at }) => {
    const on = onClock(at, zone);
    return on === null ? [] : [dayOf(on.day)];
  });
  const within = ({ from, to }: Term) => days.filter((day) => from <= day && day <= to).length;
  const most = [...terms].sort((a, b) => within(b) - within(a))[0];
  const from = most && within(most) > 0 ? most : terms.find((t) => t.name === name);
  const to = from && terms.find((t) => t.from > from.to);
  return [from?.name ?? null, to?.name ?? null];
}
