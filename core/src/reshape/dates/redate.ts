import { saidBy, tongueOf, type Said } from '../../inspect/index.ts';
import { momentWords, writtenMoment, type ClosedDay, type Moment, type SubjectKind } from '../../model/index.ts';
import { onClock, onDay, orderOf, type Zone } from './clock.ts';
import { dayOf, numberOf, numberOfParts, weekdayOf } from './days.ts';
import type { DateName, KnownDate, WrittenDate } from './known.ts';
import { newWords } from './new-words.ts';
import type { DateRule, RedatePlan } from './plan.ts';
import { Rules, movedDay, movedWeek, type ReadyRule } from './rules.ts';
import { TermWeeks } from './weeks.ts';

/** What is said of a date. `look` has to be looked at by a person; `say` is good to know. */
export interface DateNote {
  code: DateNoteCode;
  weight: 'look' | 'say';
  words: string;
}
export type DateNoteCode =
  | 'unread'
  | 'far'
  | 'in-break'
  | 'was-in-break'
  | 'closed'
  | 'weekend'
  | 'outside'
  | 'past'
  | 'order'
  | 'before-needed'
  | 'piles-up'
  | 'stepped'
  | 'no-such-hour'
  | 'in-words';

/** A date written in a text: the words as they stand, and as they would. */
export interface DateWords {
  phrase: string;
  sentence: string;
  /** `null` where no rule can be sure of it. */
  becomes: string | null;
  choice: 'taken' | 'left' | 'words' | 'open';
}

/** One date, before and after. */
export interface RedateRow {
  key: string;
  name: DateName;
  kind: SubjectKind;
  title: string;
  item: string | null;
  node: string | null;
  /** `null` of words that name a week, or that no rule can be sure of. */
  was: Moment | null;
  /** `null` where it is taken away, and of such words. */
  will: Moment | null;
  /** Days by the clock of the house, since 1970. */
  wasDay: number | null;
  willDay: number | null;
  state: 'moved' | 'holds' | 'away';
  byHand: boolean;
  notes: DateNote[];
  words: DateWords | null;
}

export interface Redating {
  rows: RedateRow[];
  sums: RedateSums;
}

export interface RedateSums {
  /** Dates that are set; those in texts are counted apart. */
  dates: number;
  moved: number;
  holds: number;
  away: number;
  /** Of those moved. */
  sameWeekday: number;
  stepped: number;
  /** Dates of which a person has to look at something. */
  look: number;
  /** `same` read the same afterwards, and need nothing. */
  texts: { all: number; sure: number; put: number; same: number };
}

export interface RedateContext {
  zone: Zone;
  closed: readonly ClosedDay[];
  /** The day on which it is looked at. */
  today: string;
  written: readonly WrittenDate[];
}

/** Every date as the plan makes it, and what is to be said of it. Nothing is changed by it. */
export function redated(dates: readonly KnownDate[], plan: RedatePlan, context: RedateContext): Redating {
  const rules = new Rules(plan);
  const judge = new Judge(plan, context);
  const rows = dates.map((date) => rowOf(date, plan, rules.for(date), judge, context.zone));
  judge.together(dates, rows);
  const all = [...rows, ...context.written.map((one) => wordsRow(one, plan, rules, context))];
  return { rows: all, sums: sumsOf(all) };
}

