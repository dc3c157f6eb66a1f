import { baseName, filesOf, readableSize } from '../../../model/index.ts';
import type { ScanContext, FindingKind } from '../contract.ts';
import { leaveOut } from '../content-parts.ts';

export const fileUnused: FindingKind = {
  id: 'file-unused',
  label: 'Files that nothing uses',
  weight: 'clutters',
  mends: ['leave-out'],
  why: () => 'They are carried, stored and backed up for nobody.',
  *inCourse(context) {
    const used = usedFiles(context);
    for (const file of context.course.files) {
      if (file.role !== 'content' || used.has(file.path)) continue;
      yield {
        groupKey: baseName(file.path),
        title: file.path,
        file: file.path,
        evidence: `${file.path}, ${readableSize(file.size)}`,
        suggestions: [leaveOut('Leave the file out')],
      };
    }
  },
};

const PLAYED_WHOLE = /^play\/course(-\d+)?\.(html|js)$/;

/** Package paths that something of the course is made of or uses. */
function usedFiles({ course, links }: ScanContext): Set<string> {
  const used = new Set(course.items.flatMap(filesOf));
  for (const link of links) if (link.path !== null) used.add(link.path);
  for (const item of course.items) if (item.definitionPath !== null) used.add(item.definitionPath);
  // The page around a course that is played whole, and its script, are what Treenail wrote to play it.
  for (const file of course.files) if (PLAYED_WHOLE.test(file.path)) used.add(file.path);
  return used;
}
