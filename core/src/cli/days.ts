import * as z from 'zod';
import type { Term } from '../model/index.ts';
import { usage } from './call.ts';

/** One day, or the first and the last with `..` between. @throws Refusal `usage` */
export function daysOf(words: string): string[] {
  const days = words.split('..');
  if (days.length > 2 || days.some((day) => !z.iso.date().safeParse(day).success))
    throw usage(`A term is its first and last day, 2026-09-14..2026-12-18; ${words} is not.`);
  return days;
}

/** A term, with a name before it or called by its days: `Autumn 2026=2026-09-14..2026-12-18`. @throws Refusal `usage` */
export function termOf(words: string): Term {
  const [, name, days = ''] = /^(?:(.*)=)?([^=]*)$/.exec(words) ?? [];
  const [from = '', to] = daysOf(days);
  if (to === undefined) throw usage(`A term is its first and last day, 2026-09-14..2026-12-18; ${words} is not.`);
  return { name: name ?? days, from, to, breaks: [] };
}
