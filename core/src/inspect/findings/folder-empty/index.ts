import type { OutlineNode } from '../../../model/index.ts';
import type { FindingKind } from '../contract.ts';

export const folderEmpty: FindingKind = {
  id: 'folder-empty',
  label: 'Folders with nothing in them',
  weight: 'clutters',
  mends: ['leave-out'],
  why: (to) => `They arrive at ${to?.label ?? 'the destination'} as headings over nothing, or not at all.`,
  *inCourse({ course }) {
    const stack: OutlineNode[] = [...course.outline].reverse();
    for (let node = stack.pop(); node; node = stack.pop()) {
      stack.push(...[...node.children].reverse());
      if (node.item !== undefined || node.heading === true || node.children.length > 0) continue;
      yield {
        groupKey: node.id,
        node: node.id,
        title: node.title,
        evidence: `“${node.title}” holds nothing`,
        suggestions: [{ mend: 'leave-out', params: {}, words: 'Leave the folder out' }],
      };
    }
  },
};
