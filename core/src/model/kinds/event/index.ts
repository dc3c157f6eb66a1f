import * as z from 'zod';
import { RichText } from '../../question.ts';
import { common, defineKind, ofText, textBlock } from '../define.ts';

/** Something that takes place at a time. */
export const event = defineKind({
  kind: 'event',
  label: 'event',
  schema: z.object({ ...common, kind: z.literal('event'), text: RichText }),
  ...ofText,
  preview: (item) => [textBlock(item)],
});
