import { filesOf, type Item } from '../../../model/index.ts';
import { leaveOut } from '../content-parts.ts';
import type { FindingKind } from '../contract.ts';

export const fileDamaged: FindingKind = {
  id: 'file-damaged',
  label: 'Files that are damaged',
  weight: 'breaks',
  mends: ['leave-out'],
  why: () =>
    'What is damaged can not be carried: no package is written with it in it. Fetch the course again, or leave it out.',
  *inCourse({ course }) {
    const users = new Map<string, Item>();
    for (const item of course.items) for (const path of filesOf(item)) if (!users.has(path)) users.set(path, item);
    for (const { path, damage } of course.files) {
      if (damage === undefined) continue;
      const user = users.get(path);
      // What only shows it goes without it; what is nothing else goes with it.
      const item = user && 'file' in user && user.file === path ? user : null;
      yield { item, title: path, file: path, evidence: damage, suggestions: [leaveOut('Leave it out')] };
    }
  },
};
