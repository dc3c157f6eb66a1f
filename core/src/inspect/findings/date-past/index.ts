import type { FindingKind } from '../contract.ts';
import { DATE_SETTINGS, subjects } from '../../../model/index.ts';
import { aboutSubject, day, isBefore } from '../content-parts.ts';

export const datePast: FindingKind = {
  id: 'date-past',
  label: 'Dates that have passed',
  weight: 'weakens',
  mends: ['drop-dates'],
  why: () => 'What was due last term arrives closed. The step Re-date moves all dates at once.',
  *inCourse({ course, today }) {
    for (const subject of subjects(course, { withCourse: false })) {
      if (subject.kind === 'announcement') continue;
      const dates = DATE_SETTINGS.flatMap((name) => {
        const value = subject.settings[name];
        return value !== undefined && isBefore(value, Date.parse(today)) ? [{ name, value }] : [];
      });
      if (dates.length === 0) continue;
      yield {
        groupKey: dates.map((d) => d.name).join(' '),
        ...aboutSubject(subject),
        evidence: dates.map((d) => `${d.name} ${day(d.value)}`).join(', '),
        suggestions: [
          { mend: 'drop-dates', params: { names: dates.map((d) => d.name).join(',') }, words: 'Take the dates off' },
        ],
      };
    }
  },
};
