import * as z from 'zod';
import { RichText } from '../../question.ts';
import { common, defineKind, ofText } from '../define.ts';
import { gradebookBlocks } from '../gradebook.ts';

/** A column of the gradebook; what it counts stands in its settings. */
export const column = defineKind({
  kind: 'column',
  label: 'grade column',
  schema: z.object({ ...common, kind: z.literal('column'), text: RichText }),
  ...ofText,
  preview: gradebookBlocks,
});
