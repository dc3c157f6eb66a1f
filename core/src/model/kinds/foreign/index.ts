import * as z from 'zod';
import { common, defineKind } from '../define.ts';

/** A part of the package that the reader does not understand: kept as it is, carried where it can be. */
export const foreign = defineKind({
  kind: 'foreign',
  label: 'foreign part',
  schema: z.object({ ...common, kind: z.literal('foreign'), type: z.string(), files: z.array(z.string()) }),
  content: true,
  files: (item) => item.files,
  fingerprint: ({ type, files }) => `${type}\n${files.join('\n')}`,
});
