import { count, type DateNote, type RedatePlan, type RedateRow, type RedateSums } from '@treenail/core';

/** Where the dates go, as the answer that stands first: what follows their number. */
export function goWords({ rule }: RedatePlan, sums: RedateSums): string {
  const { dates, sameWeekday, stepped, moved, holds, away, look } = sums;
  const one = dates === 1;
  const parts = [
    sameWeekday > 0 ? `${sameWeekday} on the same weekday` : '',
    moved - sameWeekday > 0 ? `${moved - sameWeekday} on another weekday` : '',
    stepped > 0 ? `${stepped} stepped over a break` : '',
    holds > 0 && rule.is !== 'keep' ? `${holds} as they were` : '',
    away > 0 && rule.is !== 'away' ? `${away} taken away` : '',
  ].filter(Boolean);
  const where = {
    term: rule.is === 'term' ? `${one ? 'goes' : 'go'} into ${rule.to.name}` : '',
    stretch: rule.is === 'stretch' ? `${one ? 'is' : 'are'} fitted into ${rule.to.name}` : '',
    days: one ? 'is moved by days' : 'are moved by days',
    away: one ? 'is taken away' : 'are taken away',
    keep: one ? 'stays as it was' : 'stay as they were',
  }[rule.is];
  const rest = look === 0 ? '' : '; ';
  return `${where}${parts.length > 0 ? `: ${parts.join(', ')}` : ''}${rest}`;
}

/** What a person has to look at, in a few words; '' where there is nothing. */
export function lookWords({ look }: RedateSums): string {
  return look === 0 ? '' : `${count(look, 'date')} to look at`;
}

export function isToLookAt(row: RedateRow): boolean {
  return row.notes.some((note) => note.weight === 'look');
}

/** What is said of a date, the gravest first. */
export function notesOf({ notes }: RedateRow): readonly DateNote[] {
  return [...notes].sort((a, b) => Number(a.weight === 'say') - Number(b.weight === 'say'));
}
