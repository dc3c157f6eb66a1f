import * as z from 'zod';
import { RichText } from '../../question.ts';
import { common, defineKind, ofText, textBlock } from '../define.ts';

/** A text that is put up on a day. */
export const announcement = defineKind({
  kind: 'announcement',
  label: 'announcement',
  schema: z.object({ ...common, kind: z.literal('announcement'), text: RichText }),
  ...ofText,
  preview: (item) => [textBlock(item)],
});
