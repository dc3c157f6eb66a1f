import * as z from 'zod';

const Clock = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/);

/** Hours of the day in which an instance is little used, by the clock of the house: `22:00` to `06:00`. */
export const QuietHours = z.object({ from: Clock, to: Clock }).refine(({ from, to }) => from !== to);
export type QuietHours = z.infer<typeof QuietHours>;

/** When quiet hours begin next, on nights on which the clock is changed by up to an hour otherwise; `null` while they last. */
export function quietFrom(now: Date, { from, to }: QuietHours, zone: string): Date | null {
  const [begins, ends] = [minutesOf(from), minutesOf(to)];
  const clock = new Intl.DateTimeFormat('en-GB', {
    hour: '2-digit',
    minute: '2-digit',
    hourCycle: 'h23',
    timeZone: zone,
  });
  const at = minutesOf(clock.format(now));
  const isQuiet = begins < ends ? at >= begins && at < ends : at >= begins || at < ends;
  if (isQuiet) return null;
  const wait = (begins - at + DAY) % DAY;
  const minute = Math.floor(now.getTime() / 60_000) * 60_000;
  return new Date(minute + wait * 60_000);
}

const DAY = 24 * 60;

function minutesOf(clock: string): number {
  const [hours = 0, minutes = 0] = clock.split(':').map(Number);
  return hours * 60 + minutes;
}
