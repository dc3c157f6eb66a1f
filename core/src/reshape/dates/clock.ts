import { DateTime, IANAZone } from 'luxon';
import { momentWords, writtenMoment, type Moment } from '../../model/index.ts';
import { dayOf, numberOf } from './days.ts';

/** By which clock days are days: an IANA name, `UTC` where the house has said none. */
export type Zone = string;

/** The day and the time on the clock that a date was set by, `17:00:00`; `null` of words, no time of a whole day. */
export function onClock(moment: Moment, zone: Zone): { day: number; time: string | null } | null {
  switch (moment.is) {
    case 'unread':
      return null;
    case 'day':
      return { day: numberOf(moment.on), time: null };
    case 'wall':
      return { day: numberOf(moment.at.slice(0, 10)), time: moment.at.slice(11) };
    case 'instant': {
      const shown = new Date(Date.parse(moment.at) + offsetAt(Date.parse(moment.at), zone)).toISOString();
      return { day: numberOf(shown.slice(0, 10)), time: shown.slice(11, 19) };
    }
  }
}

const MS = 86_400_000;
const offsets = new Map<string, { zone: IANAZone; days: Map<number, number> }>();

/** By how much the clock of a zone is ahead of UTC, ms. Days on which it is not changed are asked for once. */
function offsetAt(time: number, zone: Zone): number {
  const day = Math.floor(time / MS);
  return steadyOffset(day, zone) ?? offsetsOf(zone).zone.offset(time) * 60_000;
}

/** The offset that holds for a whole day of UTC; `null` where it changes in the course of it. */
function steadyOffset(day: number, zone: Zone): number | null {
  const { zone: known, days } = offsetsOf(zone);
  const at = (one: number) => {
    let offset = days.get(one);
    if (offset === undefined) days.set(one, (offset = known.offset(one * MS) * 60_000));
    return offset;
  };
  return at(day) === at(day + 1) ? at(day) : null;
}

function offsetsOf(zone: Zone): { zone: IANAZone; days: Map<number, number> } {
  let known = offsets.get(zone);
  if (!known) offsets.set(zone, (known = { zone: IANAZone.create(zone), days: new Map() }));
  return known;
}

/** The time at which a clock of the zone shows what UTC shows at `shown`, ms; `null` on days on which it is changed. */
function plainTime(shown: number, zone: Zone): number | null {
  const day = Math.floor(shown / MS);
  const [before, on, after] = [day - 1, day, day + 1].map((one) => steadyOffset(one, zone));
  return on != null && on === before && on === after ? shown - on : null;
}

/** The same time of the clock on another day. `skipped`: the clock is put forward over it on that day. */
export function onDay(moment: Moment, day: number, zone: Zone): { moment: Moment; skipped: boolean } {
  switch (moment.is) {
    case 'unread':
      return { moment, skipped: false };
    case 'day':
      return { moment: { is: 'day', on: dayOf(day) }, skipped: false };
    case 'wall':
      return { moment: { is: 'wall', at: dayOf(day) + moment.at.slice(10) }, skipped: false };
    case 'instant': {
      const time = Date.parse(moment.at);
      const shown = time + offsetAt(time, zone);
      const plain = plainTime(day * MS + (shown - Math.floor(shown / MS) * MS), zone);
      if (plain !== null) return { moment: instantAt(plain, moment.zone, zone), skipped: false };
      const was = DateTime.fromISO(moment.at, { zone });
      const [year, month, date] = dayOf(day).split('-').map(Number);
      const { hour, minute, second, millisecond } = was;
      const made = DateTime.fromObject(
        { year: year ?? 1970, month: month ?? 1, day: date ?? 1, hour, minute, second, millisecond },
        { zone },
      );
      // The clock that is put back shows an hour twice: it stays the one of the two that it was.
      const will = made.valueOf() !== was.valueOf() && isSameDay(made, was) ? was : made;
      return {
        moment: instantAt(will.toMillis(), moment.zone, zone),
        skipped: will.hour !== hour || will.minute !== minute,
      };
    }
  }
}

const isSameDay = (one: DateTime, other: DateTime) => one.hasSame(other, 'day') && one.hour === other.hour;

/** A time as it is written down: in UTC if it was, else with the offset that holds then. */
function instantAt(time: number, written: string, zone: Zone): Moment {
  const at = new Date(time).toISOString().replace('.000', '');
  if (written === 'UTC') return { is: 'instant', at, zone: 'UTC' };
  const minutes = offsetAt(time, zone) / 60_000;
  const [hours, rest] = [Math.floor(Math.abs(minutes) / 60), Math.abs(minutes) % 60];
  const two = (n: number) => String(n).padStart(2, '0');
  return { is: 'instant', at, zone: `${minutes < 0 ? '-' : '+'}${two(hours)}:${two(rest)}` };
}

/** Whether there is such an hour on that day by the clock, and no more than one. */
export function hoursOf(day: string, time: string, zone: Zone): 'one' | 'none' | 'two' {
  const at = DateTime.fromISO(`${day}T${time}`, { zone });
  if (at.toFormat('HH:mm') !== time.slice(0, 5)) return 'none';
  return at.getPossibleOffsets().length > 1 ? 'two' : 'one';
}

/** What a person wrote of a day and a time as a date of the same sort as another: with a zone, without, or a whole day. */
export function likeAnother(model: Moment | null, day: string, time: string | null, zone: Zone): Moment {
  if (time === null) return { is: 'day', on: day };
  if (model?.is !== 'instant') return { is: 'wall', at: `${day}T${time}` };
  return instantAt(DateTime.fromISO(`${day}T${time}`, { zone }).toMillis(), model.zone, zone);
}

/** A date as a person reads it by the clock of the house: `Fri 22 Jan 2027 17:00`; words as they are. */
export function clockWords(moment: Moment, zone: Zone): string {
  const at = onClock(moment, zone);
  if (at === null) return momentWords(moment);
  const day = momentWords({ is: 'day', on: dayOf(at.day) });
  return at.time === null ? day : `${day} ${at.time.slice(0, 5)}`;
}

/** By which dates are put in order, ms: a clock without a zone is taken for that of the house. */
export function orderOf(moment: Moment, zone: Zone, endOfDay = false): number | null {
  if (moment.is === 'unread') return null;
  if (moment.is === 'instant') return Date.parse(moment.at);
  const shown = moment.is === 'day' ? `${moment.on}T${endOfDay ? '23:59' : '00:00'}` : writtenMoment(moment);
  return plainTime(Date.parse(`${shown}Z`), zone) ?? DateTime.fromISO(shown, { zone }).toMillis();
}