function rowOf(date: KnownDate, plan: RedatePlan, rule: ReadyRule, judge: Judge, zone: Zone): RedateRow {
  const { key, name, kind, title, item, node, at } = date;
  const notes: DateNote[] = [];
  const was = onClock(at, zone);
  const row: RedateRow = {
    key,
    name,
    kind,
    title,
    item,
    node,
    was: at,
    will: at,
    wasDay: was?.day ?? null,
    willDay: was?.day ?? null,
    state: 'holds',
    byHand: Object.hasOwn(plan.byHand, key),
    notes,
    words: null,
  };
  if (row.byHand) {
    row.will = plan.byHand[key] ?? null;
    row.willDay = row.will && (onClock(row.will, zone)?.day ?? null);
  } else if (rule.rule.is === 'away') {
    row.will = null;
    row.willDay = null;
  } else if (was === null) {
    if (rule.rule.is !== 'keep') notes.push(look('unread', `“${momentWords(at)}” is not read as a date`));
  } else {
    const to = movedDay(rule, was.day);
    if (to === 'far') notes.push(look('far', `Far from ${termOf(rule.rule)}`));
    else if (to !== was.day) {
      const { moment, skipped } = onDay(at, to, zone);
      row.will = moment;
      row.willDay = to;
      if (skipped) notes.push(look('no-such-hour', 'No such hour on that day'));
    }
  }
  row.state = row.will === null ? 'away' : sameMoment(row.will, at) ? 'holds' : 'moved';
  judge.one(row, rule);
  return row;
}

const look = (code: DateNoteCode, words: string): DateNote => ({ code, weight: 'look', words });
const say = (code: DateNoteCode, words: string): DateNote => ({ code, weight: 'say', words });

function sameMoment(one: Moment, other: Moment): boolean {
  if (one === other) return true;
  const zones = one.is !== 'instant' || other.is !== 'instant' || one.zone === other.zone;
  return one.is === other.is && zones && writtenMoment(one) === writtenMoment(other);
}

function termOf(rule: DateRule): string {
  return rule.is === 'term' || rule.is === 'stretch' ? rule.from.name : 'the course';
}

const asRead = new Map<number, string>();
/** A day as lists of dates are read: `Fri 22 Jan 2027`. */
function dayWords(day: number): string {
  let words = asRead.get(day);
  if (words === undefined) asRead.set(day, (words = momentWords({ is: 'day', on: dayOf(day) })));
  return words;
}

/** What is to be said of dates, one by one and together. */
class Judge {
  private readonly closed: ReadonlyMap<number, string>;
  private readonly today: number;
  private readonly zone: Zone;
  private readonly terms: { from: TermWeeks; to: TermWeeks; name: string } | null;

  constructor({ rule }: RedatePlan, { closed, today, zone }: RedateContext) {
    this.closed = new Map(closed.map((c) => [numberOf(c.on), c.name]));
    this.today = numberOf(today);
    this.zone = zone;
    this.terms =
      rule.is === 'term' || rule.is === 'stretch'
        ? { from: new TermWeeks(rule.from), to: new TermWeeks(rule.to), name: rule.to.name }
        : null;
  }

  one(row: RedateRow, { rule, from, to }: ReadyRule): void {
    const { willDay: day, wasDay: was, notes, name } = row;
    if (day === null || was === null || row.state === 'away') return;
    const closed = this.closed.get(day);
    if (closed !== undefined) notes.push(look('closed', `${closed}: closed`));
    if (weekdayOf(day) > 4 && weekdayOf(was) <= 4) notes.push(look('weekend', 'Falls on a weekend'));
    if (this.terms && row.state === 'moved') {
      const { to: term, from: before, name: called } = this.terms;
      const pause = term.breakOn(day);
      if (pause !== null) notes.push(look('in-break', `Falls into ${pause}`));
      if (!term.has(day)) {
        const words = `Outside ${called}${before.has(was) ? '' : ', as before'}`;
        notes.push({ code: 'outside', weight: before.has(was) ? 'look' : 'say', words });
      }
    }
    if (!row.byHand && row.state === 'moved' && from && to) {
      const pause = from.breakOn(was);
      if (pause !== null) notes.push(say('was-in-break', `Was in ${pause}`));
      const straight = was + (to.mondays[0] ?? 0) - (from.mondays[0] ?? 0);
      if (rule.is === 'term' && day !== straight && from.has(was)) notes.push(say('stepped', 'Over a break'));
    }
    if (day < this.today && name !== 'posted' && name !== 'opens' && name !== 'from') {
      notes.push(look('past', 'Past'));
    }
  }

