import * as z from 'zod';
import { RichText } from '../../question.ts';
import { common, defineKind, ofText } from '../define.ts';
import { gradebookBlocks } from '../gradebook.ts';

/** Columns of the gradebook that count together; by what rules stands in its settings. */
export const category = defineKind({
  kind: 'category',
  label: 'grade category',
  schema: z.object({ ...common, kind: z.literal('category'), text: RichText }),
  ...ofText,
  preview: gradebookBlocks,
});
