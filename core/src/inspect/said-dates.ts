import * as arabic from 'chrono-node/ar';
import * as german from 'chrono-node/de';
import * as english from 'chrono-node/en';
import * as spanish from 'chrono-node/es';
import * as french from 'chrono-node/fr';
import type { ParsedResult } from 'chrono-node';
import type { Span } from '../markup/index.ts';

/** Dates as people write them in texts: “by Friday 18 September”, “week 3”, “3/10 before noon”. */

/** A day as it is said; what is not said of it is `null`. */
export interface SaidDay {
  is: 'day';
  day: number;
  month: number;
  year: number | null;
  /** 1 is Monday. */
  weekday: number | null;
  /** Written in digits alone, so that day and month could be taken for one another. */
  digits: boolean;
}
/** A week of a term, counted from 1. */
export interface SaidWeek {
  is: 'week';
  week: number;
}
export type Said = SaidDay | SaidWeek;

/** Where a date is said in a text. */
export interface SaidAt extends Span {
  /** As it stands in the source. */
  phrase: string;
  /** The sentence around it, without mark-up. */
  sentence: string;
  /** `null` where it is more than one date, or mark-up stands within: it is shown, and read by a person. */
  said: Said | null;
}

interface Tongue {
  /** Names of months and days are those of these locales. */
  locales: readonly string[];
  parse(text: string): ParsedResult[];
  /** “week 3”, with its number. */
  week: RegExp;
  /** What weeks are called, as a pattern. */
  weekName: string;
}

/** A day of no meaning: what is said without a year is given one by whoever knows the term. */
const REFERENCE = new Date(Date.UTC(2026, 6, 1, 12));
const tongue = (locales: readonly string[], parser: { parse(t: string, r: Date): ParsedResult[] }, week: string) => {
  const pattern = String.raw`(?<!\p{L})(?:${week})\s+(\d{1,2})(?!\d)`;
  return {
    locales,
    parse: (text: string) => parser.parse(text, REFERENCE),
    week: new RegExp(pattern, 'giu'),
    weekName: week,
  };
};
/** The languages that dates are read in; any other is read as English. */
const TONGUES: Readonly<Record<string, Tongue>> = {
  en: tongue(['en-GB', 'en-US'], english.GB, 'weeks?'),
  ar: tongue(['ar'], arabic, '(?:ال)?أسبوع'),
  de: tongue(['de'], german, 'woche'),
  es: tongue(['es'], spanish, 'semana'),
  fr: tongue(['fr'], french, 'semaine'),
};

/** The language that dates of a text are read in: `en` for all that are not known. */
export function tongueOf(language: string | undefined): string {
  const base = (language ?? '').toLowerCase().split(/[-_]/)[0] ?? '';
  return base in TONGUES ? base : 'en';
}

interface Names {
  /** As they may be written, in lower case, with the number of the month, 1 for January. */
  months: ReadonlyMap<string, number>;
  /** 1 is Monday. */
  weekdays: ReadonlyMap<string, number>;
  /** Each form in which names are written: the name of every month, and of every day, in it. */
  forms: readonly { months: readonly string[]; weekdays: readonly string[] }[];
  month: string;
  weekday: string;
  /** The name of a month, or what weeks are called, be it within a word. */
  named: RegExp;
}

const known = new Map<string, Names>();

/** What months and days are called in a language. */
export function namesIn(language: string): Names {
  const before = known.get(language);
  if (before) return before;
  const forms = (TONGUES[language]?.locales ?? []).flatMap((locale) =>
    (['long', 'short'] as const).map((width) => {
      const of = (options: Intl.DateTimeFormatOptions) =>
        new Intl.DateTimeFormat(locale, { ...options, timeZone: 'UTC' });
      const [month, weekday] = [of({ month: width }), of({ weekday: width })];
      return {
        months: Array.from({ length: 12 }, (_, i) => bare(month.format(Date.UTC(2026, i, 15)))),
        // 5 January 2026 is a Monday.
        weekdays: Array.from({ length: 7 }, (_, i) => bare(weekday.format(Date.UTC(2026, 0, 5 + i)))),
      };
    }),
  );
  const numbered = (lists: (readonly string[])[]) =>
    new Map(lists.flatMap((list) => list.map((name, i): [string, number] => [name.toLowerCase(), i + 1])));
  const months = numbered(forms.map((f) => f.months));
  const weekdays = numbered(forms.map((f) => f.weekdays));
  const month = oneOf(months.keys());
  const names = {
    months,
    weekdays,
    forms,
    month,
    weekday: oneOf(weekdays.keys()),
    named: new RegExp(`${month}|${TONGUES[language]?.weekName ?? month}`, 'iu'),
  };
  known.set(language, names);
  return names;
}

const bare = (name: string) => name.replace(/\.$/, '');
const oneOf = (names: Iterable<string>) => [...names].sort((a, b) => b.length - a.length).join('|');

