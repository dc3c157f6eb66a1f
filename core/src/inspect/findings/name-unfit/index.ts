import { baseName } from '../../../model/index.ts';
import type { FindingKind } from '../contract.ts';

export const nameUnfit: FindingKind = {
  id: 'name-unfit',
  label: 'Names that the destination can not bear',
  weight: 'weakens',
  mends: ['rename'],
  why(to) {
    const rule = to?.limits.nameCharacters;
    return rule && to
      ? `${to.label} ${rule.reason}.`
      : 'They are cut off or changed on the way, and what leads to them breaks.';
  },
  *inCourse({ course, profile }) {
    const rule = profile?.limits.nameCharacters;
    const title = profile?.limits.titleLength;
    for (const file of course.files) {
      const unfit = rule ? [...baseName(file.path)].filter((c) => rule.not.includes(c)) : [];
      if (file.role !== 'content' || unfit.length === 0 || !rule) continue;
      const to = [...baseName(file.path)]
        .map((c) => (rule.not.includes(c) ? '-' : c))
        .join('')
        .replace(/-{2,}/g, '-');
      yield {
        groupKey: [...new Set(unfit)].sort().join(''),
        title: file.path,
        file: file.path,
        evidence: `${file.path} has ${[...new Set(unfit)].map((c) => (c === ' ' ? 'a space' : c)).join(' ')} in its name`,
        suggestions: [{ mend: 'rename', params: { name: to }, words: `Name it ${to}` }],
      };
    }
    for (const item of course.items) {
      if (!title || item.title.length <= title.at) continue;
      const short = item.title.slice(0, title.at).trimEnd();
      yield {
        groupKey: 'title',
        item,
        evidence: `a title of ${item.title.length} characters, where ${title.at} are held`,
        suggestions: [{ mend: 'rename', params: { name: short }, words: `Call it “${short}”` }],
      };
    }
  },
};
