import type { FindingKind } from '../contract.ts';
import { aboutSubject, leaveOut } from '../content-parts.ts';
import { subjects } from '../../../model/index.ts';

export const hidden: FindingKind = {
  id: 'hidden',
  label: 'Items that students do not see',
  weight: 'clutters',
  mends: ['leave-out', 'show'],
  why: (to) =>
    `Some destinations show everything that arrives; look whether ${to?.label ?? 'yours'} is to have them at all.`,
  *inCourse({ course }) {
    for (const subject of subjects(course, { withCourse: false })) {
      const { hidden, audience } = subject.settings;
      const why =
        hidden === true ? 'hidden in the outline' : audience === 'Instructor' ? 'shown to instructors only' : null;
      if (why === null) continue;
      yield {
        groupKey: why,
        ...aboutSubject(subject),
        evidence: subject.kind === 'folder' ? `${why}, with all that is in it` : why,
        suggestions: [
          leaveOut(subject.kind === 'folder' ? 'Leave it out, with all that is in it' : 'Leave it out'),
          { mend: 'show', params: {}, words: 'Show it' },
        ],
      };
    }
  },
};
