import { count } from '../../../model/index.ts';
import type { FindingKind } from '../contract.ts';

export const peopleRecords: FindingKind = {
  id: 'people-records',
  label: 'Work and marks of students',
  weight: 'exposes',
  mends: ['strip-people'],
  why: () => 'Enrolments, hand-ins, marks and posts are records about students, not the course.',
  *inCourse({ course }) {
    const found = course.personal;
    if (!found) return;
    const words = [
      found.people > 0 && count(found.people, 'person', 'people'),
      found.submissions > 0 && count(found.submissions, 'submission'),
      found.grades > 0 && count(found.grades, 'grade'),
      found.posts > 0 && count(found.posts, 'post'),
    ].filter((w) => w !== false);
    if (words.length === 0) return;
    yield {
      title: 'Records of students',
      evidence: words.join(', '),
      suggestions: [{ mend: 'strip-people', params: {}, words: 'Take them all out' }],
    };
  },
};
