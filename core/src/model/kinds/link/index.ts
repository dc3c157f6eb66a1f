import * as z from 'zod';
import { common, defineKind } from '../define.ts';

/** An address on the web. */
export const link = defineKind({
  kind: 'link',
  label: 'web link',
  schema: z.object({ ...common, kind: z.literal('link'), url: z.string() }),
  content: true,
  fingerprint: ({ url }) => url,
  asPage: ({ url }) => [{ is: 'address', url, words: url }],
});