  /** What is wrong with dates only beside one another. */
  together(dates: readonly KnownDate[], rows: readonly RedateRow[]): void {
    const bySubject = new Map<string, { opens?: RedateRow; due?: RedateRow; closes?: RedateRow }>();
    const opensOf = new Map<string, RedateRow>();
    rows.forEach((row, i) => {
      if (row.name !== 'opens' && row.name !== 'due' && row.name !== 'closes') return;
      if (row.will === null) return;
      const subject = row.key.slice(0, row.key.lastIndexOf(' '));
      const own = bySubject.get(subject) ?? {};
      own[row.name] = row;
      bySubject.set(subject, own);
      const item = dates[i]?.item ?? null;
      if (row.name === 'opens' && item !== null) opensOf.set(item, row);
    });
    for (const { opens, due, closes } of bySubject.values()) {
      this.inOrder(opens, closes, 'Closes before it opens');
      this.inOrder(opens, due, 'Due before it opens');
      this.inOrder(due, closes, 'Closes before it is due');
    }
    rows.forEach((row, i) => {
      if (row.name !== 'due' || row.will === null) return;
      for (const needed of dates[i]?.needs ?? []) {
        const opens = opensOf.get(needed);
        if (opens && this.isBefore(row, opens))
          row.notes.push(look('before-needed', `Due before “${opens.title}” opens, which is needed first`));
      }
    });
    this.pilesUp(rows);
  }

  private inOrder(first: RedateRow | undefined, second: RedateRow | undefined, words: string): void {
    if (first && second && this.isBefore(second, first)) second.notes.push(look('order', words));
  }

  private isBefore(one: RedateRow, other: RedateRow): boolean {
    const at = one.will && orderOf(one.will, this.zone, one.name !== 'opens');
    const than = other.will && orderOf(other.will, this.zone, other.name !== 'opens');
    return at !== null && than !== null && at < than;
  }

  private pilesUp(rows: readonly RedateRow[]): void {
    const due = rows.filter((row) => row.name === 'due' && row.will !== null);
    const on = (of: 'wasDay' | 'willDay') => {
      const days = new Map<number, number>();
      for (const row of due) if (row[of] !== null) days.set(row[of], (days.get(row[of]) ?? 0) + 1);
      return days;
    };
    const [before, after] = [on('wasDay'), on('willDay')];
    for (const row of due) {
      const many = after.get(row.willDay ?? NaN) ?? 0;
      if (many < 3) continue;
      const asBefore = (before.get(row.wasDay ?? NaN) ?? 0) >= many;
      const words = `${many} due on ${dayWords(row.willDay ?? 0)}${asBefore ? ', as before' : ''}`;
      row.notes.push({ code: 'piles-up', weight: asBefore ? 'say' : 'look', words });
    }
  }
}

/** A date in a text, as far as a rule can be sure of it. */
function wordsRow(one: WrittenDate, plan: RedatePlan, rules: Rules, context: RedateContext): RedateRow {
  const { finding, kind, folders } = one;
  const { key, item, groupKey: phrase, evidence: sentence, title } = finding;
  const rule = rules.for({ item, folders, name: 'written', kind });
  const language = tongueOf(finding.suggestions[0]?.params['language']);
  const said = finding.suggestions.length === 0 ? null : saidBy(phrase, language);
  const told = becomes(said, phrase, language, rule, context);
  const chosen = plan.texts[key];
  const choice =
    chosen?.is ?? (plan.allTexts && told.words !== null && told.words !== phrase ? 'taken' : ('open' as const));
  const put = chosen?.is === 'words' ? chosen.words : choice === 'taken' ? told.words : null;
  const notes = told.why === null ? [] : [look('in-words', told.why)];
  if (choice !== 'open') notes.length = 0;
  else if (told.words !== null && told.words !== phrase) notes.push(look('in-words', 'Put it in, or leave it'));
  return {
    key,
    name: 'written',
    kind,
    title,
    item,
    node: null,
    was: told.was === null ? null : { is: 'day', on: dayOf(told.was) },
    will: told.will === null ? null : { is: 'day', on: dayOf(told.will) },
    wasDay: told.was,
    willDay: told.will,
    state: put !== null && put !== phrase ? 'moved' : 'holds',
    byHand: chosen?.is === 'words',
    notes,
    words: { phrase, sentence, becomes: chosen?.is === 'words' ? chosen.words : told.words, choice },
  };
}

