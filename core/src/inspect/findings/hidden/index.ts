import type { FindingKind } from '../contract.ts';
import { leaveOut } from '../content-parts.ts';

export const hidden: FindingKind = {
  id: 'hidden',
  label: 'Items that students do not see',
  weight: 'clutters',
  mends: ['leave-out', 'show'],
  why: (to) =>
    `Some destinations show everything that arrives; look whether ${to?.label ?? 'yours'} is to have them at all.`,
  *inCourse({ course }) {
    for (const item of course.items) {
      const why =
        item.settings.hidden === true
          ? 'hidden in the outline'
          : item.settings.audience === 'Instructor'
            ? 'shown to instructors only'
            : null;
      if (why === null) continue;
      yield {
        groupKey: why,
        item,
        evidence: why,
        suggestions: [leaveOut('Leave it out'), { mend: 'show', params: {}, words: 'Show it' }],
      };
    }
  },
};
