import type { Item } from './course.ts';
import { mapQuestionTexts, type RichText } from './question.ts';

/**
 * The texts of an item that may bear mark-up, each under a name that tells where in the item it stands: `text`,
 * `instructions`, `question q1: prompt`. The body of a page is none of them: it lies in a file, under the name `page`.
 */
export const PAGE_PART = 'page';

/** Puts each text of an item through `change`, and gives the item that comes of it; the item itself stays as it is. */
export function mapTexts(item: Item, change: (part: string, text: RichText) => RichText): Item {
  const changed = ownTexts(item, change);
  const { instructions } = changed.settings;
  if (typeof instructions !== 'string') return changed;
  const html = change('instructions', { format: 'html', text: instructions }).text;
  return html === instructions ? changed : { ...changed, settings: { ...changed.settings, instructions: html } };
}

function ownTexts(item: Item, change: (part: string, text: RichText) => RichText): Item {
  switch (item.kind) {
    case 'page':
    case 'file':
    case 'link':
    case 'foreign':
      return item;
    case 'tool': {
      const description = change('description', { format: 'html', text: item.description }).text;
      return { ...item, description };
    }
    case 'quiz':
    case 'bank':
      return {
        ...item,
        questions: item.questions.map((q) =>
          mapQuestionTexts(q, (part, text) => change(`question ${q.id}: ${part}`, text)),
        ),
      };
    default:
      return { ...item, text: change('text', item.text) };
  }
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
