import { readableSize, type Item } from '../../../model/index.ts';
import type { FindingKind } from '../contract.ts';
import { leaveOut } from '../content-parts.ts';

export const doubled: FindingKind = {
  id: 'doubled',
  label: 'Items that are there twice',
  weight: 'clutters',
  mends: ['leave-out'],
  why: () => 'Readers find two of the same and do not know which counts; marks are split between them.',
  *inCourse({ course, placed }) {
    const first = new Map<string, Item>();
    for (const item of course.items) {
      if (item.fingerprint === undefined || item.kind === 'category' || item.kind === 'foreign') continue;
      const settings = item.kind === 'column' ? JSON.stringify(item.settings) : '';
      const same = `${item.kind}\n${item.title}\n${item.fingerprint}\n${settings}`;
      const before = first.get(same);
      if (!before) first.set(same, item);
      else {
        yield {
          groupKey: same.slice(0, 200),
          item,
          evidence: `the same as another ${item.kind} “${before.title}”${placed.has(item.id) ? '' : ', and in no place of the outline'}`,
          suggestions: [leaveOut('Leave this one out')],
        };
      }
    }
    const files = new Map<string, string>();
    for (const file of course.files) {
      if (file.role !== 'content' || file.sha256 === undefined || file.size < 1024 || /html/.test(file.mediaType))
        continue;
      const before = files.get(file.sha256);
      if (before === undefined) files.set(file.sha256, file.path);
      else {
        yield {
          groupKey: file.sha256,
          title: file.path,
          file: file.path,
          evidence: `${file.path} (${readableSize(file.size)}) is byte for byte ${before}`,
          suggestions: [{ mend: 'merge-file', params: { into: before }, words: `Use ${before} in its place` }],
        };
      }
    }
  },
};
