import { patternOf } from '../../patterns.ts';
import { lineOf, spotAt, type ScanContext, type FindingKind } from '../contract.ts';

export const placeholder: FindingKind = {
  id: 'placeholder',
  label: 'Placeholders that nothing fills in',
  weight: 'breaks',
  mends: ['replace', 'remove'],
  why: () => 'The old platform put a name or a date in their place; elsewhere readers see the brackets.',
  *inPassage(passage, context) {
    if (!passage.source.includes('{') && !passage.source.includes('%%')) return;
    for (const source of context.settings.placeholders) {
      for (const match of patternOf(source).in(passage.source)) {
        const { text } = match;
        const value = valueOf(text, context);
        yield {
          groupKey: text,
          item: passage.item,
          part: passage.part,
          file: passage.file,
          line: lineOf(passage.source, match.index),
          evidence: text,
          spot: spotAt({ start: match.index, end: match.index + text.length }),
          suggestions:
            value === undefined
              ? []
              : [{ mend: 'replace', params: { text: value }, words: `Put “${value}” in its place` }],
        };
      }
    }
  },
};

/** What a placeholder stands for: the institution's word for it, or the course's own title or code. */
function valueOf(text: string, { settings, course }: ScanContext): string | undefined {
  const name = text.replace(/[^\p{L}\p{N}.:_-]/gu, '').toLowerCase();
  const own: Record<string, string | undefined> = {
    'course.title': course.title,
    'course.code': course.metadata.catalogEntry,
  };
  return settings.values[name] ?? own[name];
}
