import type { FindingKind } from '../contract.ts';
import { foundIn } from '../page-parts.ts';

export const pictureWithoutWords: FindingKind = {
  id: 'picture-without-words',
  label: 'Pictures without words for those who can not see them',
  weight: 'weakens',
  mends: ['set-alt', 'remove'],
  why: () => 'A screen reader says the name of the file, or nothing. Public bodies are bound by law to do better.',
  *inPassage(passage) {
    for (const image of passage.reading.images) {
      const { alt, src, role } = image.attrs;
      if (alt !== undefined || role === 'presentation' || src === undefined) continue;
      const title = image.attrs['title']?.trim();
      yield foundIn(passage, image, `picture ${src}`, {
        groupKey: src,
        suggestions: [
          ...(title ? [{ mend: 'set-alt', params: { text: title }, words: `Say “${title}”` }] : []),
          { mend: 'set-alt', params: { text: '' }, words: 'Say that it is only ornament' },
        ],
      });
    }
  },
};
