import { fold, plainText } from '../markup/index.ts';
import type { RichText } from '../model/index.ts';

/** A text as a person reads it, on one line a paragraph. */
export function readable(text: RichText): string {
  return text.format === 'html' ? plainText(text.text) : fold(text.text);
}
