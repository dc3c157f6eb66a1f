import { Pipe, type PipeTransform } from '@angular/core';

const UNITS = ['kB', 'MB', 'GB', 'TB'];

/** A size in the unit that reads best. */
export function readableSize(bytes: number): string {
  if (bytes < 1000) return `${bytes} B`;
  let value = bytes;
  let unit = -1;
  do {
    value /= 1000;
    unit++;
  } while (value >= 999.5 && unit < UNITS.length - 1);
  return `${value < 10 ? value.toFixed(1) : Math.round(value)} ${UNITS[unit]}`;
}

@Pipe({ name: 'size' })
export class SizePipe implements PipeTransform {
  readonly transform = readableSize;
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

/** A moment in the person's own time zone; `long` names the zone. */
@Pipe({ name: 'when' })
export class WhenPipe implements PipeTransform {
  transform(iso: string, form: 'short' | 'long' = 'short'): string {
    return (form === 'long' ? LONG : SHORT).format(new Date(iso)).replace(',', '');
  }
}

/** A hash in groups that an eye can compare. */
@Pipe({ name: 'hash' })
export class HashPipe implements PipeTransform {
  transform(sha256: string): string {
    return sha256.replace(/(.{8})/g, '$1 ').trim();
  }
}

export function count(n: number, one: string, many = `${one}s`): string {
  return `${n} ${n === 1 ? one : many}`;
}
