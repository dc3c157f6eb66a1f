import type { FindingKind } from '../contract.ts';

export const fileInRepository: FindingKind = {
  id: 'file-in-repository',
  label: 'Files that lie in the shared repository',
  weight: 'weakens',
  mends: ['keep-own'],
  why: () => 'Another course may use the same file; after the move each has its own, and nobody updates them all.',
  *inCourse({ course }) {
    for (const item of course.items) {
      const { repository } = item.settings;
      if (typeof repository !== 'string') continue;
      yield {
        groupKey: repository,
        item,
        evidence: `lies in the repository as ${repository}`,
        suggestions: [{ mend: 'keep-own', params: {}, words: 'Keep it as a file of this course' }],
      };
    }
  },
};
