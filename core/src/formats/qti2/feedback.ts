import { fold, textOf, type XmlElement } from '../../markup/index.ts';
import type { FeedbackKind, Question, RichText } from '../../model/index.ts';
import { attributeOf, kid, kids } from './names.ts';

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
  for (const rubric of kids(body, 'rubricBlock')) {
    const use = attributeOf(rubric, 'class') ?? '';
    if (use === 'hint' || use === 'solution') found[use] ??= texts.rich(kid(rubric, 'contentBody') ?? rubric);
  }
  return found;
}

export function categoryIn(body: XmlElement | undefined): string | undefined {
  const rubric = kids(body, 'rubricBlock').find((r) => attributeOf(r, 'class') === 'category');
  return rubric && fold(textOf(rubric));
}
