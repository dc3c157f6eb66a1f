import { wholeOf, type PageElement } from '../../markup/index.ts';
import type { Passage } from '../reading.ts';
import { excerpt, spotAt, type FindingDraft } from './contract.ts';

/** Kinds of findings about what stands in pages and other texts. */

/** Kinds of findings about what stands in pages and other texts. */

export function foundIn(
  passage: Passage,
  element: PageElement,
  evidence: string,
  more: Partial<FindingDraft> = {},
): FindingDraft {
  return {
    item: passage.item,
    part: passage.part,
    file: passage.file,
    line: element.line,
    evidence,
    spot: spotAt(element.open, element),
    ...more,
  };
}

export const sourceOf = (passage: Passage, element: PageElement) => {
  const { start, end } = wholeOf(element);
  return excerpt(passage.source.slice(start, Math.min(end, start + 400)));
};
