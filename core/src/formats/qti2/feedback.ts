import { elements, fold, peekAt, taken, textOf, type XmlElement } from '../../markup/index.ts';
import type { FeedbackKind, Question, RichText } from '../../model/index.ts';
import { attributeOf, kid, kids, nameOf } from './names.ts';

/** What an item says beside its question: feedback that hangs on no single answer, and the category. */

interface Texts {
  /** The feedback of that identifier. */
  modal(ident: string): RichText | undefined;
  rich(element: XmlElement): RichText;
}

export function feedbackOf(
  body: XmlElement | undefined,
  told: readonly [FeedbackKind, string][],
  texts: Texts,
): Question['feedback'] {
  const found: Partial<Record<FeedbackKind, RichText>> = {};
  for (const [kind, ident] of told) {
    const text = texts.modal(ident);
    if (text) found[kind] ??= text;
  }
  for (const use of ['hint', 'solution'] as const) {
    const [rubric] = rubricsOfClass(body, use);
    if (rubric) found[use] ??= texts.rich(kid(rubric, 'contentBody') ?? rubric);
  }
  return found;
}

/** Rubrics that say what QTI has no element for: see docs/formats.md. */
function rubricsOfClass(body: XmlElement | undefined, use: string): XmlElement[] {
  return elements(body)
    .filter((e) => nameOf(e) === 'rubricBlock' && peekAt(e, 'class') === use)
    .map((rubric) => {
      void [attributeOf(rubric, 'view'), attributeOf(rubric, 'class')];
      return taken(rubric);
    });
}

export function categoryIn(body: XmlElement | undefined): string | undefined {
  const [rubric] = rubricsOfClass(body, 'category');
  if (!rubric) return undefined;
  const words = kid(rubric, 'contentBody') ?? rubric;
  const paragraphs = kids(words, 'p');
  return fold(paragraphs.length > 0 ? paragraphs.map(textOf).join(' ') : textOf(words));
}
