import { baseName } from '../paths.ts';
import { defineSetting, named, text, texts } from './define.ts';

/** What an item leads to, shows, is opened with or stands for. */

const paths = { schema: texts, files: true, words: (all: string[]) => all.map(baseName).join(', ') };

export const attachments = defineSetting({ label: 'attachments', ...paths });
/** What is attached for those who teach, and never shown to those who learn. */
export const instructorAttachments = defineSetting({ label: 'attachments for instructors', ...paths });
export const embeds = defineSetting({ label: 'files used in the text', ...paths });
/** The title by the identifier of each item that has no page or file of its own. */
export const leads = defineSetting({
  label: 'links to other items',
  schema: named,
  // What is led to bears another identifier once a platform has renumbered it.
  comparable: (titles) => Object.values(titles).sort(),
  words: (titles) => Object.values(titles).join(', '),
});
export const linkTarget = defineSetting({ label: 'opens in', schema: text });
export const customParameters = defineSetting({ label: 'parameters sent to the tool', schema: named });
export const vendor = defineSetting({ label: 'vendor of the tool', schema: text });
export const icon = defineSetting({ label: 'icon', schema: text });
export const parameters = defineSetting({ label: 'address parameters', schema: text });
/** A label by the identifier of each. */
export const standards = defineSetting({ label: 'curriculum standards', schema: named });
/** Identifiers of items. */
export const variants = defineSetting({
  label: 'other versions of it',
  schema: texts,
  comparable: (items) => items.length,
  renamed: (items, name) => items.map(name),
});
export const repository = defineSetting({ label: 'lies in the shared repository', schema: text });