/** Elements that stand within a sentence; any other ends it. */
const WITHIN = /^<\/?(?:a|abbr|b|bdi|bdo|cite|code|em|font|i|mark|q|s|small|span|strong|sub|sup|time|u|var|wbr)\b/i;
const SENTENCE = /[^\n]+?(?:(?<!\d)[.!?…](?=\s+\p{Lu})|(?=\n)|$)/gu;
/**
 * Longer sentences are read in pieces, since the reader of dates takes its time with long ones; they overlap, so that none
 * cuts a date. Letters.
 */
const PIECE = 500;
const OVERLAP = 100;
/** Digits alone are a date where the words around them speak of time; else they may be a score or a fraction. */
const BEFORE =
  /(?:^|[\s(])(?:by|due|on|before|until|till|from|after|to|since|bis|am|ab|vor|vom|avant|le|du|au|el|del|antes|hasta|قبل)\s*$/i;
const AFTER = /^\s*(?:at|before|after|by|noon|midnight|um|à|a las|\d{1,2}[:.h]\d\d|\d{1,2}\s?[ap]m)/i;
const WHILE = /(?<!\p{L})(?:noon|midnight|morning|evening|deadline|hand in|hand-in|due)(?!\p{L})/iu;

/** Dates that are said in a text, in the order in which they stand. */
export function* saidDates(source: string, language: string, markup: boolean): Generator<SaidAt> {
  const own = tongueOf(language);
  const tongues = own === 'en' ? ['en'] : [own, 'en'];
  const hinted = tongues.some((one) => mayName(source, one));
  if (!hinted) return;
  const { text, at } = folded(markup ? withoutMarkup(source) : source.replace(/\r/g, ' '));
  for (const { 0: sentence, index } of text.matchAll(SENTENCE)) {
    let found: SaidAt[] = [];
    for (let from = 0; from < sentence.length; from += PIECE) {
      const piece = sentence.slice(from, from + PIECE + OVERLAP);
      const before = found.at(-1)?.end ?? 0;
      found = [];
      for (const one of tongues) {
        for (const within of inSentence(piece, one)) {
          // What begins farther on is read in the next piece, whole.
          if (within.start >= PIECE) continue;
          const start = at[index + from + within.start] ?? 0;
          const end = (at[index + from + within.end - 1] ?? 0) + 1;
          if (start < before || found.some((f) => f.start < end && start < f.end)) continue;
          const phrase = source.slice(start, end);
          const said = /[<&]/.test(phrase) ? null : within.said;
          found.push({ start, end, phrase, sentence: piece.trim(), said });
        }
      }
      yield* found.sort((a, b) => a.start - b.start);
    }
  }
}

/** Letters before and after a number in which the name of its month stands, if it has one. */
const [BEFORE_IT, AFTER_IT] = [16, 24];

/**
 * Whether a text may say a date at all: some number in it stands near a month or a week, or beside another number. Most texts have few
 * numbers, so that this costs little where the reader of dates would cost much.
 */
function mayName(text: string, language: string): boolean {
  const { named } = namesIn(language);
  const numbers = /\d+/g;
  for (let match = numbers.exec(text); match; match = numbers.exec(text)) {
    const [start, end] = [match.index, numbers.lastIndex];
    const after = text.slice(end, end + AFTER_IT);
    if (/^[./]\s?\d|^-\d\d-\d\d/.test(after)) return true;
    if (named.test(after) || named.test(text.slice(Math.max(0, start - BEFORE_IT), start))) return true;
  }
  return false;
}

/** White space folded, each letter with where it was. */
function folded(text: string): { text: string; at: readonly number[] } {
  const at: number[] = [];
  let kept = '';
  for (const { 0: piece, index } of text.matchAll(/\s+|\S+/g)) {
    if (/\S/.test(piece)) {
      for (let i = 0; i < piece.length; i++) at.push(index + i);
      kept += piece;
    } else {
      at.push(index);
      kept += piece.includes('\n') ? '\n' : ' ';
    }
  }
  return { text: kept, at };
}

/** The text alone, each letter where it was: what is mark-up is white space. */
function withoutMarkup(source: string): string {
  let kept = '';
  let at = 0;
  // What is no break in the page is none in a sentence.
  const text = (to: number) =>
    source
      .slice(at, to)
      .replace(/[\r\n]/g, ' ')
      .replace(SPACE, (name) => ' '.repeat(name.length));
  const lower = source.toLowerCase();
  for (let open = source.indexOf('<'); open !== -1; open = source.indexOf('<', at)) {
    const tag = TAG.exec(source.slice(open, open + LONGEST_NAME))?.[0];
    if (tag === undefined) {
      kept += text(open + 1);
      at = open + 1;
      continue;
    }
    const close = endOf(lower, open);
    kept += text(open) + (WITHIN.test(tag) ? ' ' : '\n') + ' '.repeat(close - open - 1);
    at = close;
  }
  return kept + text(source.length);
}

const SPACE = /&(?:nbsp|#160|#xa0);/gi;
const TAG = /^<(?:\/?[a-z][a-z0-9]*(?![a-z0-9])|!|\?)/i;
const LONGEST_NAME = 24;

/** Where a tag ends, or what has no text in it, as browsers read it: what is never closed goes to the end. */
function endOf(lower: string, open: number): number {
  const comment = lower.startsWith('<!--', open);
  const dumb = /^<(script|style|title)(?![a-z0-9])/.exec(lower.slice(open, open + LONGEST_NAME))?.[1];
  const from = dumb === undefined ? open : lower.indexOf(`</${dumb}`, open);
  const end = from === -1 ? -1 : lower.indexOf(comment ? '-->' : '>', from);
  return end === -1 ? lower.length : end + (comment ? 3 : 1);
}

function* inSentence(sentence: string, language: string): Generator<Span & { said: Said | null }> {
  const tongue = TONGUES[language];
  if (!tongue) return;
  for (const match of sentence.matchAll(tongue.week)) {
    yield { start: match.index, end: match.index + match[0].length, said: { is: 'week', week: Number(match[1]) } };
  }
  if (!mayName(sentence, language)) return;
  for (const { text, index, start, end } of tongue.parse(sentence)) {
    const { day, month, year, weekday } = dayAfterMonth(text, language) ?? partsOf(start);
    if (day === null || month === null) continue;
    const digits = !/\p{L}/u.test(text.replace(/\s.*$/u, ''));
    const numbers = /^\s*\d{1,2}[./]\s?\d{1,2}(?![./\d])/.exec(text) !== null;
    if (numbers && !speaksOfTime(sentence, index, index + text.length, text)) continue;
    // A stretch of days is shown whole.
    const cut = end ? { text: text.trimEnd(), at: 0 } : trimmed(text, language);
    const said: SaidDay = { is: 'day', day, month, year, weekday, digits: digits && /^\d{1,2}[./-]/.test(cut.text) };
    yield { start: index + cut.at, end: index + cut.at + cut.text.length, said: end ? null : said };
  }
}

/** “September 22” is a day of a month, and not one of the year 2022. */
function dayAfterMonth(text: string, language: string): ReturnType<typeof partsOf> | null {
  const { month: names, months } = namesIn(language);
  const match = new RegExp(String.raw`^(${names})\.?\s+(\d{1,2})$`, 'iu').exec(text);
  const [, name = '', day] = match ?? [];
  const month = months.get(name.toLowerCase());
  if (day === undefined || month === undefined || Number(day) < 1 || Number(day) > 31) return null;
  return { day: Number(day), month, year: null, weekday: null };
}

function speaksOfTime(sentence: string, start: number, end: number, text: string): boolean {
  const rest = text.replace(/^\s*\d{1,2}[./]\s?\d{1,2}/, '') + sentence.slice(end);
  return BEFORE.test(sentence.slice(0, start)) || AFTER.test(rest) || WHILE.test(sentence);
}

/** Of what was read as a date and a time, the words of the date alone. */
function trimmed(text: string, language: string): { text: string; at: number } {
  const { month, weekday } = namesIn(language);
  const day = String.raw`\d{1,2}(?:st|nd|rd|th|\.|º)?`;
  const within = new RegExp(
    String.raw`(?:(?<!\p{L})(?:${weekday})\.?,?\s+(?:the\s+|den\s+|le\s+)?)?(?:` +
      String.raw`\d{4}-\d\d-\d\d|\d{1,2}[./-]\s?\d{1,2}(?:[./-]\s?\d{2,4})?|` +
      String.raw`${day}\s*(?:of\s+|de\s+)?(?:${month})(?!\p{L})\.?(?:,?\s+(?:de\s+)?\d{4}(?!\d))?|` +
      String.raw`(?:${month})(?!\p{L})\.?\s+${day}(?!\d)(?:,?\s+\d{4}(?!\d))?)`,
    'iu',
  ).exec(text);
  return within ? { text: within[0], at: within.index } : { text: text.trimEnd(), at: 0 };
}

function partsOf(start: ParsedResult['start']): Record<'day' | 'month' | 'year' | 'weekday', number | null> {
  const part = (name: 'day' | 'month' | 'year' | 'weekday') => (start.isCertain(name) ? start.get(name) : null);
  const weekday = part('weekday');
  return { day: part('day'), month: part('month'), year: part('year'), weekday: weekday === 0 ? 7 : weekday };
}

/** What a phrase says, where it is one date and no more. */
export function saidBy(phrase: string, language: string): Said | null {
  // As if it stood where only a date can.
  const lead = 'due ';
  const [only, ...more] = [...saidDates(lead + phrase, language, false)];
  return only && more.length === 0 && only.start === lead.length && only.end === lead.length + phrase.length
    ? only.said
    : null;
}
