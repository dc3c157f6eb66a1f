import { descendants, type XmlElement } from '../../markup/index.ts';
import type { Asked, Manner, QuestionType } from '../../model/index.ts';
import { attributeOf, nameOf } from './names.ts';

/** What interactions ask (Assessment, Section and Item Information Model, 3). */

const INTERACTION = /Interaction$/;

/** What an interaction by itself asks for; choices and words are told apart by more than their names. */
export const TYPES: Readonly<Record<string, QuestionType>> = {
  inlineChoiceInteraction: 'cloze',
  extendedTextInteraction: 'essay',
  matchInteraction: 'matching',
  associateInteraction: 'associate',
  gapMatchInteraction: 'gap match',
  orderInteraction: 'ordering',
  hotspotInteraction: 'hotspot',
  selectPointInteraction: 'hotspot',
  positionObjectInteraction: 'hotspot',
  uploadInteraction: 'upload',
  drawingInteraction: 'upload',
  sliderInteraction: 'numeric',
  graphicGapMatchInteraction: 'matching',
  graphicOrderInteraction: 'ordering',
  graphicAssociateInteraction: 'associate',
};

const MANNER_OF: Readonly<Record<string, Manner>> = {
  hottextInteraction: 'words in a text',
  sliderInteraction: 'slider',
  selectPointInteraction: 'pointing',
  positionObjectInteraction: 'pointing',
  graphicGapMatchInteraction: 'places on a picture',
  graphicOrderInteraction: 'places on a picture',
  graphicAssociateInteraction: 'places on a picture',
  drawingInteraction: 'drawing',
};

/** What is answered to; what is only watched, or ends a try, is not. */
export function isAsking(element: XmlElement): boolean {
  const name = nameOf(element);
  return INTERACTION.test(name) && name !== 'mediaInteraction' && name !== 'endAttemptInteraction';
}

export function isInteraction(element: XmlElement): boolean {
  return INTERACTION.test(nameOf(element));
}

/** The interactions of an item that ask something, in their order. */
export function interactionsIn(body: XmlElement | undefined): XmlElement[] {
  return body ? descendants(body).filter(isAsking) : [];
}

/** The manners in which an item asks by these interactions. */
export function askedBy(
  interactions: readonly XmlElement[],
  item: { isMadeAnew: boolean; isAdaptive: boolean },
): Asked | undefined {
  const [only, ...more] = interactions;
  const own = only && more.length === 0 ? MANNER_OF[nameOf(only)] : undefined;
  const by: Manner[] = [
    ...(own ? [own] : []),
    ...(item.isMadeAnew ? (['made anew'] as const) : []),
    ...(item.isAdaptive ? (['several steps'] as const) : []),
  ];
  const range = own === 'slider' && only ? rangeOf(only) : undefined;
  return by.length === 0 ? undefined : { by, ...(range ? { range } : {}) };
}

function rangeOf(slider: XmlElement): Asked['range'] {
  const number = (name: string) => Number(attributeOf(slider, name)?.trim() || Number.NaN);
  const [low, high, step] = [number('lowerBound'), number('upperBound'), number('step')];
  if (!Number.isFinite(low) || !Number.isFinite(high)) return undefined;
  return { low, high, ...(step > 0 ? { step } : {}) };
}
