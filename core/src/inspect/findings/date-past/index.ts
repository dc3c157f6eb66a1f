import type { FindingKind } from '../contract.ts';
import { day, isBefore } from '../content-parts.ts';

export const datePast: FindingKind = {
  id: 'date-past',
  label: 'Dates that have passed',
  weight: 'weakens',
  mends: ['drop-dates'],
  why: () => 'What was due last term arrives closed.',
  *inCourse({ course, today }) {
    for (const item of course.items) {
      if (item.kind === 'announcement') continue;
      const dates = DATES.flatMap((name) => {
        const value = item.settings[name];
        return value !== undefined && isBefore(value, Date.parse(today)) ? [{ name, value }] : [];
      });
      if (dates.length === 0) continue;
      yield {
        groupKey: dates.map((d) => d.name).join(' '),
        item,
        evidence: dates.map((d) => `${d.name} ${day(d.value)}`).join(', '),
        suggestions: [
          { mend: 'drop-dates', params: { names: dates.map((d) => d.name).join(',') }, words: 'Take the dates off' },
        ],
      };
    }
  },
};

const DATES = ['opens', 'due', 'closes', 'posted'] as const;
