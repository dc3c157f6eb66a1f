import { changeOwnTexts, type Item } from './kinds/index.ts';
import { mapSections } from './settings/sections.ts';
import type { Settings } from './settings/index.ts';
import type { RichText } from './question.ts';

/**
 * The texts of an item that may bear mark-up, each under a name that tells where in the item it stands: `text`,
 * `instructions`, `section s1`, `question q1: prompt`. The body of a page is none of them: it lies in a file, under the name `page`.
 */
export const PAGE_PART = 'page';

/** Puts each text of an item through `change`, and gives the item that comes of it; the item itself stays as it is. */
export function mapTexts<T extends Item>(item: T, change: (part: string, text: RichText) => RichText): T {
  const changed = changeOwnTexts(item, change) as T;
  const { instructions, sections } = changed.settings;
  if (instructions === undefined && sections === undefined) return changed;
  const html = (part: string, text: string) => change(part, { format: 'html', text }).text;
  const settings: Settings = { ...changed.settings };
  if (instructions !== undefined) settings.instructions = html('instructions', instructions);
  if (sections) settings.sections = mapSections(sections, { text: (text, id) => html(`section ${id}`, text) });
  return { ...changed, settings };
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
