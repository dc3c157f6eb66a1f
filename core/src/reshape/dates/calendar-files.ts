import ICAL from 'ical.js';
import type { Package } from '../../container/index.ts';
import { decodeText } from '../../markup/index.ts';
import { Refusal, problem, remark, type ClosedDay, type Course, type Moment, type Note } from '../../model/index.ts';
import { dayOf, numberOf } from './days.ts';
import type { KnownDate } from './known.ts';
import type { RedateRow } from './redate.ts';

/* Calendars as iCalendar (RFC 5545) has them. */

/** Calendars in a package that are longer are not read for dates, bytes. */
const LONGEST = 4 * 2 ** 20;
const PROPERTIES = ['dtstart', 'dtend', 'due', 'recurrence-id', 'exdate', 'rdate'] as const;
const COMPONENTS = ['vevent', 'vtodo', 'vjournal'] as const;

/** The dates in the calendars that lie in a package; what could not be read is noted. */
export async function calendarDates(pkg: Package, course: Course): Promise<{ dates: KnownDate[]; notes: Note[] }> {
  const dates: KnownDate[] = [];
  const notes: Note[] = [];
  for (const { path, size } of course.files) {
    if (!/\.ics$/i.test(path)) continue;
    const unread = (why: string) =>
      notes.push(remark('calendar-unread', `${path} ${why}: its dates are not known.`, { file: path }));
    if (size > LONGEST) {
      unread('is too long to be read as a calendar');
      continue;
    }
    try {
      const bytes = await pkg.bytes(path);
      const item = course.items.find((i) => i.kind === 'file' && i.file === path)?.id ?? null;
      const found = datesInCalendar(decodeText(bytes), path, item);
      dates.push(...found);
    } catch (error) {
      unread(`is no calendar that can be read (${error instanceof Error ? error.message : String(error)})`);
    }
  }
  return { dates, notes };
}

/** The key under which the dates of a calendar file begin. */
const keyOf = (path: string) => `calendar ${path} `;

export function datesInCalendar(text: string, path: string, item: string | null): KnownDate[] {
  const dates: KnownDate[] = [];
  eachTime(parsed(text), (key, time, { title }) => {
    dates.push({
      key: keyOf(path) + key,
      name: 'on',
      kind: 'file',
      title,
      item,
      node: null,
      folders: [],
      at: momentOfTime(time),
      needs: [],
    });
    return time;
  });
  return dates;
}

/** The calendar with the dates of the rows in it; an event whose beginning is taken away is taken out. */
export function calendarWith(text: string, path: string, rows: ReadonlyMap<string, RedateRow>): string {
  const root = parsed(text);
  const before = keyOf(path);
  eachTime(root, (key, time) => {
    const row = rows.get(before + key);
    if (!row || row.state === 'holds') return time;
    return row.will === null ? null : timeOfMoment(row.will, time);
  });
  return root.toString();
}

/** Which calendars of a package rows speak of. */
export function calendarsIn(rows: readonly Pick<RedateRow, 'key' | 'name'>[]): string[] {
  const paths = rows.flatMap(({ key, name }) =>
    name === 'on' ? [key.slice('calendar '.length, key.lastIndexOf(' '))] : [],
  );
  return [...new Set(paths)];
}

/** @throws Error where it is no calendar */
function parsed(text: string): ICAL.Component {
  const root = new ICAL.Component(ICAL.parse(text) as ConstructorParameters<typeof ICAL.Component>[0]);
  if (root.name !== 'vcalendar') throw new Error('it holds no calendar');
  return root;
}

type Change = (key: string, time: ICAL.Time, event: { title: string }) => ICAL.Time | null;

/** Puts every date of a calendar through `change`: by event, property and value. */
function eachTime(root: ICAL.Component, change: Change): void {
  let at = 0;
  for (const name of COMPONENTS) {
    for (const component of root.getAllSubcomponents(name)) {
      const event = { title: String(component.getFirstPropertyValue('summary') ?? 'event') };
      const nth = at++;
      let gone = false;
      for (const kind of PROPERTIES) {
        component.getAllProperties(kind).forEach((property, p) => {
          const values: unknown[] = property.getValues();
          const after = values.map((value, v) =>
            value instanceof ICAL.Time ? change(`${nth}.${kind}.${p}.${v}`, value, event) : value,
          );
          if (after.some((value) => value === null)) {
            if (kind === 'dtstart') gone = true;
            component.removeProperty(property);
          } else if (after.some((value, v) => value !== values[v])) {
            if (after.length > 1) property.setValues(after as Parameters<ICAL.Property['setValues']>[0]);
            else property.setValue(after[0] as Parameters<ICAL.Property['setValue']>[0]);
          }
        });
      }
      const rule = component.getFirstPropertyValue('rrule');
      if (rule instanceof ICAL.Recur && rule.until) {
        const until = change(`${nth}.until.0.0`, rule.until, event);
        if (until !== rule.until) {
          rule.until = until;
          component.updatePropertyWithValue('rrule', rule);
        }
      }
      if (gone) root.removeSubcomponent(component);
    }
  }
}

