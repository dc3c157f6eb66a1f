import * as z from 'zod';
import { RichText } from '../../question.ts';
import { common, defineKind, ofText, textBlock } from '../define.ts';

/** A rule that acts by itself: on what it waits stands in its settings, what it says is its text. */
export const automation = defineKind({
  kind: 'automation',
  label: 'automation',
  schema: z.object({ ...common, kind: z.literal('automation'), text: RichText }),
  ...ofText,
  preview: (item) => [textBlock(item)],
});
