import { comparableText, defineSetting, text, texts } from './define.ts';

/** What is said of an item, and how it is worked on. */

export const instructions = defineSetting({ label: 'instructions', schema: text, comparable: comparableText });
export const instructorNotes = defineSetting({
  label: 'notes for the instructor',
  schema: text,
  comparable: comparableText,
});
export const submissionFormats = defineSetting({ label: 'ways to hand in', schema: texts });
export const intendedUse = defineSetting({ label: 'intended use', schema: text });
export const description = defineSetting({ label: 'description', schema: text });
export const keywords = defineSetting({ label: 'keywords', schema: texts });
export const starterPost = defineSetting({ label: 'first post', schema: text });