const two = (n: number, width = 2) => String(n).padStart(width, '0');

function momentOfTime(time: ICAL.Time): Moment {
  const day = `${two(time.year, 4)}-${two(time.month)}-${two(time.day)}`;
  if (time.isDate) return { is: 'day', on: day };
  const at = `${day}T${two(time.hour)}:${two(time.minute)}:${two(time.second)}`;
  // A time with the name of a zone keeps it, and so is one on the wall there.
  return time.zone === ICAL.Timezone.utcTimezone ? { is: 'instant', at: `${at}Z`, zone: 'UTC' } : { is: 'wall', at };
}

function timeOfMoment(moment: Moment, before: ICAL.Time): ICAL.Time {
  const written = moment.is === 'day' ? moment.on : moment.is === 'unread' ? '' : moment.at;
  const match = /^(\d{4})-(\d\d)-(\d\d)(?:T(\d\d):(\d\d)(?::(\d\d))?)?/.exec(written);
  if (!match) return before;
  const [year, month, day, hour, minute, second] = match.slice(1).map((part) => Number(part ?? 0));
  const time = before.clone();
  time.year = year ?? time.year;
  time.month = month ?? time.month;
  time.day = day ?? time.day;
  time.isDate = moment.is === 'day';
  if (!time.isDate) {
    time.hour = hour ?? 0;
    time.minute = minute ?? 0;
    time.second = second ?? 0;
  }
  return time;
}

/** Days on which the house is closed, of an iCalendar file: each whole-day event, day by day. @throws Refusal `calendar-unread` */
export function closedDaysOf(text: string): ClosedDay[] {
  let root: ICAL.Component;
  try {
    root = parsed(text);
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    throw new Refusal(problem('calendar-unread', `This is no calendar that can be read: ${why}.`, lineIn(why)));
  }
  const days: ClosedDay[] = [];
  for (const component of root.getAllSubcomponents('vevent')) {
    const start = component.getFirstPropertyValue('dtstart');
    if (!(start instanceof ICAL.Time)) continue;
    const end = component.getFirstPropertyValue('dtend');
    const name = String(component.getFirstPropertyValue('summary') ?? 'closed').slice(0, 80) || 'closed';
    const first = numberOf(isoDay(start));
    // The end of whole days is the day after (RFC 5545, 3.6.1).
    const last = end instanceof ICAL.Time ? Math.max(first, numberOf(isoDay(end)) - (end.isDate ? 1 : 0)) : first;
    for (let day = first; day <= last && day < first + 100; day++) days.push({ on: dayOf(day), name });
  }
  if (days.length === 0) throw new Refusal(problem('calendar-unread', 'There is no day in this calendar.'));
  return days;
}

const isoDay = (time: ICAL.Time) => `${two(time.year, 4)}-${two(time.month)}-${two(time.day)}`;

function lineIn(why: string): { line?: number } {
  const line = /line (\d+)/i.exec(why)?.[1];
  return line === undefined ? {} : { line: Number(line) };
}

/** The dates of a course as an iCalendar file: one event a date. */
export function datesAsCalendar(rows: readonly RedateRow[], course: string, stamp: string): string {
  const root = new ICAL.Component('vcalendar');
  root.addPropertyWithValue('version', '2.0');
  root.addPropertyWithValue('prodid', '-//Treenail//Dates of a course//EN');
  const stamped = ICAL.Time.fromDateTimeString(`${stamp.slice(0, 19)}Z`);
  for (const { key, title, name, will } of rows) {
    if (will === null || will.is === 'unread' || name === 'written') continue;
    const event = new ICAL.Component('vevent');
    event.addPropertyWithValue('uid', `${encodeURIComponent(`${course} ${key}`)}@treenail`);
    event.addPropertyWithValue('dtstamp', stamped);
    const at =
      will.is === 'day'
        ? ICAL.Time.fromDateString(will.on)
        : ICAL.Time.fromDateTimeString(will.at.length === 16 ? `${will.at}:00` : will.at);
    event.addPropertyWithValue('dtstart', at);
    event.addPropertyWithValue('summary', `${title}: ${name}`);
    root.addSubcomponent(event);
  }
  return root.toString() + '\r\n';
}
