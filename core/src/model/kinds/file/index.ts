import * as z from 'zod';
import { common, defineKind } from '../define.ts';

/** A file to be had. */
export const file = defineKind({
  kind: 'file',
  label: 'file',
  schema: z.object({ ...common, kind: z.literal('file'), file: z.string() }),
  content: true,
  files: (item) => [item.file],
  body: (item) => item.file,
  fingerprint: (item) => item.file,
});
