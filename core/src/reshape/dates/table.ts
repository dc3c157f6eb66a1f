import { parse } from 'csv-parse/browser/esm/sync';
import { stringify } from 'csv-stringify/browser/esm/sync';
import { KIND_LABELS, problem, type Moment, type Problem } from '../../model/index.ts';
import { hoursOf, likeAnother, onClock, type Zone } from './clock.ts';
import { dayOf, numberOfParts } from './days.ts';
import { DATE_NAME_LABELS } from './known.ts';
import type { RedatePlan } from './plan.ts';
import type { RedateRow } from './redate.ts';

/* The dates of a course as a table that a person edits elsewhere and brings back. */

const COLUMNS = ['Key', 'Item', 'Kind', 'Date', 'As it was', 'As it will be'] as const;

/** A date as it is written and read in the table: by the clock of the house, `2027-01-22 17:00`; words as they are. */
export function cellOf(moment: Moment | null, zone: Zone): string {
  if (moment === null) return '';
  const at = onClock(moment, zone);
  if (at === null) return moment.is === 'unread' ? moment.words : '';
  return at.time === null ? dayOf(at.day) : `${dayOf(at.day)} ${at.time.replace(/^(\d\d:\d\d):00$/, '$1')}`;
}

/** CSV (RFC 4180, with BOM so that spreadsheets take it for UTF-8). Formulas are defused. */
export function datesAsCsv(rows: readonly RedateRow[], zone: Zone): string {
  const lines = rows.map((row) => [
    row.key,
    row.title,
    KIND_LABELS[row.kind],
    DATE_NAME_LABELS[row.name],
    row.words ? row.words.phrase : cellOf(row.was, zone),
    row.words
      ? row.state === 'moved'
        ? (row.words.becomes ?? row.words.phrase)
        : row.words.phrase
      : cellOf(row.will, zone),
  ]);
  return stringify([[...COLUMNS], ...lines], { bom: true, record_delimiter: 'windows', escape_formulas: true });
}

/** What a table says otherwise than the rows; nothing is to be taken of one in which something is wrong. */
export interface TableRead {
  byHand: RedatePlan['byHand'];
  texts: RedatePlan['texts'];
  problems: Problem[];
}

/** Reads a table that was brought back. */
export function datesFromCsv(csv: string, rows: readonly RedateRow[], zone: Zone, file = 'dates.csv'): TableRead {
  const read: TableRead = { byHand: {}, texts: {}, problems: [] };
  const wrong = (words: string, line: number, act?: string) =>
    read.problems.push(problem('dates-table', words, { file, line }, act));
  let table: { record: string[]; info: { lines: number } }[];
  try {
    table = parse(csv, {
      bom: true,
      relax_column_count: true,
      info: true,
      delimiter: [',', ';', '\t'],
    }) as unknown as typeof table;
  } catch (error) {
    const line = /line (\d+)/.exec(String(error))?.[1];
    wrong(
      `This is no table that can be read: ${error instanceof Error ? error.message : String(error)}.`,
      Number(line ?? 1),
    );
    return read;
  }
  const [head, ...lines] = table;
  const key = head?.record.findIndex((name) => name.trim() === 'Key') ?? -1;
  const will = head?.record.findIndex((name) => name.trim() === 'As it will be') ?? -1;
  if (key < 0 || will < 0) {
    wrong('The table has no columns “Key” and “As it will be”.', 1, 'Take the dates as CSV, and change that table.');
    return read;
  }
  const known = new Map(rows.map((row) => [row.key, row]));
  const seen = new Map<string, number>();
  for (const { record, info } of lines) {
    const line = info.lines;
    if (record.every((cell) => cell.trim() === '')) continue;
    const name = record[key] ?? '';
    const row = known.get(name);
    const before = seen.get(name);
    if (!row)
      wrong(`There is no date “${name}” in this course.`, line, 'Take the line out, or take the dates as CSV anew.');
    else if (before !== undefined) wrong(`“${row.title}” stands in line ${before} too.`, line, 'Take one of them out.');
    else takeCell(row, (record[will] ?? '').trim(), zone, read, (words) => wrong(words, line));
    seen.set(name, line);
  }
  return read;
}

