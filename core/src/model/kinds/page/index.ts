import * as z from 'zod';
import { common, defineKind } from '../define.ts';

/** A text to read, in a file of its own. */
export const page = defineKind({
  kind: 'page',
  label: 'page',
  schema: z.object({ ...common, kind: z.literal('page'), file: z.string() }),
  content: true,
  files: ({ file }) => [file],
  body: ({ file }) => file,
  fingerprint: ({ file }) => file,
});
