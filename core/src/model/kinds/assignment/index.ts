import * as z from 'zod';
import { RichText } from '../../question.ts';
import { common, defineKind, ofText, textBlock } from '../define.ts';

/** A task, and what is handed in for it. */
export const assignment = defineKind({
  kind: 'assignment',
  label: 'assignment',
  schema: z.object({ ...common, kind: z.literal('assignment'), text: RichText }),
  content: true,
  ledTo: true,
  ...ofText,
  asPage: (item) => [textBlock(item)],
});
