import { stringify } from 'csv-stringify/sync';
import type { CourseSummary } from '../contract/index.ts';
import { workbook } from './workbook.ts';

const COLUMNS = [
  ['Code', 12],
  ['Section', 9],
  ['Title', 44],
  ['Term', 16],
  ['On', 22],
  ['Owner', 32],
  ['Bytes', 14],
  ['Changed', 18],
  ['Newest kept copy', 18],
  ['Lacks', 30],
  ['Gone after', 18],
] as const;

/** What a course lacks to be safe, as one reads it in a list. */
export function lacksOf(course: CourseSummary): string[] {
  const { newestCopy, changedAt, instance } = course;
  if (!instance.gives) return [];
  if (!newestCopy) return ['no kept copy'];
  return newestCopy.keptAt < changedAt ? ['copy older than the course'] : [];
}

function rowOf(c: CourseSummary): (string | number)[] {
  return [
    c.code,
    c.section,
    c.title,
    c.term,
    c.instance.name,
    c.owner,
    c.size,
    c.changedAt,
    c.newestCopy?.keptAt ?? '',
    lacksOf(c).join(', '),
    c.cutOff?.at ?? '',
  ];
}

/** Titles that a spreadsheet would take for a formula are defused. */
export function coursesAsCsv(courses: readonly CourseSummary[]): string {
  return stringify([COLUMNS.map(([name]) => name), ...courses.map(rowOf)], { escape_formulas: true, bom: true });
}

/** Cells of a workbook are typed: a text is never a formula there. */
export function coursesAsXlsx(courses: readonly CourseSummary[]): Promise<Buffer> {
  return workbook([
    {
      name: 'Courses',
      rows: [COLUMNS.map(([name]) => name), ...courses.map(rowOf)],
      widths: COLUMNS.map(([, width]) => width),
    },
  ]);
}