function takeCell(row: RedateRow, cell: string, zone: Zone, read: TableRead, wrong: (words: string) => void): void {
  if (row.words) {
    const now = row.state === 'moved' ? row.words.becomes : row.words.phrase;
    if (cell === '') wrong(`“${row.words.phrase}” stands in a text, and can’t be taken away.`);
    else if (cell !== now) read.texts[row.key] = { is: 'words', words: cell.slice(0, 200) };
    return;
  }
  if (cell === cellOf(row.will, zone)) return;
  if (cell === '') {
    read.byHand[row.key] = null;
    return;
  }
  const made = momentFromCell(cell, row.was, zone);
  if (typeof made === 'string') wrong(`“${row.title}”: ${made}`);
  else read.byHand[row.key] = made;
}

const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];
const TIME = String.raw`(?:[T ]\s*(\d{1,2})[:.](\d\d)(?::(\d\d))?)?`;
const ISO = new RegExp(String.raw`^(\d{4})-(\d{1,2})-(\d{1,2})${TIME}$`);
const NAMED = new RegExp(String.raw`^(?:[a-z]{2,9},?\s+)?(\d{1,2})\.?\s+([a-z]{3,9})\.?\s+(\d{4})${TIME}$`, 'i');
const DIGITS = new RegExp(String.raw`^(\d{1,2})[./](\d{1,2})[./](\d{4})${TIME}$`);

/** A date as a person wrote it in a cell; in words why it can't be taken. A day alone keeps the time that was. */
export function momentFromCell(cell: string, was: Moment | null, zone: Zone): Moment | string {
  const parts = partsOfCell(cell.trim());
  if (typeof parts === 'string') return parts;
  const { day, month, year, time } = parts;
  const number = numberOfParts(day, month, year);
  if (number === null) return `there is no day ${cell}.`;
  const model = was && was.is !== 'unread' ? onClock(was, zone) : null;
  const at = time ?? model?.time ?? null;
  if (at !== null && was?.is === 'instant') {
    const hours = hoursOf(dayOf(number), at, zone);
    if (hours === 'none') return `on ${dayOf(number)} the clock is put forward over ${at.slice(0, 5)}.`;
    if (hours === 'two') return `on ${dayOf(number)} the clock shows ${at.slice(0, 5)} twice.`;
  }
  return likeAnother(was, dayOf(number), at, zone);
}

interface CellParts {
  day: number;
  month: number;
  year: number;
  time: string | null;
}

function partsOfCell(cell: string): CellParts | string {
  const iso = ISO.exec(cell);
  if (iso) return timed(Number(iso[3]), Number(iso[2]), Number(iso[1]), iso.slice(4));
  const named = NAMED.exec(cell);
  if (named) {
    const month = MONTHS.indexOf((named[2] ?? '').slice(0, 3).toLowerCase()) + 1;
    return month === 0
      ? `there is no month ${named[2] ?? ''}.`
      : timed(Number(named[1]), month, Number(named[3]), named.slice(4));
  }
  const digits = DIGITS.exec(cell);
  if (digits) {
    const [first, second] = [Number(digits[1]), Number(digits[2])];
    if (first <= 12 && second <= 12 && first !== second)
      return `${cell} could be read with the day or the month first; write 2027-01-22 or 22 Jan 2027.`;
    const [day, month] = second > 12 ? [second, first] : [first, second];
    return timed(day, month, Number(digits[3]), digits.slice(4));
  }
  return `“${cell}” is no date; write 2027-01-22 17:00 or 22 Jan 2027.`;
}

function timed(day: number, month: number, year: number, clock: readonly (string | undefined)[]): CellParts | string {
  const [hour, minute, second] = clock;
  if (hour === undefined || minute === undefined) return { day, month, year, time: null };
  if (Number(hour) > 23 || Number(minute) > 59) return `there is no time ${hour}:${minute}.`;
  return { day, month, year, time: `${hour.padStart(2, '0')}:${minute}:${second ?? '00'}` };
}
