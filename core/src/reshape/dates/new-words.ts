import { namesIn, saidBy, tongueOf, type Said, type SaidDay } from '../../inspect/index.ts';
import { dayOf, partsOfDay, weekdayOf } from './days.ts';

/**
 * A date written anew in the manner in which it was written: the same words in the same order, in names as long as they
 * were, with a year where there was one. `null` where what comes of it would not be read as that day again.
 */
export function newWords(phrase: string, language: string, said: Said, to: number | { week: number }): string | null {
  const tongue = tongueOf(language);
  if (typeof to !== 'number') {
    const written = phrase.replace(/\d+/, String(to.week));
    return said.is === 'week' && isSame(saidBy(written, tongue), { is: 'week', week: to.week }) ? written : null;
  }
  if (said.is === 'week') return null;
  for (const one of tongue === 'en' ? ['en'] : [tongue, 'en']) {
    const written = inTongue(phrase, one, to);
    if (written !== null && isSame(saidBy(written, tongue), expected(said, to))) return written;
  }
  return null;
}

function expected(said: SaidDay, to: number): SaidDay {
  const { day, month, year } = partsOfDay(to);
  return {
    ...said,
    day,
    month,
    year: said.year === null ? null : year,
    weekday: said.weekday === null ? null : weekdayOf(to) + 1,
  };
}

const isSame = (one: Said | null, other: Said) => JSON.stringify(one) === JSON.stringify(other);

function inTongue(phrase: string, language: string, to: number): string | null {
  const { day, month, year } = partsOfDay(to);
  const iso = /^\d{4}-\d\d-\d\d$/.test(phrase);
  if (iso) return dayOf(to);
  const names = namesIn(language);
  const nameAt = (name: string, list: 'months' | 'weekdays', at: number): string | null => {
    const form = names.forms.find((f) => f[list].some((one) => one.toLowerCase() === name.toLowerCase()));
    const found = form?.[list][at];
    return found === undefined ? null : inCaseOf(name, found);
  };
  const weekday = new RegExp(String.raw`(?<!\p{L})(?:${names.weekday})(?!\p{L})`, 'iu');
  const withDay = phrase.replace(weekday, (name) => nameAt(name, 'weekdays', weekdayOf(to)) ?? name);
  const digits = /(?<!\d)(\d{1,2})([./-]\s?)(\d{1,2})(?:([./-]\s?)(\d{4}|\d{2}))?(?!\d)/;
  const match = digits.exec(withDay);
  if (match) {
    const [, first = '', between = '', second = '', after = '', last] = match;
    const padded = first.startsWith('0') || second.startsWith('0');
    const two = (n: number) => (padded ? String(n).padStart(2, '0') : String(n));
    const written = `${two(day)}${between}${two(month)}`;
    const yearWritten = last === undefined ? '' : after + String(year).slice(last.length === 2 ? 2 : 0);
    return withDay.replace(digits, () => written + yearWritten);
  }
  const named = new RegExp(String.raw`(?<!\p{L})(?:${names.month})(?!\p{L})`, 'iu').exec(withDay);
  if (!named) return null;
  const newName = nameAt(named[0], 'months', month - 1);
  if (newName === null) return null;
  const rest = (part: string) =>
    part
      .replace(/(?<!\d)\d{4}(?!\d)/, String(year))
      .replace(/(?<!\d)(\d{1,2})(st|nd|rd|th)?(?!\d)/i, (_, was: string, ordinal?: string) => {
        const written = was.startsWith('0') ? String(day).padStart(2, '0') : String(day);
        return written + (ordinal === undefined ? '' : inCaseOf(ordinal, ordinalOf(day)));
      });
  const at = named.index;
  return rest(withDay.slice(0, at)) + newName + rest(withDay.slice(at + named[0].length));
}

function ordinalOf(day: number): string {
  if (day > 10 && day < 14) return 'th';
  return ['th', 'st', 'nd', 'rd'][day % 10] ?? 'th';
}

/** A word in capitals, with a capital, or without, as another is. */
function inCaseOf(model: string, word: string): string {
  if (model.length > 1 && model === model.toUpperCase() && model !== model.toLowerCase()) return word.toUpperCase();
  return model === model.toLowerCase() ? word.toLowerCase() : word;
}
