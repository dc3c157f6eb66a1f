import * as z from 'zod';
import { RichText } from '../../question.ts';
import { common, defineKind, ofText, textBlock } from '../define.ts';

/** Steps that a learner ticks off. */
export const checklist = defineKind({
  kind: 'checklist',
  label: 'checklist',
  schema: z.object({ ...common, kind: z.literal('checklist'), text: RichText, steps: z.array(z.string()) }),
  texts: ofText.texts,
  fingerprint: ({ text, steps }, readable) => [readable(text), ...steps].join('\n'),
  preview: (item) => [textBlock(item), { is: 'steps', steps: item.steps }],
  fromRows: (rows) => ({ steps: rows.map(([step = '']) => step) }),
});
