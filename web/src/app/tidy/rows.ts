import { subjects, timeOf, type Course, type Moment, type Subject } from '@treenail/core';
import { startOf } from '../parts/days';

/** A line of what goes. */
export interface Row {
  subject: Subject;
  depth: number;
  /** Identifiers of the items that the row stands for: its own, or those of its folder. */
  items: readonly string[];
}

export function rowsOf(course: Course): Row[] {
  return subjects(course).map((subject) => ({
    subject,
    depth: subject.placed?.depth ?? 0,
    items: subject.item ? [subject.item.id] : under(subject),
  }));
}

/** Identifiers of items of which every date lies before a day of the house; what bears none is not old. */
export function datedBefore(course: Course, day: string, zone: string): string[] {
  return course.items.flatMap(({ id, settings }) => {
    const dates = [settings.opens, settings.due, settings.closes, settings.posted].flatMap((d) => d ?? []);
    return dates.length > 0 && dates.every((date) => isBefore(date, day, zone)) ? [id] : [];
  });
}

/** Whether a date lies before a day of the house; what bears no zone is held against the day as it is written. */
function isBefore(date: Moment, day: string, zone: string): boolean {
  const time = timeOf(date);
  const begins = date.is === 'instant' ? startOf(day, zone) : null;
  return time !== null && time < (begins ?? Date.parse(day));
}

/** Identifiers of the items below a folder. */
function under({ placed }: Subject): string[] {
  const found: string[] = [];
  const stack = [...(placed?.node.children ?? [])];
  for (let node = stack.pop(); node; node = stack.pop()) {
    if (node.item !== undefined) found.push(node.item);
    stack.push(...node.children);
  }
  return found;
}
