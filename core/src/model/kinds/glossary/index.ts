import * as z from 'zod';
import { RichText } from '../../question.ts';
import { common, defineKind, ofText, textBlock } from '../define.ts';

/** A word of the subject, what it means, and package paths of pictures that show it. */
export const GlossaryEntry = z.object({ term: z.string(), definition: RichText, pictures: z.array(z.string()) });
export type GlossaryEntry = z.infer<typeof GlossaryEntry>;

/** The words of a subject. */
export const glossary = defineKind({
  kind: 'glossary',
  label: 'glossary',
  schema: z.object({ ...common, kind: z.literal('glossary'), text: RichText, entries: z.array(GlossaryEntry) }),
  content: true,
  ledTo: true,
  texts: (item, change) => ({
    ...ofText.texts(item, change),
    entries: item.entries.map((e) => ({ ...e, definition: change(`entry ${e.term}`, e.definition) })),
  }),
  shows: ({ entries }) => entries.flatMap((e) => e.pictures),
  files: ({ entries }) => entries.flatMap((e) => e.pictures),
  fingerprint: ({ text, entries }, readable) =>
    [readable(text), ...entries.map((e) => `${e.term}\t${readable(e.definition)}`)].join('\n'),
  fromRows: (rows) => ({
    entries: rows.map(([term = '', text = '', ...pictures]) => ({
      term,
      definition: { format: 'html', text },
      pictures: pictures.filter((path) => path !== ''),
    })),
  }),
  asPage: (item) => [textBlock(item), { is: 'terms', entries: item.entries }],
});
