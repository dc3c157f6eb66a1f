import { Pipe, type PipeTransform } from '@angular/core';
import type { CopySummary } from '@treenail/server/contract';
import { courseName, evenMonths, readableSize } from '@treenail/core';

@Pipe({ name: 'size' })
export class SizePipe implements PipeTransform {
  readonly transform = readableSize;
}

/** Code and section of a course, as people say them. */
@Pipe({ name: 'courseName' })
export class CourseNamePipe implements PipeTransform {
  readonly transform = courseName;
}

const SHORT = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
});
const LONG = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
  timeZoneName: 'short',
});

const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });

/** A moment in the person's own time zone; `long` names the zone. */
@Pipe({ name: 'when' })
export class WhenPipe implements PipeTransform {
  transform(iso: string, form: 'short' | 'long' | 'day' = 'short'): string {
    const formatted = (form === 'day' ? DAY : form === 'long' ? LONG : SHORT).format(new Date(iso));
    return evenMonths(formatted).replace(',', '');
  }
}

/** What a kept copy is: its format and form, whether it is only a part, and whether it has personal data in it. */
export function copyWords({ format, form, facts, partial, personal }: CopySummary): string {
  const whose = facts.ofPlatform ? '' : ', from a file';
  return [
    `${format}${whose}`,
    form === 'archive' ? 'the platform\u2019s own archive' : 'a standard package',
    partial ? 'only chosen parts' : '',
    personal ? 'with personal data' : '',
  ]
    .filter(Boolean)
    .join(', ');
}

/** How many days of the calendar, in the person's own time zone, lie between now and a moment. */
export function daysUntil(iso: string, now = new Date()): number {
  const midnight = (day: Date) => new Date(day.getFullYear(), day.getMonth(), day.getDate()).getTime();
  // Rounded, since a day on which the clocks are changed has an hour more or less.
  return Math.round((midnight(new Date(iso)) - midnight(now)) / 86_400_000);
}

/** A hash in groups that an eye can compare. */
@Pipe({ name: 'hash' })
export class HashPipe implements PipeTransform {
  transform(sha256: string): string {
    return sha256.replace(/(.{8})/g, '$1 ').trim();
  }
}
