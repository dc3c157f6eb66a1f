import * as z from 'zod';
import { common, defineKind, type Block } from '../define.ts';

/** A program of another site, started with what the course gives it. */
export const tool = defineKind({
  kind: 'tool',
  label: 'external tool',
  schema: z.object({ ...common, kind: z.literal('tool'), url: z.string(), description: z.string() }),
  content: true,
  ledTo: true,
  texts: (item, change) => ({
    ...item,
    description: change('description', { format: 'html', text: item.description }).text,
  }),
  fingerprint: ({ url, description }, readable) => `${url}\n${readable({ format: 'html', text: description })}`,
  preview: (item) => [{ is: 'text', text: { format: 'plain', text: item.url } }, about(item)],
  asPage: (item) => [about(item), { is: 'address', url: item.url, words: item.title }],
});

function about({ description }: { description: string }): Block {
  return { is: 'text', text: { format: 'html', text: description } };
}
