import { canStrip } from '../../file-marks.ts';
import type { FindingKind } from '../contract.ts';

export const fileTellsOfPeople: FindingKind = {
  id: 'file-tells-of-people',
  label: 'Files that tell who made them, or where',
  weight: 'exposes',
  mends: ['strip-marks', 'give-file', 'leave-out'],
  why: () => 'Documents bear the names of their authors, pictures the place where they were taken.',
  *inCourse({ fileMarks }) {
    for (const [path, marks] of fileMarks) {
      const told = marks.filter((m) => !m.startsWith('people: '));
      if (told.length === 0) continue;
      yield {
        groupKey: told.map((m) => m.split(':', 1)[0]).join(' '),
        title: path,
        file: path,
        evidence: `${path}: ${told.join(', ')}`,
        suggestions: [
          canStrip(path)
            ? { mend: 'strip-marks', params: {}, words: 'Take that out of the file' }
            : { mend: 'leave-out', params: {}, words: 'Leave the file out' },
        ],
      };
    }
  },
};
