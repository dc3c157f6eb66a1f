import { filesOf, readableSize, type Item } from '../../../model/index.ts';
import type { FindingKind } from '../contract.ts';
import { leaveOut } from '../content-parts.ts';

export const fileTooLong: FindingKind = {
  id: 'file-too-long',
  label: 'Files over the limit',
  weight: 'breaks',
  mends: ['leave-out', 'give-file'],
  why(to) {
    const limit = to?.limits.fileBytes;
    return limit
      ? `${limit.reason}: a longer one is left behind.`
      : 'Long files make moves slow, and destinations refuse them.';
  },
  *inCourse({ course, profile, settings }) {
    const limit = profile?.limits.fileBytes?.at ?? settings.oversizeBytes;
    const users = new Map<string, Item>();
    for (const item of course.items) for (const path of filesOf(item)) if (!users.has(path)) users.set(path, item);
    for (const file of course.files) {
      if (file.size <= limit || file.role !== 'content') continue;
      const item = users.get(file.path) ?? null;
      yield {
        item,
        title: file.path,
        file: file.path,
        evidence: `${file.path} has ${readableSize(file.size)}, the limit is ${readableSize(limit)}`,
        suggestions: [leaveOut('Leave it out')],
      };
    }
  },
};