interface Told {
  was: number | null;
  will: number | null;
  words: string | null;
  why: string | null;
}

function becomes(said: Said | null, phrase: string, language: string, rule: ReadyRule, context: RedateContext): Told {
  const unsure = (why: string, was: number | null = null): Told => ({ was, will: null, words: null, why });
  if (rule.rule.is === 'keep') return { was: null, will: null, words: phrase, why: null };
  if (rule.rule.is === 'away') return unsure('Can’t be taken out of a text: read it');
  if (said === null) return unsure('More than one date, or mark-up within: read it');
  if (said.is === 'week') {
    const week = movedWeek(rule, said.week);
    if (week === null) return unsure('No rule says which week that is then');
    return { was: null, will: null, words: newWords(phrase, language, said, { week }), why: null };
  }
  const day = whichDay(said, rule.rule, context);
  if (typeof day === 'string') return unsure(day);
  const to = movedDay(rule, day);
  if (to === 'far') return unsure(`Far from ${termOf(rule.rule)}`, day);
  const words = newWords(phrase, language, said, to);
  return words === null
    ? unsure('Not to be written in the same manner: write it', day)
    : { was: day, will: to, words, why: null };
}

/** Days before and after a term that a date without a year may be of it. */
const ABOUT = 21;

/** Which day is meant; in words why that can't be said. */
function whichDay(said: Extract<Said, { is: 'day' }>, rule: DateRule, { today }: RedateContext): number | string {
  const { day, month, year, weekday, digits } = said;
  const span =
    rule.is === 'term' || rule.is === 'stretch'
      ? { from: numberOf(rule.from.from) - ABOUT, to: numberOf(rule.from.to) + ABOUT }
      : {
          from: numberOf(rule.is === 'days' ? rule.from : today) - ABOUT,
          to: numberOf(rule.is === 'days' ? rule.from : today) + 344,
        };
  const first = new Date(span.from * 86_400_000).getUTCFullYear();
  const within = (d: number, m: number): number | null => {
    for (const y of year === null ? [first, first + 1] : [year]) {
      const found = numberOfParts(d, m, y);
      if (found !== null && (year !== null || (span.from <= found && found <= span.to))) return found;
    }
    return null;
  };
  const found = within(day, month);
  const other = digits && day <= 12 && day !== month ? within(month, day) : null;
  const inSpan = (d: number | null) => d !== null && span.from <= d && d <= span.to;
  if (inSpan(found) && inSpan(other)) return 'Day and month could be either: read it';
  if (found === null) return 'No day of that term: read it';
  if (!inSpan(found) && inSpan(other)) return 'A day of that term with the month first only: read it';
  if (weekday !== null && weekdayOf(found) + 1 !== weekday) return 'The weekday is not that of the date: read it';
  return found;
}

function sumsOf(rows: readonly RedateRow[]): RedateSums {
  const sums: RedateSums = {
    dates: 0,
    moved: 0,
    holds: 0,
    away: 0,
    sameWeekday: 0,
    stepped: 0,
    look: 0,
    texts: { all: 0, sure: 0, put: 0, same: 0 },
  };
  for (const row of rows) {
    if (row.notes.some((n) => n.weight === 'look')) sums.look++;
    if (row.words) {
      sums.texts.all++;
      if (row.words.becomes !== null) sums.texts.sure++;
      if (row.state === 'moved') sums.texts.put++;
      else if (row.words.becomes === row.words.phrase) sums.texts.same++;
      continue;
    }
    sums.dates++;
    sums[row.state]++;
    if (row.state !== 'moved' || row.wasDay === null || row.willDay === null) continue;
    if (weekdayOf(row.wasDay) === weekdayOf(row.willDay)) sums.sameWeekday++;
    if (row.notes.some((n) => n.code === 'stepped')) sums.stepped++;
  }
  return sums;
}
