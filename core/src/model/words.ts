/** Numbers in words, the same on screen, in reports and in results. */

const UNITS = ['kB', 'MB', 'GB', 'TB'];

/** A size in the unit that reads best; number and unit never part at a line's end. */
export function readableSize(bytes: number): string {
  if (bytes < 1000) return `${bytes}\u00a0B`;
  let value = bytes;
  let unit = -1;
  do {
    value /= 1000;
    unit++;
  } while (value >= 999.5 && unit < UNITS.length - 1);
  return `${value < 10 ? value.toFixed(1) : Math.round(value)}\u00a0${UNITS[unit]}`;
}

/** The words for more than one, by the rules of English: `quizzes`, `grade categories`, `addresses`. */
export function plural(one: string): string {
  if (/[^aeiou]y$/.test(one)) return one.replace(/y$/, 'ies');
  if (/quiz$/.test(one)) return `${one}zes`;
  return /(?:s|x|ch|sh)$/.test(one) ? `${one}es` : `${one}s`;
}

export function count(n: number, one: string, many = plural(one)): string {
  return `${n} ${n === 1 ? one : many}`;
}

/** With its article: `a page`, `an assignment`. */
export function withArticle(one: string): string {
  return `${/^[aeiou]/i.test(one) ? 'an' : 'a'} ${one}`;
}

/** Every month in three letters: British dates write one of them with four. */
export function evenMonths(date: string): string {
  return date.replace(/\bSept\b/, 'Sep');
}

/** The first few of many titles: `“a”, “b” and 3 more`. */
export function someOf(titles: readonly string[], most = 5): string {
  const more = titles.length > most ? ` and ${titles.length - most} more` : '';
  return (
    titles
      .slice(0, most)
      .map((title) => `“${title}”`)
      .join(', ') + more
  );
}
