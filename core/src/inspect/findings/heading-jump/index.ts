import { excerpt, type FindingKind } from '../contract.ts';
import { foundIn } from '../page-parts.ts';

export const headingJump: FindingKind = {
  id: 'heading-jump',
  label: 'Headings that skip a level',
  weight: 'weakens',
  mends: ['level-heading'],
  why: () => 'Whoever goes from heading to heading takes it that something is missing between them.',
  *inPassage(passage) {
    let before = 0;
    for (const heading of passage.reading.headings) {
      const level = Number(heading.name[1]);
      if (before > 0 && level > before + 1) {
        const to = before + 1;
        yield foundIn(passage, heading, `“${excerpt(heading.text, 80)}” is of level ${level} under one of ${before}`, {
          groupKey: `${before} to ${level}`,
          suggestions: [{ mend: 'level-heading', params: { level: String(to) }, words: `Make it level ${to}` }],
        });
        before = to;
      } else before = level;
    }
  },
};
