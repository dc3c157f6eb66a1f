import { changeOwnTexts, type Item } from './kinds/index.ts';
import type { RichText } from './question.ts';

/**
 * The texts of an item that may bear mark-up, each under a name that tells where in the item it stands: `text`,
 * `instructions`, `question q1: prompt`. The body of a page is none of them: it lies in a file, under the name `page`.
 */
export const PAGE_PART = 'page';

/** Puts each text of an item through `change`, and gives the item that comes of it; the item itself stays as it is. */
export function mapTexts(item: Item, change: (part: string, text: RichText) => RichText): Item {
  const changed = changeOwnTexts(item, change);
  const { instructions } = changed.settings;
  if (instructions === undefined) return changed;
  const html = change('instructions', { format: 'html', text: instructions }).text;
  return html === instructions ? changed : { ...changed, settings: { ...changed.settings, instructions: html } };
}

/** The texts of an item, in the order in which they stand. */
export function textsOf(item: Item): { part: string; text: RichText }[] {
  const found: { part: string; text: RichText }[] = [];
  mapTexts(item, (part, text) => {
    found.push({ part, text });
    return text;
  });
  return found;
}
