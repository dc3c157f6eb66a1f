import fc from 'fast-check';
import { fold } from '../markup/index.ts';
import type { RichText } from '../model/index.ts';

/** Generated words and texts. */

// Letters of several scripts and everything that mark-up and spreadsheets trip over.
const letter = fc.constantFrom(...'abcdefghij ŁŚżàêß“”–&<>"\'=+@/;عمΔ😀');
export const words = fc
  .array(letter, { minLength: 1, maxLength: 24 })
  .map((letters) => fold(letters.join('')))
  .filter((text) => text !== '');

export const escape = (text: string) => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;');
export const rich: fc.Arbitrary<RichText> = fc.oneof(
  words.map((text): RichText => ({ format: 'plain', text })),
  words.map((text): RichText => ({ format: 'html', text: `<p>${escape(text)}</p>` })),
);
