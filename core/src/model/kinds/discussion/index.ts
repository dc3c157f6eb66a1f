import * as z from 'zod';
import { RichText } from '../../question.ts';
import { common, defineKind, ofText, textBlock } from '../define.ts';

/** A question to talk about. */
export const discussion = defineKind({
  kind: 'discussion',
  label: 'discussion',
  schema: z.object({ ...common, kind: z.literal('discussion'), text: RichText }),
  content: true,
  ledTo: true,
  ...ofText,
  asPage: (item) => [textBlock(item)],
});
